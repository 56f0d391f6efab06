import { execFileSync, spawn } from 'node:child_process';
import { setTimeout as wait } from 'node:timers/promises';
import { ffmpegPath, startTool } from './tools.js';

/** Processes with a word among their arguments. */
function running(word: string): number {
  const list = execFileSync('ps', ['-eo', 'args'], { encoding: 'utf8' });
  return list
    .split('\n')
    .filter((line) => line.includes(word) && line.includes('ffmpeg') && !line.includes('ps -eo')).length;
}

async function until(holds: () => boolean): Promise<boolean> {
  for (let round = 0; round < 200 && !holds(); round++) await wait(25);
  return holds();
}

/** Goes on until it is ended. */
const endless = (word: string) => [
  ...['-v', 'error', '-re', '-f', 'lavfi', '-i', 'testsrc2=size=64x64:rate=5', '-metadata', `title=${word}`],
  ...['-f', 'null', '-'],
];

describe('a tool', () => {
  it('ends when it is told to, and its exit is told', async () => {
    const word = `lurn-kill-${process.pid}`;
    const tool = await startTool(ffmpegPath(), endless(word));
    expect(await until(() => running(word) > 0)).toBe(true);
    tool.kill();
    expect(await tool.ended).toBeNull();
    expect(await until(() => running(word) === 0)).toBe(true);
    const failing = await startTool(ffmpegPath(), ['-v', 'error', '-i', '/no such file', '-f', 'null', '-']);
    expect(await failing.ended).toBeGreaterThan(0);
    expect(failing.errorText).toMatch(/No such file/);
  });

  it('ends when the process that started it is killed', async () => {
    const word = `lurn-orphan-${process.pid}`;
    const execArgv = ['--conditions=source', '--import', 'tsx'];
    const script = `
      const { startTool, ffmpegPath } = await import(${JSON.stringify(`${__dirname}/tools.ts`)});
      await startTool(ffmpegPath(), ${JSON.stringify(endless(word))});
      setInterval(() => undefined, 1000);`;
    const parent = spawn(process.execPath, [...execArgv, '--input-type=module', '-e', script], {
      stdio: 'inherit',
    });
    expect(await until(() => running(word) > 0)).toBe(true);
    parent.kill('SIGKILL');
    expect(await until(() => running(word) === 0)).toBe(true);
  });
});
