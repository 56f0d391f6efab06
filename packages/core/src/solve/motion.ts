import { apply, invert, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import { composeSimilarity, decomposeSimilarity, type SimilarityParts } from '../geometry/similarity.js';
import type { Track } from '../track/track.js';
import { bridgeGaps } from './bridge.js';
import { agreeing } from './consensus.js';
import { observe, thinned, type Observations } from './observations.js';
import { emptyFits, fitFrame, refineRests, spreadRests, type Fits, type Rests } from './rests.js';

/**
 * How much of a frame's motion was measured: everything, the position alone, or nothing; `guessed` where spots that were
 * coasted leave less than there would be. What was not measured is bridged from frame to frame, and held at the ends.
 */
export type Support = 'full' | 'position' | 'guessed' | 'none';

/** What a spot is asked about: where the thing is, how it turns and grows, or both. */
export type Role = 'both' | 'position' | 'turn';

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
  /** Distance of each spot's samples from the model, in pixels by frame; NaN where it has none or is not linked. */
  readonly residuals: readonly Float32Array[];
  /** What the robust solve lets each spot count for, 0 to 1 on average; 1 where all agree. */
  readonly trust: Float64Array;
}

export interface SolveInput {
  readonly frames: number;
  readonly ref: number;
  readonly tracks: readonly Track[];
  /** Of each track; `both` when left out. */
  readonly roles?: readonly Role[];
  /** Width of a pixel over its height; 1 when left out. */
  readonly pixelAspect?: number;
}

/** Samples that rest positions are solved from at the most; with more, frames are left out evenly. */
const MOST_SAMPLES = 100_000;
/** Rounds over which the robust cost becomes stricter, and how much at a time. */
const ROUNDS = 9;
const STRICTER = 1.8;
/** A residual this many times the median counts for a quarter ... */
const CUT = 4;
/** ... and one within so many pixels never counts for less: nothing is an outlier among exact samples. */
const LEAST_CUT = 0.4;

/**
 * Solves the motion from any number of spots that may come and go, jointly and robustly.
 *
 * First rest positions spread from the frame with the most spots, and the spots that move with the majority are found
 * ({@link agreeing}); then rest positions and all frames' similarities
 * are solved together ({@link refineRests}) under the Geman-McClure cost, which becomes stricter round by round
 * (graduated non-convexity, Black and Rangarajan 1996), so that a spot that slips or moves on its own loses its say.
 * Last each frame's similarity is fitted to its samples. One spot alone gives position; rotation and scale of frames
 * with one sample are bridged from their neighbours, and so are frames on which all spots were hidden: what is coasted
 * is a guess made from one side, and the solve knows both.
 *
 * With roles, rotation and scale come from the spots that may tell them and position from those that may tell that;
 * a role that no spot has falls to all of them.
 *
 * @returns null when there is no sample at all. Cost: linear in samples.
 */
export function solveMotion({ frames, ref, tracks, roles, pixelAspect = 1 }: SolveInput): Motion | null {
  const seen = observe(tracks, frames, pixelAspect);
  const anchor = anchorFrame(seen, ref);
  if (anchor === null) return null;
  const turning = thoseWith('turn', tracks, roles);
  const placing = thoseWith('position', tracks, roles);
  const split = turning.some((t, s) => t !== placing[s]);
  const turners = split ? onlyOf(seen, turning) : seen;
  const start = split ? anchorFrame(turners, anchor)! : anchor;
  const { rests, weight, fits } = solveJointly(turners, start);
  fillTurns(fits);
  if (split) placeByPosition(onlyOf(seen, placing), fits, rests, placing);
  else fitLone(seen, rests, weight, fits);
  return told(seen, tracks.length, rests, fits, split ? placing : null, ref);
}

function thoseWith(role: Role, tracks: readonly Track[], roles: readonly Role[] | undefined): boolean[] {
  const may = tracks.map((_, s) => !roles || roles[s] === 'both' || roles[s] === role);
  const any = may.some((m, s) => m && tracks[s].state.some((v) => v > 0));
  return any ? may : tracks.map(() => true);
}

/** The observations of some spots; the others' count for nothing and are left out. */
function onlyOf(seen: Observations, chosen: readonly boolean[]): Observations {
  const first = new Int32Array(seen.frames + 1);
  const kept: number[] = [];
  for (let f = 0; f < seen.frames; f++) {
    for (let k = seen.first[f]; k < seen.first[f + 1]; k++) if (chosen[seen.spot[k]]) kept.push(k);
    first[f + 1] = kept.length;
  }
  return {
    ...seen,
    first,
    spot: Int32Array.from(kept, (k) => seen.spot[k]),
    x: Float64Array.from(kept, (k) => seen.x[k]),
    y: Float64Array.from(kept, (k) => seen.y[k]),
    weight: Float64Array.from(kept, (k) => seen.weight[k]),
  };
}

/** The frame with the most spots, the nearest to the reference among equals. */
function anchorFrame(seen: Observations, ref: number): number | null {
  let best: number | null = null;
  let most = 0;
  for (let f = 0; f < seen.frames; f++) {
    const n = seen.first[f + 1] - seen.first[f];
    if (n === 0 || n < most) continue;
    if (n > most || Math.abs(f - ref) < Math.abs(best! - ref)) best = f;
    most = n;
  }
  return best;
}

/** What a spot that moves otherwise than the majority counts for at first; the robust rounds judge it by themselves. */
const DISSENT = 1e-3;

/** Rest positions, and the similarity and robust weights of every frame. */
function solveJointly(
  seen: Observations,
  anchor: number,
): { rests: Rests; weight: Float64Array; fits: Fits } {
  const few = thinned(seen, MOST_SAMPLES);
  const rests = spreadRests(few.first[anchor] < few.first[anchor + 1] ? few : seen, anchor);
  const fits = emptyFits(seen.frames);
  const weight = seen.weight.slice();
  // Two spots are always met exactly: there is nothing to refine, and no outlier.
  if (seen.spots > 2) {
    const agree = agreeing(few);
    const trusted = few.weight.map((w, k) => (!agree || agree[few.spot[k]] ? w : w * DISSENT));
    if (agree) weight.forEach((w, k) => (weight[k] = agree[seen.spot[k]] ? w : w * DISSENT));
    robustly(few, rests, trusted, fits, (w) => refineRests(few, rests, w));
    placeDoubted(few, rests, trusted, fits);
    robustly(seen, rests, weight, fits, () => undefined);
  } else {
    fitAll(seen, rests, weight, fits);
  }
  return { rests, weight, fits };
}

/**
 * Fits every frame again and again under a cost that becomes stricter, `before` each time, until it is as strict as the
 * usual residual asks for and has settled.
 */
function robustly(
  seen: Observations,
  rests: Rests,
  weight: Float64Array,
  fits: Fits,
  before: (weight: Float64Array) => void,
): void {
  const errors = new Float64Array(weight.length);
  let cut = Infinity;
  for (let round = 0; round < ROUNDS; round++) {
    before(weight);
    fitAll(seen, rests, weight, fits);
    const { middle, most } = measure(seen, rests, fits, errors);
    const least = Math.max(LEAST_CUT, CUT * middle);
    const settled = cut <= least * 1.05;
    if (settled || most < least / 4) return;
    cut = Math.max(least, Math.min(cut, most) / STRICTER);
    reweigh(seen, errors, cut, weight);
  }
  fitAll(seen, rests, weight, fits);
}

/** A spot that keeps less than this share of its weight agrees with the others only now and then. */
const DOUBTED = 0.7;

/** Such a spot rests where most of its samples put it, so that what is told of it is what it did, not a compromise. */
function placeDoubted(seen: Observations, rests: Rests, weight: Float64Array, fits: Fits): void {
  const kept = new Float64Array(seen.spots);
  const given = new Float64Array(seen.spots);
  for (let k = 0; k < weight.length; k++) {
    kept[seen.spot[k]] += weight[k];
    given[seen.spot[k]] += seen.weight[k];
  }
  for (let s = 0; s < seen.spots; s++) {
    if (Number.isNaN(rests.x[s]) || kept[s] >= DOUBTED * given[s]) continue;
    const x: number[] = [];
    const y: number[] = [];
    for (let f = 0; f < seen.frames; f++) {
      if (fits.linked[f] !== 2) continue;
      const norm = fits.ax[f] ** 2 + fits.ay[f] ** 2;
      for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
        if (seen.spot[k] !== s) continue;
        const [qx, qy] = [seen.x[k] - fits.tx[f], seen.y[k] - fits.ty[f]];
        x.push((fits.ax[f] * qx + fits.ay[f] * qy) / norm);
        y.push((fits.ax[f] * qy - fits.ay[f] * qx) / norm);
      }
    }
    if (x.length === 0) continue;
    rests.x[s] = x.sort((a, b) => a - b)[x.length >> 1];
    rests.y[s] = y.sort((a, b) => a - b)[y.length >> 1];
  }
}

function fitAll(seen: Observations, rests: Rests, weight: Float64Array, fits: Fits): void {
  for (let f = 0; f < seen.frames; f++) fitFrame(seen, rests, weight, fits, f);
}

/** Distances of samples from the model, their median (of frames that can tell) and their largest. */
function measure(
  seen: Observations,
  rests: Rests,
  fits: Fits,
  errors: Float64Array,
): { middle: number; most: number } {
  const told: number[] = [];
  let most = 0;
  let skip = 0;
  const every = Math.max(1, Math.floor(errors.length / 20_000));
  for (let f = 0; f < seen.frames; f++) {
    const telling = seen.first[f + 1] - seen.first[f] > 2;
    const ax = fits.ax[f];
    const ay = fits.ay[f];
    for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
      const px = rests.x[seen.spot[k]];
      const py = rests.y[seen.spot[k]];
      const ex = ax * px - ay * py + fits.tx[f] - seen.x[k];
      const ey = ax * py + ay * px + fits.ty[f] - seen.y[k];
      const e = px === px && fits.linked[f] === 2 ? Math.sqrt(ex * ex + ey * ey) : 0;
      errors[k] = e;
      if (e > most) most = e;
      if (telling && skip++ % every === 0) told.push(e);
    }
  }
  const sorted = Float64Array.from(told).sort();
  return { middle: sorted[sorted.length >> 1] ?? 0, most };
}

/** Geman and McClure's weights: (c^2 / (c^2 + e^2))^2. */
function reweigh(seen: Observations, errors: Float64Array, cut: number, weight: Float64Array): void {
  const c = cut * cut;
  for (let k = 0; k < weight.length; k++) {
    const g = c / (c + errors[k] * errors[k]);
    weight[k] = seen.weight[k] * g * g;
  }
}

/** Fills rotation and scale of frames that do not tell them ({@link bridgeGaps}). */
function fillTurns(fits: Fits): void {
  const known = fits.linked.map((l) => (l === 2 ? 1 : 0));
  if (!known.includes(1)) return;
  let before = 0;
  const angles = fits.ax.map((ax, f) => {
    if (!known[f]) return NaN;
    const angle = Math.atan2(fits.ay[f], ax);
    return (before += Math.atan2(Math.sin(angle - before), Math.cos(angle - before)));
  });
  const logs = fits.ax.map((ax, f) => Math.log(Math.hypot(ax, fits.ay[f])));
  bridgeGaps(angles, known);
  bridgeGaps(logs, known);
  known.forEach((k, f) => {
    if (k) return;
    fits.ax[f] = Math.exp(logs[f]) * Math.cos(angles[f]);
    fits.ay[f] = Math.exp(logs[f]) * Math.sin(angles[f]);
  });
}

/** Frames with one linked spot: it is met, under the rotation and scale that were filled in. */
function fitLone(seen: Observations, rests: Rests, weight: Float64Array, fits: Fits): void {
  for (let f = 0; f < seen.frames; f++) if (fits.linked[f] === 1) fitFrame(seen, rests, weight, fits, f);
}

/** Rounds in which the shifts and the rest positions of spots for position settle on each other. */
const POSITION_ROUNDS = 24;

/** With rotation and scale given: shifts and rest positions of the spots that tell position (alternating means). */
function placeByPosition(seen: Observations, fits: Fits, rests: Rests, chosen: readonly boolean[]): void {
  const turned = fits.linked.slice();
  const known = (s: number) => !Number.isNaN(rests.x[s]);
  const sums = { x: new Float64Array(seen.spots), y: new Float64Array(seen.spots) };
  const counts = new Float64Array(seen.spots);
  chosen.forEach((c, s) => {
    if (c) rests.x[s] = rests.y[s] = NaN;
  });
  const start = anchorFrame(seen, 0)!;
  const place = (f: number) => {
    let w = 0;
    let x = 0;
    let y = 0;
    for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
      const s = seen.spot[k];
      if (!known(s)) continue;
      w += seen.weight[k];
      x += seen.weight[k] * (seen.x[k] - (fits.ax[f] * rests.x[s] - fits.ay[f] * rests.y[s]));
      y += seen.weight[k] * (seen.y[k] - (fits.ax[f] * rests.y[s] + fits.ay[f] * rests.x[s]));
    }
    fits.linked[f] = w > 0 ? (turned[f] === 2 ? 2 : 1) : 0;
    if (w > 0) {
      fits.tx[f] = x / w;
      fits.ty[f] = y / w;
    }
  };
  const back = (k: number, f: number) => {
    const n = fits.ax[f] ** 2 + fits.ay[f] ** 2;
    const [qx, qy] = [seen.x[k] - fits.tx[f], seen.y[k] - fits.ty[f]];
    return {
      x: (fits.ax[f] * qx + fits.ay[f] * qy) / n,
      y: (fits.ax[f] * qy - fits.ay[f] * qx) / n,
    };
  };
  fits.tx[start] = fits.ty[start] = 0;
  for (let k = seen.first[start]; k < seen.first[start + 1]; k++) {
    const p = back(k, start);
    rests.x[seen.spot[k]] = p.x;
    rests.y[seen.spot[k]] = p.y;
  }
  for (let round = 0; round < POSITION_ROUNDS; round++) {
    for (let f = 0; f < seen.frames; f++) place(f);
    sums.x.fill(0);
    sums.y.fill(0);
    counts.fill(0);
    for (let f = 0; f < seen.frames; f++) {
      if (fits.linked[f] === 0) continue;
      for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
        const p = back(k, f);
        const s = seen.spot[k];
        counts[s] += seen.weight[k];
        sums.x[s] += seen.weight[k] * p.x;
        sums.y[s] += seen.weight[k] * p.y;
      }
    }
    for (let s = 0; s < seen.spots; s++) {
      if (!chosen[s] || counts[s] === 0) continue;
      rests.x[s] = sums.x[s] / counts[s];
      rests.y[s] = sums.y[s] / counts[s];
    }
  }
  for (let f = 0; f < seen.frames; f++) place(f);
}

/** Moves everything into reference-frame coordinates, so that M[ref] is the identity, and tells it in parts. */
function told(
  seen: Observations,
  spots: number,
  rests: Rests,
  fits: Fits,
  placing: readonly boolean[] | null,
  ref: number,
): Motion {
  const { pixelAspect } = seen;
  const toPixels = (x: number, y: number): Point => ({
    x: x / pixelAspect + seen.originX,
    y: y + seen.originY,
  });
  const anchored = Array.from({ length: spots }, (_, s) =>
    Number.isNaN(rests.x[s]) ? null : toPixels(rests.x[s], rests.y[s]),
  );
  const parts = partsOf(seen, fits, centroid(anchored, placing));
  const matrices = parts.list.map((p) => composeSimilarity(p, parts.pivot, pixelAspect));
  const fromRef = invert(matrices[ref]);
  const rest = anchored.map((r) => r && apply(matrices[ref], r.x, r.y));
  const pivot = centroid(rest, placing);
  const motion = matrices.map((m) => multiply(m, fromRef));
  // Unwrapping began on frame 0; the reference frame is the one that has not turned.
  const turned = parts.list[ref].rotation;
  const support = Array.from(fits.linked, (l, f): Support =>
    l === 2 ? 'full' : seen.guessed[f] ? 'guessed' : l === 1 ? 'position' : 'none',
  );
  return {
    ref,
    pivot,
    pixelAspect,
    parts: motion.map((m, f) => ({
      ...decomposeSimilarity(m, pivot, pixelAspect),
      rotation: parts.list[f].rotation - turned,
    })),
    support,
    rest,
    ...residualsOf(seen, motion, rest),
  };
}

function partsOf(seen: Observations, fits: Fits, pivot: Point): { list: SimilarityParts[]; pivot: Point } {
  const { frames, pixelAspect } = seen;
  const [px, py] = [(pivot.x - seen.originX) * pixelAspect, pivot.y - seen.originY];
  let before = 0;
  const x = fits.tx.map((tx, f) => (fits.ax[f] * px - fits.ay[f] * py + tx - px) / pixelAspect);
  const y = fits.ty.map((ty, f) => fits.ax[f] * py + fits.ay[f] * px + ty - py);
  bridgeGaps(x, fits.linked);
  bridgeGaps(y, fits.linked);
  const list = Array.from({ length: frames }, (_, f): SimilarityParts => {
    const [ax, ay] = [fits.ax[f], fits.ay[f]];
    const angle = Math.atan2(ay, ax);
    before += Math.atan2(Math.sin(angle - before), Math.cos(angle - before));
    return { x: x[f], y: y[f], rotation: before, logScale: Math.log(Math.hypot(ax, ay)) };
  });
  return { list, pivot };
}

function centroid(points: readonly (Point | null)[], chosen: readonly boolean[] | null): Point {
  const known = points.filter((p, s): p is Point => p !== null && (!chosen || chosen[s]));
  const n = known.length || 1;
  return { x: known.reduce((s, p) => s + p.x, 0) / n, y: known.reduce((s, p) => s + p.y, 0) / n };
}

function residualsOf(
  seen: Observations,
  motion: readonly Matrix3[],
  rest: readonly (Point | null)[],
): Pick<Motion, 'residual' | 'residuals' | 'trust'> {
  const residual = new Float64Array(seen.frames).fill(NaN);
  const residuals = rest.map(() => new Float32Array(seen.frames).fill(NaN));
  const restX = Float64Array.from(rest, (r) => r?.x ?? NaN);
  const restY = Float64Array.from(rest, (r) => r?.y ?? NaN);
  for (let f = 0; f < seen.frames; f++) {
    const m = motion[f];
    let sum = 0;
    let n = 0;
    for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
      const s = seen.spot[k];
      const [px, py] = [restX[s], restY[s]];
      if (px !== px) continue;
      const ex = m[0] * px + m[1] * py + m[2] - (seen.x[k] / seen.pixelAspect + seen.originX);
      const ey = m[3] * px + m[4] * py + m[5] - (seen.y[k] + seen.originY);
      const e = ex * ex + ey * ey;
      residuals[s][f] = Math.sqrt(e);
      sum += e;
      n++;
    }
    if (n > 0) residual[f] = Math.sqrt(sum / n);
  }
  return { residual, residuals, trust: trustOf(residuals) };
}

/** What the robust weight of each spot comes to on average, at the cut that the solve ended with. */
function trustOf(residuals: readonly Float32Array[]): Float64Array {
  const every = Math.max(1, Math.floor((residuals.length * (residuals[0]?.length ?? 0)) / 50_000));
  const sample: number[] = [];
  for (const r of residuals) for (let f = 0; f < r.length; f += every) if (r[f] === r[f]) sample.push(r[f]);
  const sorted = Float64Array.from(sample).sort();
  const cut = Math.max(LEAST_CUT, CUT * (sorted[sorted.length >> 1] ?? 0)) ** 2;
  return Float64Array.from(residuals, (r) => {
    let sum = 0;
    let n = 0;
    for (const e of r) {
      if (e !== e) continue;
      sum += (cut / (cut + e * e)) ** 2;
      n++;
    }
    return n > 0 ? sum / n : 1;
  });
}
