/**
 * Places of a row by cubic convolution: see src/cubic.ts. Goes on until four places in a row do not all lie well inside
 * the plane, or fewer than four are left.
 *
 * @param xs, ys  doubles: corner-based places in the plane
 * @param across  eight 16-bit numbers a phase: the four weights in 16384ths, twice
 * @returns the first of `from` to `n - 1` that was not done
 */
export function cubicRow(
  plane: usize, width: i32, height: i32, stride: i32, xs: usize, ys: usize, from: i32, n: i32, across: usize,
  out: usize,
): i32 {
  const lastX = i32x4.splat(width - 2);
  const lastY = i32x4.splat(height - 2);
  const one = i32x4.splat(1);
  const taps = i8x16(0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3);
  let i = from;
  for (; i + 4 <= n; i += 4) {
    const nx = phases(xs + (<usize>i << 3));
    const ny = phases(ys + (<usize>i << 3));
    const ix = i32x4.shr_s(nx, PHASE_BITS);
    const iy = i32x4.shr_s(ny, PHASE_BITS);
    const inside = v128.and(
      v128.and(i32x4.ge_s(ix, one), i32x4.lt_s(ix, lastX)), v128.and(i32x4.ge_s(iy, one), i32x4.lt_s(iy, lastY)),
    );
    if (!i32x4.all_true(inside)) return i;
    const x0 = i32x4.extract_lane(ix, 0);
    const y0 = i32x4.extract_lane(iy, 0);
    const px = v128.and(nx, i32x4.splat(PHASES - 1));
    const f = f32x4.mul(
      f32x4.convert_i32x4_s(v128.and(ny, i32x4.splat(PHASES - 1))), f32x4.splat(<f32>1 / <f32>PHASES),
    );
    const g = f32x4.sub(f32x4.splat(1), f);
    const h0 = f32x4.mul(outer(f, g), f32x4.splat(PART));
    const h1 = f32x4.mul(inner(f), f32x4.splat(PART));
    const h2 = f32x4.mul(inner(g), f32x4.splat(PART));
    const h3 = f32x4.mul(outer(g, f), f32x4.splat(PART));
    const ab = v128.load64_lane(weights(across, px, 1), v128.load64_zero(weights(across, px, 0)), 1);
    const cd = v128.load64_lane(weights(across, px, 3), v128.load64_zero(weights(across, px, 2)), 1);
    const off = i32x4.sub(ix, i32x4.splat(x0));
    const row = i32x4.eq(iy, i32x4.splat(y0));
    let sum: v128;
    if (i32x4.all_true(v128.and(i32x4.le_u(off, i32x4.splat(4)), row))) {
      // All four read from the same eight samples of the same four rows.
      const p = plane + (y0 - 1) * stride + (x0 - 1);
      const at = i8x16.add(taps, i32x4.mul(off, i32x4.splat(0x01010101)));
      sum = f32x4.add(
        f32x4.add(
          f32x4.mul(h0, line(v128.load64_zero(p), at, ab, cd)),
          f32x4.mul(h1, line(v128.load64_zero(p + stride), at, ab, cd)),
        ),
        f32x4.add(
          f32x4.mul(h2, line(v128.load64_zero(p + 2 * stride), at, ab, cd)),
          f32x4.mul(h3, line(v128.load64_zero(p + 3 * stride), at, ab, cd)),
        ),
      );
    } else {
      const start = i32x4.add(i32x4.mul(i32x4.sub(iy, one), i32x4.splat(stride)), i32x4.sub(ix, one));
      const a = plane + i32x4.extract_lane(start, 0);
      const b = plane + i32x4.extract_lane(start, 1);
      const c = plane + i32x4.extract_lane(start, 2);
      const d = plane + i32x4.extract_lane(start, 3);
      const s1 = stride;
      const s2 = 2 * stride;
      const s3 = 3 * stride;
      sum = f32x4.add(
        f32x4.add(
          f32x4.mul(h0, weighted(gather(a, b, c, d), ab, cd)),
          f32x4.mul(h1, weighted(gather(a + s1, b + s1, c + s1, d + s1), ab, cd)),
        ),
        f32x4.add(
          f32x4.mul(h2, weighted(gather(a + s2, b + s2, c + s2, d + s2), ab, cd)),
          f32x4.mul(h3, weighted(gather(a + s3, b + s3, c + s3, d + s3), ab, cd)),
        ),
      );
    }
    const whole = i32x4.trunc_sat_f32x4_s(f32x4.add(sum, f32x4.splat(0.5)));
    const short = i16x8.narrow_i32x4_s(whole, whole);
    v128.store32_lane(out + i, i8x16.narrow_i16x8_u(short, short), 0);
  }
  return i;
}

const PHASE_BITS: i32 = 10;
const PHASES: i32 = 1 << PHASE_BITS;
const PART: f32 = <f32>1 / <f32>16384;
/** Added to a double it leaves the nearest whole number in the low word. */
const MAGIC: f64 = 6755399441055744;

/** Four places as whole phases from the first sample's centre; far away stays far away. */
@inline
function phases(p: usize): v128 {
  const a = f64x2.add(f64x2.mul(near(v128.load(p)), f64x2.splat(1024)), f64x2.splat(MAGIC - 512));
  const b = f64x2.add(f64x2.mul(near(v128.load(p, 16)), f64x2.splat(1024)), f64x2.splat(MAGIC - 512));
  return v128.shuffle<i32>(a, b, 0, 2, 4, 6);
}

@inline
function near(v: v128): v128 {
  return f64x2.pmin(f64x2.splat(1e6), f64x2.pmax(f64x2.splat(-1e6), v));
}

/** The weight of a sample beyond the two that a place lies between, `f` from the first, `g` from the second. */
@inline
function outer(f: v128, g: v128): v128 {
  return f32x4.mul(f32x4.mul(f, f32x4.mul(g, g)), f32x4.splat(-0.5));
}

/** The weight of the first of the two. */
@inline
function inner(f: v128): v128 {
  const ff = f32x4.mul(f, f);
  return f32x4.add(f32x4.mul(ff, f32x4.sub(f32x4.mul(f32x4.splat(1.5), f), f32x4.splat(2.5))), f32x4.splat(1));
}

@inline
function weights(across: usize, px: v128, lane: i32): usize {
  return across + (<usize>(
    lane === 0 ? i32x4.extract_lane(px, 0) : lane === 1 ? i32x4.extract_lane(px, 1)
    : lane === 2 ? i32x4.extract_lane(px, 2) : i32x4.extract_lane(px, 3)
  ) << 4);
}

/** Four samples for each of four places out of eight. */
@inline
function line(eight: v128, at: v128, ab: v128, cd: v128): v128 {
  return weighted(i8x16.swizzle(eight, at), ab, cd);
}

@inline
function gather(a: usize, b: usize, c: usize, d: usize): v128 {
  return v128.load32_lane(d, v128.load32_lane(c, v128.load32_lane(b, v128.load32_zero(a), 1), 2), 3);
}

/** Four times four samples, weighted and summed. */
@inline
function weighted(samples: v128, ab: v128, cd: v128): v128 {
  const first = i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(samples), ab);
  const second = i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(samples), cd);
  return f32x4.convert_i32x4_s(
    i32x4.add(v128.shuffle<i32>(first, second, 0, 2, 4, 6), v128.shuffle<i32>(first, second, 1, 3, 5, 7)),
  );
}

/** Numbers evenly apart: x + i dx for the first `n` whole i, two at a time, one more where `n` is odd. */
export function evenRow(x: f64, dx: f64, n: i32, out: usize): void {
  const start = f64x2.splat(x);
  const step = f64x2.splat(dx);
  const two = f64x2.splat(2);
  let at = f64x2(0, 1);
  for (const end = out + (<usize>n << 3); out < end; out += 16) {
    v128.store(out, f64x2.add(start, f64x2.mul(at, step)));
    at = f64x2.add(at, two);
  }
}
