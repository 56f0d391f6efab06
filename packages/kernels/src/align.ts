import { ALIGNMENT_SUMS, alignmentSums, type PatchImages, type Window } from './alignment-sums.js';
import type { BytePlane } from './plane.js';
import { splineShaped, splineUpright, type Shape } from './spline.js';

/** What a patch may do from frame to frame besides changing in gain and offset. */
export type Allow = 'shift' | 'similarity' | 'affine';

/** How many numbers a motion has. */
export const MOVES: Readonly<Record<Allow, number>> = { shift: 2, similarity: 4, affine: 6 };

/** A place and shape of a patch in a picture. */
export interface Pose {
  /** Centre in corner-based coordinates of the plane. */
  readonly x: number;
  readonly y: number;
  readonly shape: Shape;
}

/** Where an alignment ended. */
export interface Settled extends Pose {
  /** False when the iteration ran off or did not settle. */
  readonly converged: boolean;
}

/** How far, and how finely, a patch is to be aligned. */
export interface Aim {
  readonly allow: Allow;
  /** The part of the patch that counts. */
  readonly window: Window;
  /** The inverse of the products of the motion's images, the patch and one with each other, row by row. */
  readonly inverseNormal: Float64Array;
  /** How far, in samples, the result may lie from the guess before it counts as run off. */
  readonly limit: number;
  /** The step, in samples, below which a place is exact enough. */
  readonly settled: number;
}

export const UPRIGHT: Shape = [1, 0, 0, 1];

export const MOST_STEPS = 15;
/** A shape whose area has changed by more than this ratio to either side has run off. */
export const LARGEST_GROWTH = 9;

const sums = new Float64Array(ALIGNMENT_SUMS);
const moments = new Float64Array(ALIGNMENT_SUMS);
const solution = new Float64Array(ALIGNMENT_SUMS);

/**
 * Sub-pixel alignment of a fixed patch by shift, similarity or affine motion with gain and offset: inverse-compositional
 * Lucas-Kanade (Baker and Matthews 2004, "Lucas-Kanade 20 years on", section 3.2, with the linear appearance variation
 * of part 3). The model I(W(x)) = g T(x + d(x)) + o is linearised over the steepest descent images of d, the patch itself
 * and a constant, so that the normal matrix depends on the patch alone and is inverted once.
 *
 * @param seen  receives what is seen of the patch at the last place but one: it is a hair away when it settled, else
 *              at the last
 * Cost: about twenty multiply-adds a place and step; two to five steps as a rule.
 */
export function alignPlain(
  plane: BytePlane,
  images: PatchImages,
  guess: Pose,
  { allow, window, inverseNormal, limit, settled }: Aim,
  seen: Float32Array,
): Settled {
  const { hw, hh } = images;
  const moves = MOVES[allow];
  let { x, y, shape } = guess;
  let converged = false;
  let sampled = false;
  const sample = () => {
    if (shape === UPRIGHT) splineUpright(plane, x, y, images, seen);
    else splineShaped(plane, x, y, shape, images, seen);
  };
  for (let step = 0; step < MOST_STEPS; step++) {
    sample();
    sampled = true;
    alignmentSums(seen, images, window, sums);
    solve(allow, inverseNormal);
    const gain = solution[moves];
    if (Math.abs(gain) < 1e-3) break;
    for (let r = 0; r < moves; r++) solution[r] /= gain;
    const length = Math.hypot(solution[0], solution[1]);
    const damp = length > 1 ? 1 / length : 1;
    const [tx, ty] = [solution[0] * damp, solution[1] * damp];
    const d = increment(solution, allow);
    const det = d[0] * d[3] - d[1] * d[2];
    if (!(det > 0.25 && det < 4)) break;
    // W <- W o (x -> D x + t)^-1
    const inverseD: Shape = d === UPRIGHT ? d : [d[3] / det, -d[1] / det, -d[2] / det, d[0] / det];
    shape = multiplyShapes(shape, inverseD);
    x -= shape[0] * tx + shape[1] * ty;
    y -= shape[2] * tx + shape[3] * ty;
    const area = shape[0] * shape[3] - shape[1] * shape[2];
    const off = Math.hypot(x - guess.x, y - guess.y);
    if (off > limit || !(area > 1 / LARGEST_GROWTH && area < LARGEST_GROWTH)) break;
    sampled = false;
    const change = Math.max(Math.abs(d[0] - 1), Math.abs(d[1]), Math.abs(d[2]), Math.abs(d[3] - 1));
    if (length + 0.3 * change * Math.max(hw, hh) < settled) {
      // The picture as it was sampled is good for the score: it is a hair away.
      converged = sampled = true;
      break;
    }
  }
  if (!sampled) sample();
  return { x, y, shape, converged };
}

/** Least squares: products of what is seen with every image, then the inverse. */
function solve(allow: Allow, inverseNormal: Float64Array): void {
  const moves = MOVES[allow];
  const [gx, gy, ux, vx, uy, vy, patch, one] = sums;
  const images = allow === 'similarity' ? [gx, gy, uy - vx, ux + vy] : [gx, gy, ux, vx, uy, vy];
  for (let r = 0; r < moves; r++) moments[r] = images[r];
  moments[moves] = patch;
  moments[moves + 1] = one;
  const count = moves + 2;
  for (let r = 0; r < count; r++) {
    let sum = 0;
    for (let c = 0; c < count; c++) sum += inverseNormal[r * count + c] * moments[c];
    solution[r] = sum;
  }
}

/** I + the linear part of the step that was solved for. */
function increment(q: Float64Array, allow: Allow): Shape {
  if (allow === 'shift') return UPRIGHT;
  if (allow === 'similarity') return [1 + q[3], -q[2], q[2], 1 + q[3]];
  return [1 + q[2], q[3], q[4], 1 + q[5]];
}

/** The map that does `b` first, then `a`. */
export function multiplyShapes(a: Shape, b: Shape): Shape {
  if (b === UPRIGHT) return a;
  return [
    a[0] * b[0] + a[1] * b[2],
    a[0] * b[1] + a[1] * b[3],
    a[2] * b[0] + a[3] * b[2],
    a[2] * b[1] + a[3] * b[3],
  ];
}
