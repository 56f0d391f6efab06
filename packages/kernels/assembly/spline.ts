/**
 * Samples of a plane of bytes, smoothed by the cubic B-spline: see src/spline.ts for what they mean. Everything that
 * is read lies in the plane: whoever calls has made sure.
 *
 * Weights are looked up by phase, 1024 a sample. `across` has eight 16-bit numbers a phase (the four weights in
 * 32768ths, twice), `down` eight 32-bit floats (each of the four weights in 32768ths of one, twice).
 */

import { firstLanes, fourBytes } from './lanes';

const PHASE_BITS: i32 = 10;
const PLACE_BITS: i32 = 20;
const HALF: i32 = 1 << (PLACE_BITS - PHASE_BITS - 1);
const FRACTION: i32 = (1 << PLACE_BITS) - 1;

@inline
function at(plane: usize, stride: i32, x: i32, y: i32, across: usize, down: usize): v128 {
  const p = plane + (y >> PLACE_BITS) * stride + (x >> PLACE_BITS);
  const w = v128.load(across + (<usize>(((x & FRACTION) + HALF) >> (PLACE_BITS - PHASE_BITS)) << 4));
  const h = down + (<usize>(((y & FRACTION) + HALF) >> (PLACE_BITS - PHASE_BITS)) << 5);
  let b = v128.load32_zero(p);
  b = v128.load_lane<u32>(p + stride, b, 1);
  b = v128.load_lane<u32>(p + 2 * stride, b, 2);
  b = v128.load_lane<u32>(p + 3 * stride, b, 3);
  const top = f32x4.convert_i32x4_s(i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(b), w));
  const low = f32x4.convert_i32x4_s(i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(b), w));
  return f32x4.add(f32x4.mul(top, v128.load(h)), f32x4.mul(low, v128.load(h, 16)));
}

/** Four places, each one sample beyond the one before and in the same rows: `p` is the first of the samples they share. */
@inline
function neighbours(p: usize, stride: i32, x: i32, y: i32, ax: i32, ay: i32, across: usize): v128 {
  const ab = v128.load64_lane(weights(across, x + ax), v128.load64_zero(weights(across, x)), 1);
  const cd = v128.load64_lane(weights(across, x + 3 * ax), v128.load64_zero(weights(across, x + 2 * ax)), 1);
  // How far each place is below its second row, then the spline's weights of the four rows, times 32768ths of one.
  const ys = i32x4.add(i32x4.splat(y & FRACTION), i32x4.mul(i32x4(0, 1, 2, 3), i32x4.splat(ay)));
  const f = f32x4.mul(f32x4.convert_i32x4_s(ys), f32x4.splat(<f32>1 / <f32>(1 << PLACE_BITS)));
  const g = f32x4.sub(f32x4.splat(1), f);
  const sixth = f32x4.splat(<f32>1 / <f32>(6 * 32768));
  const ff = f32x4.mul(f, f);
  const gg = f32x4.mul(g, g);
  const h0 = f32x4.mul(sixth, f32x4.mul(gg, g));
  const h3 = f32x4.mul(sixth, f32x4.mul(ff, f));
  const h1 = f32x4.mul(sixth, inner(f, ff));
  const h2 = f32x4.mul(sixth, inner(g, gg));
  return f32x4.add(
    f32x4.add(f32x4.mul(h0, row(p, ab, cd)), f32x4.mul(h1, row(p + stride, ab, cd))),
    f32x4.add(f32x4.mul(h2, row(p + 2 * stride, ab, cd)), f32x4.mul(h3, row(p + 3 * stride, ab, cd))),
  );
}

/** 3 f^3 - 6 f^2 + 4. */
@inline
function inner(f: v128, ff: v128): v128 {
  return f32x4.add(f32x4.mul(ff, f32x4.sub(f32x4.mul(f32x4.splat(3), f), f32x4.splat(6))), f32x4.splat(4));
}

@inline
function weights(across: usize, x: i32): usize {
  return across + (<usize>(((x & FRACTION) + HALF) >> (PLACE_BITS - PHASE_BITS)) << 4);
}

/** One row's samples, weighted for four neighbouring places. */
@inline
function row(p: usize, ab: v128, cd: v128): v128 {
  const b = v128.load8x8_u(p);
  const first = i32x4.dot_i16x8_s(v128.shuffle<u16>(b, b, 0, 1, 2, 3, 1, 2, 3, 4), ab);
  const second = i32x4.dot_i16x8_s(v128.shuffle<u16>(b, b, 2, 3, 4, 5, 3, 4, 5, 6), cd);
  return f32x4.convert_i32x4_s(
    i32x4.add(v128.shuffle<i32>(first, second, 0, 2, 4, 6), v128.shuffle<i32>(first, second, 1, 3, 5, 7)),
  );
}

/** Sums of the lanes of each of four vectors. */
@inline
function sums(a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = f32x4.add(v128.shuffle<f32>(a, b, 0, 1, 4, 5), v128.shuffle<f32>(a, b, 2, 3, 6, 7));
  const cd = f32x4.add(v128.shuffle<f32>(c, d, 0, 1, 4, 5), v128.shuffle<f32>(c, d, 2, 3, 6, 7));
  return f32x4.add(v128.shuffle<f32>(ab, cd, 0, 2, 4, 6), v128.shuffle<f32>(ab, cd, 1, 3, 5, 7));
}

/**
 * A grid of n x m places; what is written has rows of `n` rounded up to fours, zeros in the rest.
 *
 * @param x, y        the first place, in 2^20ths of a sample, from the upper left of its sixteen samples at `plane`
 * @param ax, ay      from a place to the next in a row; @param bx, by  from a row to the next
 */
export function splineShaped(
  plane: usize, stride: i32, x: i32, y: i32, ax: i32, ay: i32, bx: i32, by: i32,
  n: i32, m: i32, across: usize, down: usize, out: usize,
): void {
  const whole = n & ~3;
  const rest = firstLanes(n & 3);
  for (let v = 0; v < m; v++) {
    let px = x;
    let py = y;
    for (let u = 0; u < whole; u += 4) {
      const ix = px >> PLACE_BITS;
      const iy = py >> PLACE_BITS;
      if (
        (px + 3 * ax) >> PLACE_BITS === ix + 3 && (px + 2 * ax) >> PLACE_BITS === ix + 2 &&
        (px + ax) >> PLACE_BITS === ix + 1 && (py + 3 * ay) >> PLACE_BITS === iy
      ) {
        v128.store(out, neighbours(plane + iy * stride + ix, stride, px, py, ax, ay, across));
        out += 16;
        px += 4 * ax;
        py += 4 * ay;
        continue;
      }
      const a = at(plane, stride, px, py, across, down);
      const b = at(plane, stride, px + ax, py + ay, across, down);
      const c = at(plane, stride, px + 2 * ax, py + 2 * ay, across, down);
      const d = at(plane, stride, px + 3 * ax, py + 3 * ay, across, down);
      v128.store(out, sums(a, b, c, d));
      out += 16;
      px += 4 * ax;
      py += 4 * ay;
    }
    if (n & 3) {
      const none = f32x4.splat(0);
      const a = at(plane, stride, px, py, across, down);
      const b = (n & 3) > 1 ? at(plane, stride, px + ax, py + ay, across, down) : none;
      const c = (n & 3) > 2 ? at(plane, stride, px + 2 * ax, py + 2 * ay, across, down) : none;
      v128.store(out, v128.and(sums(a, b, c, none), rest));
      out += 16;
    }
    x += bx;
    y += by;
  }
}

/**
 * The same for a grid that is not turned: all places have the same weights, first across, then down.
 *
 * @param plane   the upper left of the first place's sixteen samples
 * @param fx, fy  how far the first place lies beyond its sample, 0 to 1
 * @param rows    room for (m + 3) rows
 */
export function splineUpright(
  plane: usize, stride: i32, fx: f32, fy: f32, n: i32, m: i32, rows: usize, out: usize,
): void {
  const wide = ((n + 3) >> 2) << 4;
  const rest = n & 3 ? firstLanes(n & 3) : i32x4.splat(-1);
  const w0 = f32x4.splat(before(fx));
  const w1 = f32x4.splat(nearer(fx));
  const w2 = f32x4.splat(nearer(<f32>1 - fx));
  const w3 = f32x4.splat(before(<f32>1 - fx));
  let to = rows;
  for (let j = 0; j < m + 3; j++) {
    let p = plane;
    for (let i = 0; i < wide; i += 16, p += 4) {
      v128.store(
        to + i,
        f32x4.add(
          f32x4.add(f32x4.mul(w0, fourBytes(p)), f32x4.mul(w1, fourBytes(p + 1))),
          f32x4.add(f32x4.mul(w2, fourBytes(p + 2)), f32x4.mul(w3, fourBytes(p + 3))),
        ),
      );
    }
    to += wide;
    plane += stride;
  }
  const h0 = f32x4.splat(before(fy));
  const h1 = f32x4.splat(nearer(fy));
  const h2 = f32x4.splat(nearer(<f32>1 - fy));
  const h3 = f32x4.splat(before(<f32>1 - fy));
  for (let j = 0; j < m; j++) {
    for (let i = 0; i < wide; i += 16) {
      const p = rows + j * wide + i;
      const value = f32x4.add(
        f32x4.add(f32x4.mul(h0, v128.load(p)), f32x4.mul(h1, v128.load(p + wide))),
        f32x4.add(f32x4.mul(h2, v128.load(p + 2 * wide)), f32x4.mul(h3, v128.load(p + 3 * wide))),
      );
      v128.store(out, i + 16 === wide ? v128.and(value, rest) : value);
      out += 16;
    }
  }
}

/** Weight of the sample before the two that a place lies between, `f` beyond the first of them. */
@inline
function before(f: f32): f32 {
  const g: f32 = <f32>1 - f;
  return (g * g * g) / 6;
}

/** Weight of the first of the two. */
@inline
function nearer(f: f32): f32 {
  return (3 * f * f * f - 6 * f * f + 4) / 6;
}
