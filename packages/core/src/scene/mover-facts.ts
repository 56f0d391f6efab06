import { commonMotion, type CommonMotion } from './common-motion.js';
import { sampleIndex, type SceneTracks } from './scene-tracks.js';

/** Movers with fewer tracks than this are left out. */
export const FEWEST = 6;
/** Cells of the picture. */
const [COLUMNS, ROWS] = [12, 7];
/** What has moved less than this, in pixels, has stood in the picture ... */
const STOOD = 0.15;
/** ... and is no more than this of it, when it is something laid over. */
const LAID_OVER = 0.2;

/** Tracks are judged on this many common frames at the least: eight, or three of those that are looked at. */
export const commonFor = (step: number) => Math.max(3, Math.floor(8 / step));

/** What some tracks are like, as one thing. */
export interface Facts {
  readonly samples: number;
  readonly frames: number;
  readonly spread: number;
  readonly rim: number;
  readonly overlay: boolean;
  /** How much it looks like the surroundings. */
  readonly worth: number;
}

/** What some tracks are like on some frames. */
export function factsOf(
  tracks: SceneTracks,
  members: readonly number[],
  from: number,
  to: number,
  { width, height }: { width: number; height: number },
): Facts {
  const every = Math.max(1, Math.floor((to - from + 1) / 60));
  let [looked, seen, cellsSeen, rimSeen, samples] = [0, 0, 0, 0, 0];
  const rimCells = 2 * (COLUMNS + ROWS) - 4;
  for (let f = from; f <= to; f += every) {
    const cells = new Uint8Array(COLUMNS * ROWS);
    let here = 0;
    for (const k of members) {
      const at = sampleIndex(tracks, k, f);
      if (at < 0) continue;
      here++;
      const i = Math.min(COLUMNS - 1, Math.max(0, Math.floor((tracks.x[at] / width) * COLUMNS)));
      const j = Math.min(ROWS - 1, Math.max(0, Math.floor((tracks.y[at] / height) * ROWS)));
      cells[j * COLUMNS + i] = 1;
    }
    looked++;
    samples += here * every;
    if (here < 2) continue;
    seen++;
    cells.forEach((c, p) => {
      const [i, j] = [p % COLUMNS, Math.floor(p / COLUMNS)];
      cellsSeen += c;
      if (i === 0 || j === 0 || i === COLUMNS - 1 || j === ROWS - 1) rimSeen += c;
    });
  }
  const spread = seen ? cellsSeen / seen / (COLUMNS * ROWS) : 0;
  const rim = seen ? rimSeen / seen / rimCells : 0;
  const presence = looked ? seen / looked : 0;
  const motion = commonMotion(tracks, members, from, to);
  const overlay = spread < LAID_OVER && moved(motion, width, height) < STOOD;
  return {
    ...{ samples, spread, rim, overlay, frames: Math.round(presence * (to - from + 1)) },
    worth: presence * (0.5 * spread + 0.5 * rim) * (overlay ? 0.01 : 1),
  };
}

/** The farthest that the middle of the picture is taken by a motion, in pixels. */
function moved({ ax, ay, tx, ty }: CommonMotion, width: number, height: number): number {
  const at = (f: number) => [
    (ax[f] * width - ay[f] * height) / 2 + tx[f],
    (ax[f] * height + ay[f] * width) / 2 + ty[f],
  ];
  const [x0, y0] = at(0);
  let most = 0;
  for (let f = 1; f < ax.length; f++) {
    const [x, y] = at(f);
    most = Math.max(most, Math.abs(x - x0), Math.abs(y - y0));
  }
  return most;
}
