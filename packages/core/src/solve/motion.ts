import { apply, invert, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import {
  composeSimilarity,
  decomposeSimilarity,
  fitSimilarity,
  keepComponents,
  NO_MOTION,
  unwrapAngles,
  type Components,
  type Correspondence,
  type SimilarityParts,
} from '../geometry/similarity.js';
import { sampleAt, type Track } from '../track/track.js';

/** How much of a frame's motion was measured: everything, the position alone, or nothing (then it is held). */
export type Support = 'full' | 'position' | 'none';

/** The motion of what is held, frame by frame: M[i] takes reference-frame coordinates to frame i's. */
export interface Motion {
  readonly ref: number;
  /** The point, in reference-frame coordinates, about which the parts are told. */
  readonly pivot: Point;
  readonly pixelAspect: number;
  readonly parts: readonly SimilarityParts[];
  readonly support: readonly Support[];
  /** Where each spot rests in reference-frame coordinates; null for a spot that no other links to the rest. */
  readonly rest: readonly (Point | null)[];
  /** Root mean square distance in pixels between samples and model; NaN where nothing was measured. */
  readonly residual: Float64Array;
}

export interface SolveInput {
  readonly frames: number;
  readonly ref: number;
  readonly tracks: readonly Track[];
  /** Width of a pixel over its height; 1 when left out. */
  readonly pixelAspect?: number;
}

interface Observation {
  readonly spot: number;
  readonly x: number;
  readonly y: number;
  readonly weight: number;
}

const ROUNDS = 8;

/**
 * Solves the motion from any number of spots that may come and go. Rest positions and per-frame similarities
 * are found in turn (alternating least squares; each frame by {@link fitSimilarity}, each rest position as the
 * weighted mean of its samples taken back), starting on the best-covered frame and spreading to spots that
 * overlap it in time. One spot alone gives position; rotation and scale of frames with one sample are
 * interpolated from their neighbours, and frames without any are held.
 *
 * @returns null when there is no sample at all. Cost: linear in samples.
 */
export function solveMotion({ frames, ref, tracks, pixelAspect = 1 }: SolveInput): Motion | null {
  const seen = observe(tracks, frames);
  const anchor = anchorFrame(seen, ref);
  if (anchor === null) return null;
  const rest: (Point | null)[] = tracks.map(() => null);
  for (const o of seen[anchor]) rest[o.spot] = { x: o.x, y: o.y };
  spread(seen, rest, pixelAspect);
  let fits = fitFrames(seen, rest, pixelAspect);
  if (tracks.length > 2) {
    for (let round = 0; round < ROUNDS; round++) {
      refineRest(seen, fits.matrices, fits.support, rest);
      fits = fitFrames(seen, rest, pixelAspect);
    }
  }
  return told(seen, rest, fits, ref, pixelAspect);
}

function observe(tracks: readonly Track[], frames: number): Observation[][] {
  const seen: Observation[][] = Array.from({ length: frames }, () => []);
  tracks.forEach((track, spot) => {
    for (let frame = Math.max(0, track.start); frame < frames; frame++) {
      const s = sampleAt(track, frame);
      if (s) seen[frame].push({ spot, x: s.x, y: s.y, weight: Math.max(0.05, s.confidence) });
      else if (frame >= track.start + track.state.length) break;
    }
  });
  return seen;
}

/** The frame with the most spots, the nearest to the reference among equals. */
function anchorFrame(seen: readonly Observation[][], ref: number): number | null {
  let best: number | null = null;
  seen.forEach((list, frame) => {
    if (list.length === 0) return;
    const held = best === null ? 0 : seen[best].length;
    const nearer = best !== null && list.length === held && Math.abs(frame - ref) < Math.abs(best - ref);
    if (list.length > held || nearer) best = frame;
  });
  return best;
}

/** Gives rest positions to spots that overlap in time with those that have one, until no more can be reached. */
function spread(seen: readonly Observation[][], rest: (Point | null)[], pixelAspect: number): void {
  const missing = () => rest.filter((r) => r === null).length;
  for (let before = Infinity; missing() > 0 && missing() < before;) {
    before = missing();
    const { matrices, support } = fitFrames(seen, rest, pixelAspect);
    const sums = rest.map(() => ({ x: 0, y: 0, w: 0 }));
    seen.forEach((list, frame) => {
      if (support[frame] === 'none') return;
      const back = invert(matrices[frame]);
      // A frame whose rotation was only borrowed places a new spot less well.
      const trust = support[frame] === 'full' ? 1 : 0.01;
      for (const o of list) {
        if (rest[o.spot]) continue;
        const p = apply(back, o.x, o.y);
        const sum = sums[o.spot];
        sum.x += trust * o.weight * p.x;
        sum.y += trust * o.weight * p.y;
        sum.w += trust * o.weight;
      }
    });
    sums.forEach((sum, spot) => {
      if (!rest[spot] && sum.w > 0) rest[spot] = { x: sum.x / sum.w, y: sum.y / sum.w };
    });
  }
}

interface Fits {
  readonly matrices: Matrix3[];
  readonly support: Support[];
}

function fitFrames(
  seen: readonly Observation[][],
  rest: readonly (Point | null)[],
  pixelAspect: number,
): Fits {
  const known = restOnly(rest);
  const pivot = centroid(known);
  const parts: (SimilarityParts | null)[] = [];
  const support: Support[] = [];
  const lone: ({ rest: Point; seen: Observation } | null)[] = [];
  for (const list of seen) {
    const linked = list.filter((o) => rest[o.spot]);
    const pairs = linked.map((o) => correspondence(rest[o.spot]!, o));
    const matrix = pairs.length > 1 ? fitSimilarity(pairs, pixelAspect) : null;
    parts.push(matrix && decomposeSimilarity(matrix, pivot, pixelAspect));
    support.push(matrix ? 'full' : linked.length > 0 ? 'position' : 'none');
    lone.push(!matrix && linked.length > 0 ? { rest: rest[linked[0].spot]!, seen: linked[0] } : null);
  }
  const turned = fillParts(parts, ['rotation', 'logScale']);
  lone.forEach((one, frame) => {
    if (!one) return;
    const turn = composeSimilarity({ ...NO_MOTION, ...pick(turned[frame]) }, pivot, pixelAspect);
    const there = apply(turn, one.rest.x, one.rest.y);
    parts[frame] = { ...pick(turned[frame]), x: one.seen.x - there.x, y: one.seen.y - there.y };
  });
  const filled = fillParts(parts, ['x', 'y', 'rotation', 'logScale']);
  return { matrices: filled.map((p) => composeSimilarity(p, pivot, pixelAspect)), support };
}

function pick({ rotation, logScale }: SimilarityParts): Pick<SimilarityParts, 'rotation' | 'logScale'> {
  return { rotation, logScale };
}

function correspondence(rest: Point, o: Observation): Correspondence {
  return { fromX: rest.x, fromY: rest.y, toX: o.x, toY: o.y, weight: o.weight };
}

function restOnly(rest: readonly (Point | null)[]): Point[] {
  return rest.filter((r): r is Point => r !== null);
}

function centroid(points: readonly Point[]): Point {
  const n = points.length || 1;
  return { x: points.reduce((s, p) => s + p.x, 0) / n, y: points.reduce((s, p) => s + p.y, 0) / n };
}

/** Fills frames without parts: linearly between known neighbours, held beyond the first and last. */
function fillParts(
  parts: readonly (SimilarityParts | null)[],
  keys: readonly (keyof SimilarityParts)[],
): SimilarityParts[] {
  const known = parts.flatMap((p, i) => (p ? [i] : []));
  if (known.length === 0) return parts.map(() => NO_MOTION);
  const angles = unwrapAngles(known.map((i) => parts[i]!.rotation));
  const value = (k: number, key: keyof SimilarityParts) =>
    key === 'rotation' ? angles[k] : parts[known[k]]![key];
  let k = 0;
  return parts.map((p, i) => {
    while (k + 1 < known.length && known[k + 1] <= i) k++;
    const next = Math.min(k + 1, known.length - 1);
    const span = known[next] - known[k];
    const t = span > 0 ? Math.min(1, Math.max(0, (i - known[k]) / span)) : 0;
    const out: Record<keyof SimilarityParts, number> = { ...NO_MOTION, ...p };
    for (const key of keys) out[key] = value(k, key) + t * (value(next, key) - value(k, key));
    return out;
  });
}

function refineRest(
  seen: readonly Observation[][],
  matrices: readonly Matrix3[],
  support: readonly Support[],
  rest: (Point | null)[],
): void {
  const sums = rest.map(() => ({ x: 0, y: 0, w: 0 }));
  seen.forEach((list, frame) => {
    if (support[frame] !== 'full') return;
    const back = invert(matrices[frame]);
    for (const o of list) {
      const p = apply(back, o.x, o.y);
      sums[o.spot].x += o.weight * p.x;
      sums[o.spot].y += o.weight * p.y;
      sums[o.spot].w += o.weight;
    }
  });
  sums.forEach((sum, spot) => {
    if (rest[spot] && sum.w > 0) rest[spot] = { x: sum.x / sum.w, y: sum.y / sum.w };
  });
}

/** Moves everything into reference-frame coordinates, so that M[ref] is the identity, and tells it in parts. */
function told(
  seen: readonly Observation[][],
  rest: readonly (Point | null)[],
  { matrices, support }: Fits,
  ref: number,
  pixelAspect: number,
): Motion {
  const toRef = matrices[ref];
  const fromRef = invert(toRef);
  const atRef = rest.map((r) => r && apply(toRef, r.x, r.y));
  const pivot = centroid(restOnly(atRef));
  const motion = matrices.map((m) => multiply(m, fromRef));
  const residual = new Float64Array(seen.length).fill(NaN);
  seen.forEach((list, frame) => {
    const linked = list.filter((o) => atRef[o.spot]);
    if (linked.length === 0) return;
    let sum = 0;
    for (const o of linked) {
      const p = apply(motion[frame], atRef[o.spot]!.x, atRef[o.spot]!.y);
      sum += (p.x - o.x) ** 2 + (p.y - o.y) ** 2;
    }
    residual[frame] = Math.sqrt(sum / linked.length);
  });
  const parts = motion.map((m) => decomposeSimilarity(m, pivot, pixelAspect));
  const angles = unwrapAngles(parts.map((p) => p.rotation));
  // Unwrapping starts at frame 0; the reference frame is the one that has not turned.
  const turns = angles[ref] - parts[ref].rotation;
  return {
    ref,
    pivot,
    pixelAspect,
    parts: parts.map((p, i) => ({ ...p, rotation: angles[i] - turns })),
    support,
    rest: atRef,
    residual,
  };
}

/** M[i] with the chosen components only. */
export function motionMatrix(motion: Motion, frame: number, use: Components): Matrix3 {
  return composeSimilarity(keepComponents(motion.parts[frame], use), motion.pivot, motion.pixelAspect);
}

/** Still: S[i] = inverse(M[i]) over the chosen components. */
export function stillCorrection(motion: Motion, frame: number, use: Components): Matrix3 {
  return invert(motionMatrix(motion, frame, use));
}
