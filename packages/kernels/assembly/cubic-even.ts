/**
 * Places of a row that go on by equal steps, by cubic convolution, eight at a time in 16-bit numbers: see src/cubic.ts.
 * Goes on until eight places in a row do not all lie well inside the plane.
 *
 * Weights are kept in 16384ths, what a line comes to in 64ths of a grey level.
 *
 * @param x, y    corner-based place of the row's first
 * @param dx, dy  the step: 0 < dx <= 1.5, |dy| <= 1/8, so that eight places span two lines at the most
 * @returns the first of `from` to `n - 1` that was not done
 */
export function cubicEvenRow(
  plane: usize, width: i32, height: i32, stride: i32, x: f64, y: f64, dx: f64, dy: f64, from: i32, n: i32,
  out: usize,
): i32 {
  const stepX = <i64>(dx * WHOLE);
  const stepY = <i64>(dy * WHOLE);
  const startX = <i64>((x - 0.5) * WHOLE);
  const startY = <i64>((y - 0.5) * WHOLE);
  const acrossA = offsets(stepX, 0);
  const acrossB = offsets(stepX, 4);
  const downA = offsets(stepY, 0);
  const downB = offsets(stepY, 4);
  const spanY = <i32>((7 * stepY) >> 16);
  let i = from;
  while (i < n) {
    if (i + 8 > n) {
      // The last eight once more: those of them that are done come out as they are.
      if (n - from < 8) return i;
      i = n - 8;
    }
    const atX = startX + <i64>i * stepX;
    const atY = startY + <i64>i * stepY;
    const ix = <i32>(atX >> 32);
    const iy = <i32>(atY >> 32);
    // As the lanes have it, to the last bit.
    const partY = <i32>((atY >> 16) & 0xffff);
    const endY = iy + ((partY + spanY) >> 16);
    const top = min(iy, endY);
    if (ix < 1 || <i32>((atX + 7 * stepX) >> 32) >= width - 2 || top < 1 || max(iy, endY) >= height - 2) return i;
    const x0 = i32x4.splat(<i32>((atX >> 16) & 0xffff));
    const xa = i32x4.add(x0, acrossA);
    const xb = i32x4.add(x0, acrossB);
    const f = fractions(xa, xb);
    const g = i16x8.sub(i16x8.splat(0x7fff), f);
    const fg = i16x8.q15mulr_sat_s(f, g);
    const ffg = i16x8.q15mulr_sat_s(fg, f);
    const w0 = outer(i16x8.q15mulr_sat_s(fg, g));
    const w1 = inner(g, fg, ffg);
    const w3 = outer(ffg);
    const w2 = rest(w0, w1, w3);
    const y0 = i32x4.splat(partY + ((iy - top) << 16));
    const ya = i32x4.add(y0, downA);
    const yb = i32x4.add(y0, downB);
    const e = fractions(ya, yb);
    const d = i16x8.sub(i16x8.splat(0x7fff), e);
    const ed = i16x8.q15mulr_sat_s(e, d);
    const eed = i16x8.q15mulr_sat_s(ed, e);
    const h0 = outer(i16x8.q15mulr_sat_s(ed, d));
    const h1 = inner(d, ed, eed);
    const h3 = outer(eed);
    const h2 = rest(h0, h1, h3);
    // Of each place the first two samples, then the other two, in 16 bits each side by side.
    const ta = taps(xa);
    const tb = taps(xb);
    const ua = i32x4.add(ta, i32x4.splat(0x20002));
    const ub = i32x4.add(tb, i32x4.splat(0x20002));
    const wa = low(w0, w1);
    const wb = high(w0, w1);
    const va = low(w2, w3);
    const vb = high(w2, w3);
    const p = plane + (top - 1) * stride + (ix - 1);
    const r0 = line(p, ta, tb, ua, ub, wa, wb, va, vb);
    const r1 = line(p + stride, ta, tb, ua, ub, wa, wb, va, vb);
    const r2 = line(p + 2 * stride, ta, tb, ua, ub, wa, wb, va, vb);
    const r3 = line(p + 3 * stride, ta, tb, ua, ub, wa, wb, va, vb);
    let sumA: v128;
    let sumB: v128;
    if (iy === endY) {
      sumA = i32x4.add(i32x4.dot_i16x8_s(low(r0, r1), low(h0, h1)), i32x4.dot_i16x8_s(low(r2, r3), low(h2, h3)));
      sumB = i32x4.add(i32x4.dot_i16x8_s(high(r0, r1), high(h0, h1)), i32x4.dot_i16x8_s(high(r2, r3), high(h2, h3)));
    } else {
      // Some of the eight lie a line further down.
      const none = i16x8.splat(0);
      const upper = i16x8.eq(i16x8.narrow_i32x4_s(i32x4.shr_s(ya, 16), i32x4.shr_s(yb, 16)), none);
      const r4 = line(p + 4 * stride, ta, tb, ua, ub, wa, wb, va, vb);
      const k0 = v128.and(h0, upper);
      const k1 = v128.bitselect(h1, h0, upper);
      const k2 = v128.bitselect(h2, h1, upper);
      const k3 = v128.bitselect(h3, h2, upper);
      const k4 = v128.andnot(h3, upper);
      sumA = i32x4.add(
        i32x4.add(i32x4.dot_i16x8_s(low(r0, r1), low(k0, k1)), i32x4.dot_i16x8_s(low(r2, r3), low(k2, k3))),
        i32x4.dot_i16x8_s(low(r4, none), low(k4, none)),
      );
      sumB = i32x4.add(
        i32x4.add(i32x4.dot_i16x8_s(high(r0, r1), high(k0, k1)), i32x4.dot_i16x8_s(high(r2, r3), high(k2, k3))),
        i32x4.dot_i16x8_s(high(r4, none), high(k4, none)),
      );
    }
    // Half a level, and half of what lines lose where they are cut to 64ths.
    const round = i32x4.splat((1 << 19) + (1 << 13));
    const whole = i16x8.narrow_i32x4_s(
      i32x4.shr_s(i32x4.add(sumA, round), 20), i32x4.shr_s(i32x4.add(sumB, round), 20),
    );
    v128.store64_lane(out + i, i8x16.narrow_i16x8_u(whole, whole), 0);
    i += 8;
  }
  return i;
}

const WHOLE: f64 = 4294967296;

/** How far four places lie from the first of eight, in 65536ths. */
@inline
function offsets(step: i64, first: i64): v128 {
  let v = i32x4.splat(<i32>((first * step) >> 16));
  v = i32x4.replace_lane(v, 1, <i32>(((first + 1) * step) >> 16));
  v = i32x4.replace_lane(v, 2, <i32>(((first + 2) * step) >> 16));
  return i32x4.replace_lane(v, 3, <i32>(((first + 3) * step) >> 16));
}

/** What two times four places have beyond whole ones, in 32768ths. */
@inline
function fractions(a: v128, b: v128): v128 {
  const low = i32x4.splat(0xffff);
  return i16x8.narrow_i32x4_s(i32x4.shr_u(v128.and(a, low), 1), i32x4.shr_u(v128.and(b, low), 1));
}

/** The weight of a sample beyond the two that a place lies between: minus half of f g g, or of f f g. */
@inline
function outer(fgg: v128): v128 {
  return i16x8.sub(i16x8.splat(0), i16x8.shr_s(fgg, 2));
}

/** The weight of the first of the two: g + f g - 3/2 f f g. */
@inline
function inner(g: v128, fg: v128, ffg: v128): v128 {
  return i16x8.shr_s(i16x8.sub(i16x8.add(g, fg), i16x8.add(ffg, i16x8.shr_s(ffg, 1))), 1);
}

/** What the other weights leave of one. */
@inline
function rest(a: v128, b: v128, c: v128): v128 {
  return i16x8.sub(i16x8.splat(16384), i16x8.add(a, i16x8.add(b, c)));
}

/** Bytes of a line's sixteen that a place's first two samples are, each followed by none. */
@inline
function taps(x: v128): v128 {
  const off = i32x4.shr_s(x, 16);
  return i32x4.add(v128.or(off, i32x4.shl(off, 16)), i32x4.splat(<i32>0x80018000));
}

/** The first four of two times eight numbers, in pairs. */
@inline
function low(a: v128, b: v128): v128 {
  return v128.shuffle<i16>(a, b, 0, 8, 1, 9, 2, 10, 3, 11);
}

/** The last four. */
@inline
function high(a: v128, b: v128): v128 {
  return v128.shuffle<i16>(a, b, 4, 12, 5, 13, 6, 14, 7, 15);
}

/** Four samples for each of eight places out of sixteen, weighted and summed. */
@inline
function line(
  p: usize, ta: v128, tb: v128, ua: v128, ub: v128, wa: v128, wb: v128, va: v128, vb: v128,
): v128 {
  const samples = v128.load(p);
  const a = i32x4.add(
    i32x4.dot_i16x8_s(i8x16.swizzle(samples, ta), wa), i32x4.dot_i16x8_s(i8x16.swizzle(samples, ua), va),
  );
  const b = i32x4.add(
    i32x4.dot_i16x8_s(i8x16.swizzle(samples, tb), wb), i32x4.dot_i16x8_s(i8x16.swizzle(samples, ub), vb),
  );
  return i16x8.narrow_i32x4_s(i32x4.shr_s(a, 8), i32x4.shr_s(b, 8));
}
