import { alignmentSums } from './alignment-sums';
import { splineShaped, splineUpright } from './spline';

/**
 * The iteration of src/align.ts, which tells what it does; everything that is sampled has to lie in the picture.
 *
 * @param images   gx, gy, the patch, and room for what is seen of it, one after the other
 * @param kind     numbers of the motion: 2 shift, 4 similarity, 6 affine
 * @param upright  1 while there is no shape
 * @param inverse  (kind + 2) squared doubles
 * @param pose     six doubles x, y, a, b, c, d: the guess, then where it ended
 * @param room     a thousand bytes, then rows for the upright sampler
 * @returns 0 when it ran off or did not settle, 1 when it settled, 2 when the grid reached beyond the picture
 */
export function align(
  plane: usize, width: i32, height: i32, stride: i32, hw: i32, hh: i32, images: usize, kind: i32, upright: i32,
  inverse: usize, pose: usize, limit: f64, settled: f64, steps: i32, growth: f64, across: usize, down: usize,
  room: usize,
): i32 {
  const n = 2 * hw + 1;
  const m = 2 * hh + 1;
  const size = <usize>((((n + 3) >> 2) << 4) * m);
  const gy = images + size;
  const patch = gy + size;
  const seen = patch + size;
  const count = kind + 2;
  const guessX = f64.load(pose);
  const guessY = f64.load(pose, 8);
  const moments = room;
  const q = room + 128;
  let x = guessX;
  let y = guessY;
  let a = f64.load(pose, 16);
  let b = f64.load(pose, 24);
  let c = f64.load(pose, 32);
  let d = f64.load(pose, 40);
  let converged = 0;
  let sampled = false;
  for (let step = 0; step < steps; step++) {
    if (!sample(plane, width, height, stride, hw, hh, upright, x, y, a, b, c, d, across, down, room + 1024, seen))
      return 2;
    sampled = true;
    alignmentSums(seen, images, gy, patch, hw, hh, moments);
    arrange(moments, kind);
    for (let r = 0; r < count; r++) {
      let sum: f64 = 0;
      for (let k = 0; k < count; k++)
        sum += f64.load(inverse + ((r * count + k) << 3)) * f64.load(moments + (k << 3));
      f64.store(q + (r << 3), sum);
    }
    const gain = f64.load(q + (kind << 3));
    if (abs(gain) < 1e-3) break;
    for (let r = 0; r < kind; r++) f64.store(q + (r << 3), f64.load(q + (r << 3)) / gain);
    const length = hypot(f64.load(q), f64.load(q, 8));
    const damp = length > 1 ? 1 / length : 1;
    const tx = f64.load(q) * damp;
    const ty = f64.load(q, 8) * damp;
    let rim: f64 = 0;
    if (kind > 2) {
      const similar = kind === 4;
      const da = 1 + (similar ? f64.load(q, 24) : f64.load(q, 16));
      const db = similar ? -f64.load(q, 16) : f64.load(q, 24);
      const dc = similar ? f64.load(q, 16) : f64.load(q, 32);
      const dd = 1 + (similar ? f64.load(q, 24) : f64.load(q, 40));
      const det = da * dd - db * dc;
      if (!(det > 0.25 && det < 4)) break;
      const ea = a * (dd / det) - b * (dc / det);
      const eb = b * (da / det) - a * (db / det);
      const ec = c * (dd / det) - d * (dc / det);
      const ed = d * (da / det) - c * (db / det);
      a = ea;
      b = eb;
      c = ec;
      d = ed;
      upright = 0;
      rim = max(max(abs(da - 1), abs(db)), max(abs(dc), abs(dd - 1))) * <f64>max(hw, hh);
    }
    x -= a * tx + b * ty;
    y -= c * tx + d * ty;
    const area = a * d - b * c;
    if (hypot(x - guessX, y - guessY) > limit || !(area > 1 / growth && area < growth)) break;
    sampled = false;
    if (length + 0.3 * rim < settled) {
      converged = 1;
      sampled = true;
      break;
    }
  }
  if (!sampled) {
    if (!sample(plane, width, height, stride, hw, hh, upright, x, y, a, b, c, d, across, down, room + 1024, seen))
      return 2;
  }
  f64.store(pose, x);
  f64.store(pose, y, 8);
  f64.store(pose, a, 16);
  f64.store(pose, b, 24);
  f64.store(pose, c, 32);
  f64.store(pose, d, 40);
  return converged;
}

@inline
function hypot(x: f64, y: f64): f64 {
  return sqrt(x * x + y * y);
}

/** The sums of {@link alignmentSums} as those of the images of a motion, then the patch and one. */
@inline
function arrange(moments: usize, kind: i32): void {
  const ux = f64.load(moments, 16);
  const vx = f64.load(moments, 24);
  const uy = f64.load(moments, 32);
  const vy = f64.load(moments, 40);
  if (kind === 6) return;
  if (kind === 4) {
    f64.store(moments, uy - vx, 16);
    f64.store(moments, ux + vy, 24);
  }
  const to = moments + (kind << 3);
  const patch = f64.load(moments, 48);
  const one = f64.load(moments, 56);
  f64.store(to, patch);
  f64.store(to, one, 8);
}

const PARTS: f64 = 1048576;

/** @returns false when the grid reaches beyond the picture */
export function sample(
  plane: usize, width: i32, height: i32, stride: i32, hw: i32, hh: i32, upright: i32,
  cx: f64, cy: f64, a: f64, b: f64, c: f64, d: f64, across: usize, down: usize, rows: usize, out: usize,
): bool {
  const w = <f64>hw;
  const h = <f64>hh;
  const x = cx - 0.5;
  const y = cy - 0.5;
  const reachX = abs(a) * w + abs(b) * h;
  const reachY = abs(c) * w + abs(d) * h;
  const left = floor(x - reachX) - 1;
  const top = floor(y - reachY) - 1;
  if (!(left >= 0 && top >= 0 && x + reachX < <f64>(width - 3) && y + reachY < <f64>(height - 3))) return false;
  if (reachX > 1000 || reachY > 1000) return false;
  const origin = plane + <usize>(<i32>top * stride + <i32>left);
  const n = 2 * hw + 1;
  const m = 2 * hh + 1;
  if (upright) {
    splineUpright(origin, stride, <f32>(x - w - left - 1), <f32>(y - h - top - 1), n, m, rows, out);
  } else {
    splineShaped(
      origin, stride, part(x - a * w - b * h - left - 1), part(y - c * w - d * h - top - 1),
      part(a), part(c), part(b), part(d), n, m, across, down, out,
    );
  }
  return true;
}

@inline
function part(v: f64): i32 {
  return <i32>floor(v * PARTS + 0.5);
}
