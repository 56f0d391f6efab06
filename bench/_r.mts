import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { ffmpegPath, indexClip } from '@lurn/engine';
import { speedClip } from './speed-clips.js';
const run = promisify(execFile);
const [w, h, frames] = process.argv.slice(2).map(Number);
const { file } = await speedClip(w, h, frames);
const ff = await ffmpegPath();
const code = ['-c:v', 'libx264', '-preset', 'medium', '-crf', '18'];
const sec = async (f: () => Promise<unknown>) => { const t = performance.now(); const c0 = process.resourceUsage(); await f(); return (performance.now() - t) / 1000; };
const tool = (...a: string[]) => run(ff, ['-y', '-v', 'error', ...a]);
for (let i = 0; i < 4; i++) {
  const bare = await sec(() => tool('-i', file, ...code, '/tmp/plain.mp4'));
  const bare4 = await sec(() => tool('-i', file, ...code, '-threads', '4', '/tmp/plain.mp4'));
  const { stdout } = await run('npx', ['tsx', 'bench/render-child.ts', file, '/tmp/out.mp4', String(frames)]);
  const r = JSON.parse(stdout).seconds;
  const again = await sec(() => tool('-i', '/tmp/out.mp4', ...code, '/tmp/plain2.mp4'));
  const dec = await sec(() => tool('-i', file, '-f', 'null', '-'));
  console.log({ bare, bare4, r, again, dec, ratio: r / bare });
}
