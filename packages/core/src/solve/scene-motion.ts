import { invert, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import {
  decomposeSimilarity,
  NO_MOTION,
  unwrapAngles,
  type SimilarityParts,
} from '../geometry/similarity.js';
import { membersOf, type WholeScene } from '../scene/movers.js';
import { partsOf, sampleIndex, trackEnd, type SceneTracks } from '../scene/scene-tracks.js';
import { bridgeGaps } from './bridge.js';
import { solveJointly } from './joint.js';
import type { Motion, Support } from './motion.js';
import { anchorFrame, type Observations } from './observations.js';
import type { Fits } from './scene-points.js';

/**
 * The motion of a mover, solved from its tracks as from so many spots, each part of the clip by itself: M of a part is
 * told against the reference frame where that lies in it, else against the part's first frame.
 *
 * @param mover  place in the scene's list
 * @param size   of the picture
 * @returns null where none of its tracks tells of any frame
 */
export function sceneMotion(
  { tracks, moverOf }: WholeScene,
  mover: number,
  ref: number,
  { width, height, pixelAspect = 1 }: { width: number; height: number; pixelAspect?: number },
): Motion<'similarity'> | null {
  const pivot = { x: width / 2, y: height / 2 };
  const parts: SimilarityParts[] = Array.from({ length: tracks.frames }, () => NO_MOTION);
  const support: Support[] = Array.from({ length: tracks.frames }, () => 'none');
  const residual = new Float64Array(tracks.frames).fill(NaN);
  let told = false;
  for (const { from, to } of partsOf(tracks)) {
    const members = membersOf({ tracks, moverOf }, mover, { from, to });
    const seen = observeTracks(tracks, enoughOf(tracks, members, from, to), from, to, pixelAspect);
    const own = ref >= from && ref <= to ? ref - from : 0;
    const anchor = anchorFrame(seen, own);
    if (anchor === null) continue;
    told = true;
    const { fits, points, weight } = solveJointly(seen, anchor, true);
    partsFrom(seen, fits, pivot, own).forEach((p, f) => {
      parts[from + f] = p;
      support[from + f] = fits.linked[f] === 2 ? 'full' : fits.linked[f] === 1 ? 'position' : 'none';
    });
    for (let f = 0; f < seen.frames; f++) {
      let [sum, w] = [0, 0];
      for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
        const [px, py] = [points.x[seen.spot[k]], points.y[seen.spot[k]]];
        if (Number.isNaN(px)) continue;
        const ex = fits.ax[f] * px - fits.ay[f] * py + fits.tx[f] - seen.x[k];
        const ey = fits.ax[f] * py + fits.ay[f] * px + fits.ty[f] - seen.y[k];
        sum += weight[k] * (ex * ex + ey * ey);
        w += weight[k];
      }
      if (w > 0) residual[from + f] = Math.sqrt(sum / w);
    }
  }
  if (!told) return null;
  return { model: 'similarity', ref, pivot, pixelAspect, parts, support, byId: {}, residual };
}

/** More tracks than this at a time make a motion no more exact than what disturbs them all. */
const ENOUGH = 180;

/** The longest of some tracks, until every frame has enough of them. */
function enoughOf(tracks: SceneTracks, members: readonly number[], from: number, to: number): number[] {
  if (members.length <= ENOUGH) return [...members];
  const length = (k: number) => trackEnd(tracks, k) - tracks.start[k];
  const there = new Int32Array(to - from + 1);
  return [...members]
    .sort((a, b) => length(b) - length(a))
    .filter((k) => {
      const [begin, end] = [Math.max(from, tracks.start[k]), Math.min(to + 1, trackEnd(tracks, k))];
      let wanted = false;
      for (let f = begin; f < end && !wanted; f++) wanted = there[f - from] < ENOUGH;
      for (let f = begin; wanted && f < end; f++) there[f - from]++;
      return wanted;
    });
}

/** The samples of some tracks on some frames. */
export function observeTracks(
  tracks: SceneTracks,
  members: readonly number[],
  from: number,
  to: number,
  pixelAspect: number,
): Observations {
  const frames = to - from + 1;
  const first = new Int32Array(frames + 1);
  const each = (visit: (m: number, f: number, at: number) => void) =>
    members.forEach((k, m) => {
      const end = Math.min(to + 1, trackEnd(tracks, k));
      for (let f = Math.max(from, tracks.start[k]); f < end; f++) {
        const at = sampleIndex(tracks, k, f);
        if (at >= 0) visit(m, f - from, at);
      }
    });
  let [sumX, sumY, count] = [0, 0, 0];
  each((_, f, at) => {
    first[f + 1]++;
    sumX += tracks.x[at];
    sumY += tracks.y[at];
    count++;
  });
  for (let f = 0; f < frames; f++) first[f + 1] += first[f];
  const [originX, originY] = count ? [sumX / count, sumY / count] : [0, 0];
  const next = first.slice();
  const out = {
    spot: new Int32Array(count),
    x: new Float64Array(count),
    y: new Float64Array(count),
    weight: new Float64Array(count),
  };
  each((m, f, at) => {
    const k = next[f]++;
    out.spot[k] = m;
    out.x[k] = (tracks.x[at] - originX) * pixelAspect;
    out.y[k] = tracks.y[at] - originY;
    out.weight[k] = tracks.confidence[at];
  });
  const guessed = new Uint8Array(frames);
  return { frames, spots: members.length, first, ...out, guessed, originX, originY, pixelAspect };
}

/** What the similarities of the frames do about a point, against those of one of them. */
function partsFrom(seen: Observations, fits: Fits, pivot: Point, ref: number): SimilarityParts[] {
  const { originX, originY, pixelAspect } = seen;
  const matrices = Array.from({ length: seen.frames }, (_, f): Matrix3 => {
    const [a, b] = [fits.ax[f], fits.ay[f]];
    // In pixels about the frame's own corner.
    const [c, s] = [a, b];
    return [
      ...[c, -s / pixelAspect, (fits.tx[f] + s * originY) / pixelAspect + originX - c * originX],
      ...[s * pixelAspect, c, fits.ty[f] + originY - s * pixelAspect * originX - c * originY],
      ...[0, 0, 1],
    ] as unknown as Matrix3;
  });
  const back = invert(matrices[ref]);
  const parts = matrices.map((m) => decomposeSimilarity(multiply(m, back), pivot, pixelAspect));
  const turns = unwrapAngles(parts.map((p) => p.rotation));
  const columns = {
    x: Float64Array.from(parts, (p) => p.x),
    y: Float64Array.from(parts, (p) => p.y),
    rotation: Float64Array.from(turns, (t) => t - turns[ref]),
    logScale: Float64Array.from(parts, (p) => p.logScale),
  };
  const known = fits.linked.map((l) => (l === 2 ? 1 : 0));
  for (const column of Object.values(columns)) bridgeGaps(column, known);
  const { x, y, rotation, logScale } = columns;
  return parts.map((_, f) => ({ x: x[f], y: y[f], rotation: rotation[f], logScale: logScale[f] }));
}
