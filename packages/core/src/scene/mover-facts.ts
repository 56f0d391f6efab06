import type { Point } from '../geometry/matrix.js';
import { commonMotion, type CommonMotion } from './common-motion.js';
import { backBy, slideOf } from './place.js';
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

/** What speaks for holding a thing, or against. */
export interface Evidence {
  /** The part of the picture that lies between its outermost tracks. */
  readonly reach: number;
  /** The share of the frames on which it is seen. */
  readonly presence: number;
  /** -1 where it goes before all others, to 1 where it lies behind them: see `behindOthers`. */
  readonly behind: number;
  /** How far its middle slides in the picture, shake aside, in pixels. */
  readonly slide: number;
}

/** What some tracks are like, as one thing. */
export interface Facts extends Evidence {
  readonly samples: number;
  readonly frames: number;
  readonly spread: number;
  readonly rim: number;
  readonly overlay: boolean;
  /** How much it looks like the surroundings, once it has been {@link weighed} against the others; 0 until then. */
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
  let [looked, seen, cellsSeen, rimSeen, samples, reached] = [0, 0, 0, 0, 0, 0];
  const rimCells = 2 * (COLUMNS + ROWS) - 4;
  for (let f = from; f <= to; f += every) {
    const cells = new Uint8Array(COLUMNS * ROWS);
    let here = 0;
    const [xs, ys]: [number[], number[]] = [[], []];
    for (const k of members) {
      const at = sampleIndex(tracks, k, f);
      if (at < 0) continue;
      here++;
      xs.push(tracks.x[at]);
      ys.push(tracks.y[at]);
      const i = Math.min(COLUMNS - 1, Math.max(0, Math.floor((tracks.x[at] / width) * COLUMNS)));
      const j = Math.min(ROWS - 1, Math.max(0, Math.floor((tracks.y[at] / height) * ROWS)));
      cells[j * COLUMNS + i] = 1;
    }
    looked++;
    samples += here * every;
    if (here < 2) continue;
    seen++;
    reached += (between(xs) / width) * (between(ys) / height);
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
    ...{ samples, spread, rim, overlay, presence, frames: Math.round(presence * (to - from + 1)) },
    reach: seen ? reached / seen : 0,
    behind: 0,
    slide: slideOf({ motion, rest: middleOf(tracks, members, motion) }),
    worth: 0,
  };
}

/** The part of sorted values at either end that may be strays. */
const STRAYS = 0.04;

function between(values: number[]): number {
  values.sort((a, b) => a - b);
  const cut = Math.floor(STRAYS * values.length);
  return values[values.length - 1 - cut] - values[cut];
}

/** What each kind of evidence for being the surroundings counts: fitted by hand on half of the clips of `bench -- scene hold`. */
const WEIGHTS = { spread: 0.35, rim: 0.35, reach: 0.3, behind: 1, slides: 0.8, overlay: 0.01 };
/** Less than this part of the picture's width nothing slides. */
const STANDS = 0.002;

/**
 * How much things of a part look like what a person would hold, by what speaks for it: that it is there throughout, over
 * much of the picture, round its rim and all about the others; that it lies behind them; and that it slides little in the
 * picture, for the operator aims by what stands.
 *
 * @param behind  of each thing -1, in front of all others, to 1: see `behindOthers`
 */
export function weighed(all: readonly Facts[], behind: ArrayLike<number>, width: number): number[] {
  const slides = all.map(({ slide }) => Math.max(STANDS * width, slide));
  const moving = slides.filter((_, k) => !all[k].overlay && all[k].presence > 0.5);
  const least = Math.min(...(moving.length > 0 ? moving : slides));
  return all.map(({ presence, spread, rim, reach, overlay }, k) => {
    const w = WEIGHTS;
    const lies = w.spread * spread + w.rim * rim + w.reach * reach;
    const stands = 1 / (1 + w.slides * Math.log(Math.max(1, slides[k] / least)));
    return presence * lies * stands * (1 + w.behind * behind[k]) * (overlay ? w.overlay : 1);
  });
}

/** Where the middle of some tracks rests by their motion: where most of them are seen. */
export function middleOf(tracks: SceneTracks, members: readonly number[], motion: CommonMotion): Point {
  let best = 0;
  motion.support.forEach((n, f) => n > motion.support[best] && (best = f));
  let [x, y, n] = [0, 0, 0];
  for (const k of members) {
    const at = sampleIndex(tracks, k, motion.from + best);
    if (at < 0) continue;
    x += tracks.x[at];
    y += tracks.y[at];
    n++;
  }
  return backBy(motion, best, { x: x / Math.max(1, n), y: y / Math.max(1, n) });
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
