import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { LurnError } from '@lurn/core';
import type { LightCode } from '@lurn/core/picture';
import type { Format } from '../formats/index.js';
import { toneFilter } from '../tone.js';
import { asFile, ffmpegPath, ffprobePath, runTool } from '../tools.js';

/** How far before a file's end it is looked for its last picture, in seconds. */
const TAIL = 1;

/** How a file says that its light is coded; nothing where it does not, or cannot be read yet. */
async function lightOf(file: string): Promise<LightCode> {
  const entries = 'stream=color_transfer,color_primaries';
  const args = [
    '-v',
    'error',
    '-select_streams',
    'v:0',
    '-show_entries',
    entries,
    '-of',
    'json',
    asFile(file),
  ];
  const { stdout } = await runTool(ffprobePath(), args, { seconds: 30 });
  const [stream] = (JSON.parse(stdout.toString()) as { streams?: Record<string, string>[] }).streams ?? [];
  return { transfer: stream?.color_transfer, primaries: stream?.color_primaries };
}

/**
 * The last picture of a file, or of a folder of pictures, as a JPEG, 480 pixels wide at the most.
 *
 * @throws LurnError `not-ready` where there is none that can be read
 */
export async function lastPictureOf(path: string, format: Format): Promise<Buffer> {
  const file = format.pictures ? join(path, (await readdir(path).catch(() => [])).sort().pop() ?? '') : path;
  const folder = await mkdtemp(join(tmpdir(), 'lurn-last-'));
  const out = join(folder, 'last.jpg');
  try {
    const from = format.pictures ? [] : ['-sseof', String(-TAIL)];
    await runTool(
      ffmpegPath(),
      [
        ...['-y', '-v', 'error', ...from, '-i', asFile(file), '-map', '0:v:0'],
        ...[
          '-vf',
          `scale='min(480,iw*sar)':-2${await toneFilter(await lightOf(file), folder)},setsar=1`,
          '-q:v',
          '4',
          '-f',
          'image2',
          '-update',
          '1',
          asFile(out),
        ],
      ],
      { seconds: 30 },
    );
    return await readFile(out);
  } catch {
    throw new LurnError('not-ready', 'No picture of this render can be shown yet.');
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
