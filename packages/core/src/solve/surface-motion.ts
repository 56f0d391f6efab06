import { median } from 'd3-array';
import { moveQuad, quadToQuad, squareToQuad, type Quad } from '../geometry/homography.js';
import {
  apply,
  IDENTITY,
  invert,
  multiply,
  translation,
  type Matrix3,
  type Point,
} from '../geometry/matrix.js';
import { fitSimilarity } from '../geometry/similarity.js';
import { quadOn, surfaceAt, type SurfaceTrack } from '../surface/surface-track.js';
import { sampleAt } from '../track/track.js';
import { bridgeGaps } from './bridge.js';
import { homographyMotion, type Motion, type Solved, type Support } from './motion.js';
import type { SolveSpot } from './solve-motion.js';

/** A flat surface to solve from. */
export interface SolveSurface {
  readonly id: string;
  readonly base: Quad;
  readonly quad: Quad;
  readonly track: SurfaceTrack;
  /** False: only its position, rotation and scale are used, not its perspective. */
  readonly perspective: boolean;
}

export interface SurfaceInput {
  readonly frames: number;
  readonly ref: number;
  readonly pixelAspect?: number;
  /** Surfaces on one thing: where the first is not known the others carry on. */
  readonly surfaces: readonly SolveSurface[];
  /** Spots on the same thing, which correct what is left. */
  readonly spots: readonly SolveSpot[];
}

/**
 * The motion of flat surfaces: M of a frame takes the quad from where it is on the reference frame to where it is there.
 * Frames on which it was not seen are bridged corner by corner ({@link bridgeGaps}). Told about the middle of the quad on
 * the reference frame.
 *
 * @returns null where no surface was measured. Cost: linear in frames.
 */
export function surfaceMotionOf({
  frames,
  ref,
  pixelAspect = 1,
  surfaces,
  spots,
}: SurfaceInput): Motion | null {
  const known = surfaces.filter((s) => s.track.state.some((state) => state > 0));
  if (known.length === 0) return null;
  const [first, ...others] = known;
  const support: Support[] = Array.from({ length: frames }, () => 'none');
  const quads = Array.from({ length: frames }, (_, f): Quad | null => {
    const sample = surfaceAt(first.track, f);
    if (!sample) return null;
    if (sample.state === 'coasted' || sample.state === 'bridged') {
      support[f] = 'guessed';
      return null;
    }
    support[f] = 'full';
    return quadOn(first.base, first.quad, first.track, f);
  });
  carryOn(quads, first, others, support);
  const whole = bridged(quads);
  if (!whole) return null;
  const rest = whole[ref];
  const square = squareToQuad(rest);
  const pivot = square ? apply(square, 0.5, 0.5) : rest[0];
  const told = whole.map((quad) => quadToQuad(rest, quad) ?? IDENTITY);
  const { matrices, byId, residual } = correctedBySpots(told, spots, ref, pixelAspect);
  const facts = { ref, pivot, pixelAspect, support, byId, residual };
  const motion = homographyMotion(matrices, facts);
  if (first.perspective) return motion;
  return { model: 'similarity', ...facts, parts: motion.parts };
}

/** Fills frames on which the first is not seen by how another moved since a frame on which both are. */
function carryOn(
  quads: (Quad | null)[],
  first: SolveSurface,
  others: readonly SolveSurface[],
  support: Support[],
): void {
  for (const other of others) {
    const of = (f: number) => {
      const sample = surfaceAt(other.track, f);
      return sample && (sample.state === 'tracked' || sample.state === 'pinned') ? sample.corners : null;
    };
    const both = quads.flatMap((quad, f) => (quad && of(f) ? [f] : []));
    if (both.length === 0) continue;
    quads.forEach((quad, f) => {
      const now = of(f);
      if (quad || !now) return;
      const near = both.reduce((a, b) => (Math.abs(b - f) < Math.abs(a - f) ? b : a));
      const m = quadToQuad(of(near)!, now);
      if (!m) return;
      quads[f] = moveQuad(m, quadOn(first.base, first.quad, first.track, near)!);
      support[f] = 'full';
    });
  }
}

/** Every frame's quad, those that are not known bridged; null where none is. */
function bridged(quads: readonly (Quad | null)[]): Quad[] | null {
  const known = quads.map((q) => (q ? 1 : 0));
  if (!known.includes(1)) return null;
  const column = (corner: number, axis: 'x' | 'y') => {
    const values = Float64Array.from(quads, (q) => (q ? q[corner][axis] : NaN));
    bridgeGaps(values, known);
    return values;
  };
  const columns = [0, 1, 2, 3].map((k) => [column(k, 'x'), column(k, 'y')] as const);
  return quads.map((_, f) => columns.map(([x, y]) => ({ x: x[f], y: y[f] })) as unknown as Quad);
}

/** Spots of which less than this part of the frames agree with the surface say nothing of it. */
const LEAST_SAMPLES = 2;

/** The motion drawn to where spots on the same thing are: one moves it, more turn and grow it, too. */
export function correctedBySpots(
  told: readonly Matrix3[],
  spots: readonly SolveSpot[],
  ref: number,
  pixelAspect: number,
): { matrices: readonly Matrix3[]; byId: Record<string, Solved>; residual: Float64Array } {
  const residual = new Float64Array(told.length).fill(NaN);
  const seen = spots.map(({ id, track }) => ({
    id,
    places: told.map((_, f) => {
      const s = sampleAt(track, f);
      return s && (s.state === 'tracked' || s.state === 'pinned') ? s : null;
    }),
  }));
  const resting = seen.flatMap(({ id, places }) => {
    const back = places.flatMap((p, f): Point[] => (p ? [apply(invert(told[f]), p.x, p.y)] : []));
    if (back.length < LEAST_SAMPLES) return [];
    return [{ id, places, rest: { x: median(back, (p) => p.x)!, y: median(back, (p) => p.y)! } }];
  });
  if (resting.length === 0) return { matrices: told, byId: {}, residual };
  const corrected = told.map((m, f) => {
    const pairs = resting.flatMap(({ places, rest }) => {
      const to = places[f];
      const from = apply(m, rest.x, rest.y);
      return to ? [{ fromX: from.x, fromY: from.y, toX: to.x, toY: to.y, weight: 1 }] : [];
    });
    if (pairs.length === 0) return m;
    const n = pairs.length;
    const shift = translation(
      pairs.reduce((s, p) => s + p.toX - p.fromX, 0) / n,
      pairs.reduce((s, p) => s + p.toY - p.fromY, 0) / n,
    );
    return multiply((n > 1 && fitSimilarity(pairs, pixelAspect)) || shift, m);
  });
  // What the reference frame's own correction was is no motion.
  const home = invert(corrected[ref]);
  const matrices = corrected.map((m) => multiply(m, home));
  const sums = new Float64Array(told.length);
  const counts = new Float64Array(told.length);
  const byId = Object.fromEntries(
    resting.map(({ id, places, rest }): [string, Solved] => {
      const at = apply(corrected[ref], rest.x, rest.y);
      const residuals = Float32Array.from(places, (p, f) => {
        if (!p) return NaN;
        const model = apply(matrices[f], at.x, at.y);
        const off = Math.hypot(model.x - p.x, model.y - p.y);
        sums[f] += off * off;
        counts[f]++;
        return off;
      });
      return [id, { rest: at, residuals }];
    }),
  );
  for (let f = 0; f < told.length; f++) if (counts[f]) residual[f] = Math.sqrt(sums[f] / counts[f]);
  return { matrices, byId, residual };
}

/** The corners of a surface's quad as spots that rest where they are on the reference frame: what is left is measured on them. */
export function surfaceWitnesses(
  { base, quad, track }: SolveSurface,
  motion: Motion,
): { rest: Point; track: SolveSpot['track'] }[] {
  const rest = quadOn(base, quad, track, motion.ref);
  if (!rest) return [];
  const { start, state, confidence } = track;
  const columns = quad.map(() => [new Float64Array(state.length), new Float64Array(state.length)] as const);
  for (let i = 0; i < state.length; i++) {
    const now = state[i] ? quadOn(base, quad, track, start + i) : null;
    columns.forEach(([x, y], k) => ([x[i], y[i]] = [now?.[k].x ?? NaN, now?.[k].y ?? NaN]));
  }
  const nothing = new Float64Array(state.length);
  const unknown = new Float64Array(state.length).fill(NaN);
  return columns.map(([x, y], k) => ({
    rest: rest[k],
    track: {
      kind: 'spot',
      ...{ start, state, confidence, width: 1 },
      values: { x, y, mismatch: nothing, turn: unknown, scale: unknown },
    },
  }));
}
