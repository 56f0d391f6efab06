import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { renameSync } from 'node:fs';
import { ffmpegPath } from '@lurn/engine';

/** Writes grey pictures as an H.264 file of the narrow range; what is there already stays until it is whole. */
export async function encodeGrey(
  file: string,
  { width, height, fps, crf }: { width: number; height: number; fps: number; crf: number },
  pictures: Iterable<Uint8Array>,
): Promise<void> {
  const part = `${file}.part.mp4`;
  const raw = [
    '-f',
    'rawvideo',
    '-pix_fmt',
    'gray',
    '-s',
    `${width}x${height}`,
    '-r',
    String(fps),
    '-i',
    '-',
  ];
  const code = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', String(crf), '-pix_fmt', 'yuv420p'];
  const tool = spawn(await ffmpegPath(), ['-y', '-v', 'error', ...raw, ...code, '-color_range', 'tv', part], {
    stdio: ['pipe', 'inherit', 'inherit'],
  });
  for (const picture of pictures) if (!tool.stdin.write(picture)) await once(tool.stdin, 'drain');
  tool.stdin.end();
  await once(tool, 'close');
  renameSync(part, file);
}
