import { execFile } from 'node:child_process';
import { existsSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Point } from '@lurn/core/geometry';

/** Native OpenCV on the same clips; needs Debian's python3-opencv. */
const PEER = process.env.LURN_PEER ?? '../shared/peers/opencv.py';
const PYTHON = '/usr/bin/python3';
const run = promisify(execFile);

export interface Followed {
  /** Microseconds a spot and frame. */
  readonly us: number;
  /** Where each point was found, by frame. */
  readonly places: readonly { readonly point: number; readonly frame: number; readonly at: Point }[];
}

/** Points followed frame by frame by native pyramidal Lucas-Kanade; null where that is not here. */
export async function followedByPeer(
  file: string,
  starts: readonly Point[],
  folder: string,
): Promise<Followed | null> {
  if (!existsSync(PEER) || !existsSync(PYTHON)) return null;
  const [marks, out] = [join(folder, 'peer.json'), join(folder, 'peer.csv')];
  await writeFile(marks, JSON.stringify({ spots: starts.map((p, i) => ({ name: String(i), ...p })) }));
  const said = await run(PYTHON, [PEER, 'lk', file, marks, out]).catch(() => null);
  if (!said) return null;
  const told = JSON.parse(said.stdout.trim().split('\n').pop()!) as Record<string, number>;
  const rows = (await readFile(out, 'utf8')).trim().split('\n').slice(1);
  const places = rows
    .map((row) => row.split(','))
    .filter(([, frame]) => frame !== '0')
    .map(([name, frame, x, y]) => ({
      ...{ point: Number(name), frame: Number(frame), at: { x: Number(x), y: Number(y) } },
    }));
  return { us: told.us_per_spot_and_frame, places };
}
