import { median, medianIndex } from 'd3-array';
import { agreeing, livesOf, LONG_LIVED } from './consensus.js';
import { thinned, type Observations } from './observations.js';
import {
  emptyFits,
  fitFrame,
  refineScenePoints,
  spreadScenePoints,
  type Fits,
  type ScenePoints,
} from './scene-points.js';

/** Samples that scene points are solved from at the most; with more, frames are left out evenly. */
const MOST_SAMPLES = 100_000;
/** Rounds over which the robust cost becomes stricter, and how much at a time. */
const ROUNDS = 9;
const STRICTER = 1.8;
/** A residual this many times the median counts for a quarter ... */
const CUT = 4;
/** ... and one within so many pixels never counts for less: nothing is an outlier among exact samples. */
const LEAST_CUT = 0.4;

/** How far off a sample is when it counts for a quarter, by the median distance of all of them. */
const usualCut = (median: number) => Math.max(LEAST_CUT, CUT * median);

/** What a spot's samples count for at the least, however few they are. */
const LEAST_SAY = 0.02;

/** What a spot that moves otherwise than the majority counts for at first; the robust rounds judge it by themselves. */
const DISSENT = 1e-3;

/** Scene points, and the similarity and robust weights of every frame. @param judged  all are known to move together */
export function solveJointly(
  seen: Observations,
  anchor: number,
  judged = false,
): { points: ScenePoints; weight: Float64Array; fits: Fits } {
  // Tracks that are known to move together do so however short they are.
  const all = judged ? seen : { ...seen, weight: byLife(seen) };
  const few = thinned(all, MOST_SAMPLES);
  const points = spreadScenePoints(few.first[anchor] < few.first[anchor + 1] ? few : all, anchor);
  const fits = emptyFits(seen.frames);
  const weight = all.weight.slice();
  // Two spots are always met exactly: there is nothing to refine, and no outlier.
  if (seen.spots > 2) {
    const agree = judged ? null : agreeing(few);
    const trusted = few.weight.map((w, k) => (!agree || agree[few.spot[k]] ? w : w * DISSENT));
    if (agree) weight.forEach((w, k) => (weight[k] = agree[seen.spot[k]] ? w : w * DISSENT));
    robustly(few, points, trusted, fits, (w) => refineScenePoints(few, points, w));
    placeDoubted(few, points, trusted, fits);
    robustly(all, points, weight, fits, () => undefined);
  } else {
    fitAll(seen, points, weight, fits);
  }
  return { points, weight, fits };
}

/** The trust in each sample, less for those of spots that are seen on far fewer frames than the longest-lived. */
function byLife(seen: Observations): Float64Array {
  const share = livesOf(seen);
  return seen.weight.map(
    (w, k) => w * Math.max(LEAST_SAY, Math.min(1, share[seen.spot[k]] / LONG_LIVED) ** 2),
  );
}

/**
 * Fits every frame again and again under a cost that becomes stricter, `before` each time, until it is as strict as the
 * usual residual asks for and has settled.
 */
function robustly(
  seen: Observations,
  points: ScenePoints,
  weight: Float64Array,
  fits: Fits,
  before: (weight: Float64Array) => void,
): void {
  const errors = new Float64Array(weight.length);
  let cut = Infinity;
  for (let round = 0; round < ROUNDS; round++) {
    before(weight);
    fitAll(seen, points, weight, fits);
    const { middle, most } = measure(seen, points, fits, errors);
    const least = usualCut(middle);
    const settled = cut <= least * 1.05;
    if (settled || most < least / 4) return;
    cut = Math.max(least, Math.min(cut, most) / STRICTER);
    reweigh(seen, errors, cut, weight);
  }
  fitAll(seen, points, weight, fits);
}

/** A spot that keeps less than this share of its weight agrees with the others only now and then. */
const DOUBTED = 0.7;

/** Such a spot rests where most of its samples put it, so that what is told of it is what it did, not a compromise. */
function placeDoubted(seen: Observations, points: ScenePoints, weight: Float64Array, fits: Fits): void {
  const kept = new Float64Array(seen.spots);
  const given = new Float64Array(seen.spots);
  for (let k = 0; k < weight.length; k++) {
    kept[seen.spot[k]] += weight[k];
    given[seen.spot[k]] += seen.weight[k];
  }
  for (let s = 0; s < seen.spots; s++) {
    if (Number.isNaN(points.x[s]) || kept[s] >= DOUBTED * given[s]) continue;
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
    points.x[s] = x[medianIndex(x)];
    points.y[s] = y[medianIndex(y)];
  }
}

function fitAll(seen: Observations, points: ScenePoints, weight: Float64Array, fits: Fits): void {
  for (let f = 0; f < seen.frames; f++) fitFrame(seen, points, weight, fits, f);
}

/** Distances of samples from the model, their median (of frames that can tell) and their largest. */
function measure(
  seen: Observations,
  points: ScenePoints,
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
      const px = points.x[seen.spot[k]];
      const py = points.y[seen.spot[k]];
      const ex = ax * px - ay * py + fits.tx[f] - seen.x[k];
      const ey = ax * py + ay * px + fits.ty[f] - seen.y[k];
      const e = px === px && fits.linked[f] === 2 ? Math.sqrt(ex * ex + ey * ey) : 0;
      errors[k] = e;
      if (e > most) most = e;
      if (telling && skip++ % every === 0) told.push(e);
    }
  }
  return { middle: median(told) ?? 0, most };
}

/** Geman and McClure's weights: (c^2 / (c^2 + e^2))^2. */
function reweigh(seen: Observations, errors: Float64Array, cut: number, weight: Float64Array): void {
  const c = cut * cut;
  for (let k = 0; k < weight.length; k++) {
    const g = c / (c + errors[k] * errors[k]);
    weight[k] = seen.weight[k] * g * g;
  }
}
