import type { Observations } from './observations.js';

/** Where spots rest, in the square pixels of the anchor frame; NaN for a spot that nothing links to the rest. */
export interface ScenePoints {
  readonly x: Float64Array;
  readonly y: Float64Array;
}

/** The similarity z = a r + t of every frame (complex numbers: a turns and scales), and what it rests on. */
export interface Fits {
  readonly ax: Float64Array;
  readonly ay: Float64Array;
  readonly tx: Float64Array;
  readonly ty: Float64Array;
  /** 0: no linked spot, 1: one, so that `a` is not known, 2 or more. */
  readonly linked: Uint8Array;
}

export function emptyFits(frames: number): Fits {
  const column = () => new Float64Array(frames);
  return { ax: column().fill(1), ay: column(), tx: column(), ty: column(), linked: new Uint8Array(frames) };
}

/** A scale below this, against the frame with the most spots, is no measurement but a collapse. */
const LEAST_SCALE = 0.02;

/**
 * The similarity of one frame with the least weighted squared error (Umeyama 1991; in complex numbers a linear
 * problem). Where a single spot is linked, `a` stays as it is and only the shift follows.
 */
export function fitFrame(
  seen: Observations,
  points: ScenePoints,
  weight: Float64Array,
  fits: Fits,
  f: number,
): void {
  const end = seen.first[f + 1];
  let n = 0;
  let w = 0;
  let rx = 0;
  let ry = 0;
  let zx = 0;
  let zy = 0;
  for (let k = seen.first[f]; k < end; k++) {
    const s = seen.spot[k];
    const px = points.x[s];
    if (px !== px) continue;
    const v = weight[k];
    n++;
    w += v;
    rx += v * px;
    ry += v * points.y[s];
    zx += v * seen.x[k];
    zy += v * seen.y[k];
  }
  fits.linked[f] = n === 0 || w === 0 ? 0 : 1;
  if (fits.linked[f] === 0) return;
  rx /= w;
  ry /= w;
  zx /= w;
  zy /= w;
  let re = 0;
  let im = 0;
  let spread = 0;
  if (n > 1) {
    for (let k = seen.first[f]; k < end; k++) {
      const s = seen.spot[k];
      const px = points.x[s] - rx;
      if (px !== px) continue;
      const py = points.y[s] - ry;
      const qx = seen.x[k] - zx;
      const qy = seen.y[k] - zy;
      const v = weight[k];
      re += v * (px * qx + py * qy);
      im += v * (px * qy - py * qx);
      spread += v * (px * px + py * py);
    }
  }
  // Spots in one place, or all but shrunk to one, tell neither rotation nor scale.
  if (spread > 1e-9 * w && Math.hypot(re, im) > LEAST_SCALE * spread) {
    fits.ax[f] = re / spread;
    fits.ay[f] = im / spread;
    fits.linked[f] = 2;
  }
  fits.tx[f] = zx - (fits.ax[f] * rx - fits.ay[f] * ry);
  fits.ty[f] = zy - (fits.ax[f] * ry + fits.ay[f] * rx);
}

/** First frames of a new spot that its scene point is averaged over while spreading. */
const FIRST_FRAMES = 12;

/**
 * First scene points: those of the anchor frame, then walking away from it both ways, each new spot where the
 * frames that it is first seen on put it. Repeats while a spot is still reached; the others stay NaN.
 */
export function spreadScenePoints(seen: Observations, anchor: number): ScenePoints {
  const points: ScenePoints = {
    x: new Float64Array(seen.spots).fill(NaN),
    y: new Float64Array(seen.spots).fill(NaN),
  };
  for (let k = seen.first[anchor]; k < seen.first[anchor + 1]; k++) {
    points.x[seen.spot[k]] = seen.x[k];
    points.y[seen.spot[k]] = seen.y[k];
  }
  const fits = emptyFits(seen.frames);
  const missing = () => points.x.reduce((n, v) => n + (Number.isNaN(v) ? 1 : 0), 0);
  for (let before = Infinity, now = missing(); now > 0 && now < before; now = missing()) {
    before = now;
    for (const step of [1, -1]) walk(seen, points, fits, anchor, step);
  }
  return points;
}

function walk(seen: Observations, points: ScenePoints, fits: Fits, anchor: number, step: number): void {
  const sums = { x: new Float64Array(seen.spots), y: new Float64Array(seen.spots) };
  const counts = new Int32Array(seen.spots);
  const { weight } = seen;
  for (let f = anchor; f >= 0 && f < seen.frames; f += step) {
    if (f !== anchor) {
      fits.ax[f] = fits.ax[f - step];
      fits.ay[f] = fits.ay[f - step];
    }
    fitFrame(seen, points, weight, fits, f);
    if (fits.linked[f] === 0) continue;
    const norm = fits.ax[f] ** 2 + fits.ay[f] ** 2;
    for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
      const s = seen.spot[k];
      if (!Number.isNaN(points.x[s]) && (counts[s] === 0 || counts[s] >= FIRST_FRAMES)) continue;
      const qx = seen.x[k] - fits.tx[f];
      const qy = seen.y[k] - fits.ty[f];
      counts[s]++;
      sums.x[s] += (fits.ax[f] * qx + fits.ay[f] * qy) / norm;
      sums.y[s] += (fits.ax[f] * qy - fits.ay[f] * qx) / norm;
      points.x[s] = sums.x[s] / counts[s];
      points.y[s] = sums.y[s] / counts[s];
    }
  }
}

const MOST_ITERATIONS = 80;
/** Pixels by which scene points may still move when they are taken to be settled. */
const CLOSE_ENOUGH = 1e-8;

/**
 * Moves scene points to where the joint problem - all frames' similarities and all scene points at once - has
 * its least weighted squared error.
 *
 * Taken back to the anchor frame, the error of a sample z is b z + c - r: linear in the frame's similarity (b, c)
 * and the scene point r. The similarities are eliminated (the Schur complement of bundle adjustment; Triggs,
 * McLauchlan, Hartley and Fitzgibbon 2000, section 6) and what is left in r is solved by preconditioned conjugate
 * gradients, without ever forming its matrix. A similarity of all scene points together changes nothing in the
 * picture and is held; it would let them shrink to a point.
 *
 * Cost: samples x iterations; few where the spots see much of each other.
 */
export function refineScenePoints(seen: Observations, points: ScenePoints, weight: Float64Array): void {
  const { spots, frames, first } = seen;
  const frameSums = sumFrames(seen, points, weight);
  const diagonal = new Float64Array(spots);
  for (let f = 0; f < frames; f++) {
    if (frameSums.used[f] === 0) continue;
    for (let k = first[f]; k < first[f + 1]; k++) {
      if (!Number.isNaN(points.x[seen.spot[k]])) diagonal[seen.spot[k]] += weight[k];
    }
  }
  const active = diagonal.map((d) => (d > 0 ? 1 : 0));
  const size = 2 * spots;
  const r = new Float64Array(size);
  for (let s = 0; s < spots; s++) {
    if (!active[s]) continue;
    r[2 * s] = points.x[s];
    r[2 * s + 1] = points.y[s];
  }
  const project = heldSimilarity(r, active);
  const precondition = (v: Float64Array): Float64Array => {
    const out = new Float64Array(size);
    for (let i = 0; i < size; i++) if (active[i >> 1]) out[i] = v[i] / diagonal[i >> 1];
    return project(out);
  };
  const residual = project(gradient(seen, frameSums, r).map((v) => -v));
  let z = precondition(residual);
  let rz = dot(residual, z);
  const p = z.slice();
  const scale = CLOSE_ENOUGH ** 2 * spots;
  for (let round = 0; round < MOST_ITERATIONS && rz > 0 && dot(z, z) > scale; round++) {
    const q = project(gradient(seen, frameSums, p));
    const pq = dot(p, q);
    if (!(pq > 0)) break;
    const step = rz / pq;
    for (let i = 0; i < size; i++) {
      r[i] += step * p[i];
      residual[i] -= step * q[i];
    }
    z = precondition(residual);
    const next = dot(residual, z);
    const keep = next / rz;
    rz = next;
    for (let i = 0; i < size; i++) p[i] = z[i] + keep * p[i];
  }
  for (let s = 0; s < spots; s++) {
    if (!active[s]) continue;
    points.x[s] = r[2 * s];
    points.y[s] = r[2 * s + 1];
  }
}

/** What of each frame does not change while scene points do. */
interface FrameSums {
  readonly w: Float64Array;
  readonly zx: Float64Array;
  readonly zy: Float64Array;
  readonly spread: Float64Array;
  readonly used: Uint8Array;
  /** Weight of a sample, 0 where its spot is not linked. */
  readonly counted: Float64Array;
}

function sumFrames(seen: Observations, points: ScenePoints, weight: Float64Array): FrameSums {
  const column = () => new Float64Array(seen.frames);
  const sums = { w: column(), zx: column(), zy: column(), spread: column() };
  const used = new Uint8Array(seen.frames);
  const counted = weight.slice();
  for (let f = 0; f < seen.frames; f++) {
    let n = 0;
    let w = 0;
    let zx = 0;
    let zy = 0;
    for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
      if (Number.isNaN(points.x[seen.spot[k]])) counted[k] = 0;
      const v = counted[k];
      if (v > 0) n++;
      w += v;
      zx += v * seen.x[k];
      zy += v * seen.y[k];
    }
    if (n < 2) continue;
    zx /= w;
    zy /= w;
    let spread = 0;
    for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
      spread += counted[k] * ((seen.x[k] - zx) ** 2 + (seen.y[k] - zy) ** 2);
    }
    used[f] = spread > 1e-9 * w ? 1 : 0;
    sums.w[f] = w;
    sums.zx[f] = zx;
    sums.zy[f] = zy;
    sums.spread[f] = spread;
  }
  return { ...sums, used, counted };
}

/** Half the gradient of the squared error with respect to scene points `r` (x, y in turn), similarities eliminated. */
function gradient(seen: Observations, sums: FrameSums, r: Float64Array): Float64Array {
  const out = new Float64Array(r.length);
  const { first, spot, x, y } = seen;
  const { counted } = sums;
  for (let f = 0; f < seen.frames; f++) {
    if (sums.used[f] === 0) continue;
    const end = first[f + 1];
    const zx = sums.zx[f];
    const zy = sums.zy[f];
    let rx = 0;
    let ry = 0;
    let re = 0;
    let im = 0;
    for (let k = first[f]; k < end; k++) {
      const i = spot[k] << 1;
      const v = counted[k];
      const vx = v * r[i];
      const vy = v * r[i + 1];
      const px = x[k] - zx;
      const py = y[k] - zy;
      rx += vx;
      ry += vy;
      re += px * vx + py * vy;
      im += px * vy - py * vx;
    }
    const w = 1 / sums.w[f];
    rx *= w;
    ry *= w;
    const bx = re / sums.spread[f];
    const by = im / sums.spread[f];
    for (let k = first[f]; k < end; k++) {
      const i = spot[k] << 1;
      const v = counted[k];
      const px = x[k] - zx;
      const py = y[k] - zy;
      out[i] += v * (r[i] - rx - bx * px + by * py);
      out[i + 1] += v * (r[i + 1] - ry - bx * py - by * px);
    }
  }
  return out;
}

/** Takes out of a vector what moves, turns or scales all active scene points together. Works in place. */
function heldSimilarity(r: Float64Array, active: Float64Array): (v: Float64Array) => Float64Array {
  const n = active.reduce((a, b) => a + b, 0) || 1;
  let mx = 0;
  let my = 0;
  for (let s = 0; s < active.length; s++) {
    mx += active[s] * r[2 * s];
    my += active[s] * r[2 * s + 1];
  }
  mx /= n;
  my /= n;
  const cx = new Float64Array(active.length);
  const cy = new Float64Array(active.length);
  let norm = 0;
  for (let s = 0; s < active.length; s++) {
    cx[s] = active[s] * (r[2 * s] - mx);
    cy[s] = active[s] * (r[2 * s + 1] - my);
    norm += cx[s] ** 2 + cy[s] ** 2;
  }
  norm = norm || 1;
  return (v) => {
    let sx = 0;
    let sy = 0;
    let re = 0;
    let im = 0;
    for (let s = 0; s < active.length; s++) {
      const vx = active[s] * v[2 * s];
      const vy = active[s] * v[2 * s + 1];
      sx += vx;
      sy += vy;
      re += cx[s] * vx + cy[s] * vy;
      im += cx[s] * vy - cy[s] * vx;
    }
    sx /= n;
    sy /= n;
    re /= norm;
    im /= norm;
    for (let s = 0; s < active.length; s++) {
      v[2 * s] = active[s] * (v[2 * s] - sx - (re * cx[s] - im * cy[s]));
      v[2 * s + 1] = active[s] * (v[2 * s + 1] - sy - (re * cy[s] + im * cx[s]));
    }
    return v;
  };
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += a[i] * b[i];
  return sum;
}
