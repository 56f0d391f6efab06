import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { asFile, runTool, startTool } from './tools.js';

const shipped = (name: string) => {
  const { path } = createRequire(__filename)(`@${name}-installer/${name}`) as { path: string };
  return Promise.resolve(path);
};

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-tools-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

describe('running the tools', () => {
  it('reads a transport stream with the builds that ship, whatever conversion modules the machine has', async () => {
    const file = join(folder, 'service.ts');
    const test = ['-f', 'lavfi', '-i', 'testsrc2=size=64x48:rate=25:duration=0.4', '-c:v', 'mpeg2video'];
    const made = await runTool(shipped('ffmpeg'), ['-v', 'error', ...test, file], { seconds: 60 });
    expect(made.stderr).toBe('');
    const read = await runTool(shipped('ffprobe'), ['-v', 'error', '-show_streams', asFile(file)], {
      seconds: 60,
    });
    expect(read.status).toBe(0);
    expect(read.stdout).toContain('codec_name=mpeg2video');
  });

  it('tells a crash apart from a file that cannot be read', async () => {
    const script = join(folder, 'crash.mjs');
    await writeFile(script, 'process.kill(process.pid, "SIGSEGV");');
    const run = runTool(Promise.resolve(process.execPath), [script], { seconds: 60 });
    await expect(run).rejects.toMatchObject({ code: 'tool-crashed', message: expect.stringMatching(/PATH/) });
  });

  it('stops what takes too long or prints too much, and what is told to stop', async () => {
    const node = Promise.resolve(process.execPath);
    const forever = ['-e', 'setInterval(() => undefined, 1000)'];
    await expect(runTool(node, forever, { seconds: 0.2 })).rejects.toMatchObject({ code: 'too-slow' });
    const much = ['-e', 'process.stdout.write("x".repeat(5000)); setInterval(() => undefined, 1000)'];
    await expect(runTool(node, much, { seconds: 30, bytes: 1000 })).rejects.toMatchObject({
      code: 'too-much-output',
    });
    const control = new AbortController();
    const run = runTool(node, forever, { seconds: 30, signal: control.signal });
    control.abort();
    await expect(run).rejects.toMatchObject({ code: 'stopped' });
  });

  it('names a full disk, and else the last thing that the tool said', async () => {
    const says = (text: string) =>
      startTool(Promise.resolve(process.execPath), [
        '-e',
        `process.stderr.write(${JSON.stringify(text)}); process.exit(1)`,
      ]).then((tool) => tool.succeed('render-failed', 'Rendering'));
    await expect(says('av_write: No space left on device\n')).rejects.toMatchObject({ code: 'disk-full' });
    await expect(says('[mp4 @ 0x1] Codec not allowed\nConversion failed!\n')).rejects.toMatchObject({
      code: 'render-failed',
      message: 'Rendering failed: Codec not allowed.',
    });
  });
});
