import type { WholeScene } from './movers.js';
import { partsOf, trackCount, trackEnd, type SceneTracks } from './scene-tracks.js';

/** One mover in front of another. */
export interface Covering {
  /** Places in the scene's list. */
  readonly front: number;
  readonly behind: number;
  /** How many features of the one behind came or went beside the one in front, and the other way round. */
  readonly votes: number;
  readonly against: number;
}

/** What comes or goes within this part of the picture's width of another mover's feature was covered or bared by it. */
const BESIDE = 0.045;
/** Nearer than this to the picture's rim, in the same part, things come and go by themselves. */
const RIM = 0.06;
/** Frames that lie at the beginning and at the end of a part, where everything comes and goes. */
const ENDS = 4;
/** Fewer votes than this, or fewer than so many times those against, tell nothing. */
const FEWEST = 5;
const TIMES = 1.6;

/**
 * Which movers pass in front of which: the features of the one behind end, or begin, beside those of the one in front,
 * as a surface is covered and bared; the features of the one in front go on. One vote for each such end, against those
 * of the one in front beside the other.
 *
 * Cost: ends x features there.
 */
export function coverings(
  { tracks, moverOf, movers }: WholeScene,
  size: { readonly width: number; readonly height: number },
): Covering[] {
  const n = movers.length;
  const votes = new Float64Array(n * n);
  const present = byFrame(tracks);
  const beside = BESIDE * size.width;
  const rim = RIM * size.width;
  const atRim = (x: number, y: number) => x < rim || y < rim || x > size.width - rim || y > size.height - rim;
  for (const { from, to } of partsOf(tracks)) {
    for (let k = 0; k < trackCount(tracks); k++) {
      const own = moverOf[k];
      if (own < 0 || tracks.start[k] < from || tracks.start[k] > to) continue;
      const last = trackEnd(tracks, k) - 1;
      for (const [frame, open] of [
        [tracks.start[k], tracks.start[k] > from + ENDS],
        [last, last < to - ENDS],
      ] as const) {
        const at = tracks.first[k] + frame - tracks.start[k];
        const [x, y] = [tracks.x[at], tracks.y[at]];
        if (!open || atRim(x, y)) continue;
        const other = nearest(tracks, present[frame], moverOf, own, frame, x, y, beside);
        if (other >= 0) votes[other * n + own]++;
      }
    }
  }
  const out: Covering[] = [];
  for (let front = 0; front < n; front++)
    for (let behind = 0; behind < n; behind++) {
      const [own, against] = [votes[front * n + behind], votes[behind * n + front]];
      if (own >= FEWEST && own >= TIMES * against) out.push({ front, behind, votes: own, against });
    }
  return out;
}

/** The mover of the nearest feature of another mover that is seen there; -1 where none is near. */
function nearest(
  tracks: SceneTracks,
  there: readonly number[],
  moverOf: Int16Array,
  own: number,
  frame: number,
  x: number,
  y: number,
  within: number,
): number {
  let [best, least] = [-1, within * within];
  for (const k of there) {
    const m = moverOf[k];
    const at = tracks.first[k] + frame - tracks.start[k];
    if (m < 0 || m === own || tracks.confidence[at] === 0) continue;
    const d = (tracks.x[at] - x) ** 2 + (tracks.y[at] - y) ** 2;
    if (d < least) [best, least] = [m, d];
  }
  return best;
}

function byFrame(tracks: SceneTracks): number[][] {
  const there: number[][] = Array.from({ length: tracks.frames }, () => []);
  for (let k = 0; k < trackCount(tracks); k++)
    for (let f = tracks.start[k]; f < trackEnd(tracks, k); f++) there[f].push(k);
  return there;
}
