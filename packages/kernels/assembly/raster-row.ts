/**
 * Places of a row of a raster of four channels by cubic convolution: see src/raster-row.ts.
 *
 * @param raster  four bytes a sample, row by row without a gap
 * @param xs, ys  doubles: corner-based places, times `shrink` and `shift` further in
 * @param across  eight 16-bit numbers a phase: the four weights in 16384ths, twice
 * @param out     four floats a place
 */
export function rasterRow(
  raster: usize, width: i32, height: i32, xs: usize, ys: usize, n: i32, shrink: f64, shift: f64, across: usize,
  out: usize,
): void {
  const stride = <usize>width << 2;
  const zero = f32x4.splat(0);
  for (let i = 0; i < n; i++, xs += 8, ys += 8, out += 16) {
    const x = load<f64>(xs) * shrink + shift - 0.5;
    const y = load<f64>(ys) * shrink + shift - 0.5;
    if (!(x >= 1 && y >= 1 && x < <f64>(width - 2) && y < <f64>(height - 2))) {
      v128.store(out, zero);
      continue;
    }
    const px = <i32>(x * 1024 + 0.5);
    const py = <i32>(y * 1024 + 0.5);
    const ix = min(px >> 10, width - 3);
    const iy = min(py >> 10, height - 3);
    const wx = across + (<usize>(px - (ix << 10)) << 4);
    const wy = across + (<usize>(py - (iy << 10)) << 4);
    // Two weights after one another, four times: for pairs of neighbours, channel by channel.
    const ab = v128.load32_splat(wx);
    const cd = v128.load32_splat(wx, 4);
    let p = raster + <usize>(iy - 1) * stride + (<usize>(ix - 1) << 2);
    let sum = f32x4.mul(line(p, ab, cd), f32x4.splat(<f32>load<i16>(wy)));
    p += stride;
    sum = f32x4.add(sum, f32x4.mul(line(p, ab, cd), f32x4.splat(<f32>load<i16>(wy, 2))));
    p += stride;
    sum = f32x4.add(sum, f32x4.mul(line(p, ab, cd), f32x4.splat(<f32>load<i16>(wy, 4))));
    p += stride;
    sum = f32x4.add(sum, f32x4.mul(line(p, ab, cd), f32x4.splat(<f32>load<i16>(wy, 6))));
    // A colour may be no more than it covers, and nothing covers more than all.
    const value = f32x4.max(zero, f32x4.mul(sum, f32x4.splat(ONE)));
    const alpha = f32x4.min(f32x4.splat(1), v128.shuffle<i32>(value, value, 3, 3, 3, 3));
    v128.store(out, f32x4.min(value, alpha));
  }
}

/** The same between four samples: see src/raster-row.ts. */
export function rasterRowBetween(
  raster: usize, width: i32, height: i32, xs: usize, ys: usize, n: i32, shrink: f64, shift: f64, out: usize,
): void {
  const stride = <usize>width << 2;
  const zero = f32x4.splat(0);
  const one = f32x4.splat(<f32>1 / <f32>255);
  for (let i = 0; i < n; i++, xs += 8, ys += 8, out += 16) {
    const x = load<f64>(xs) * shrink + shift - 0.5;
    const y = load<f64>(ys) * shrink + shift - 0.5;
    if (!(x >= 0 && y >= 0 && x < <f64>(width - 1) && y < <f64>(height - 1))) {
      v128.store(out, zero);
      continue;
    }
    const ix = <i32>x, iy = <i32>y;
    const across = f32x4.splat(<f32>(x - <f64>ix));
    const p = raster + <usize>iy * stride + (<usize>ix << 2);
    const above = between(p, across);
    const below = between(p + stride, across);
    const value = f32x4.add(above, f32x4.mul(f32x4.sub(below, above), f32x4.splat(<f32>(y - <f64>iy))));
    v128.store(out, f32x4.mul(value, one));
  }
}

/** Between a sample and the next. */
@inline
function between(p: usize, share: v128): v128 {
  const two = i16x8.extend_low_i8x16_u(v128.load64_zero(p));
  const a = f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(two));
  const b = f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(two));
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), share));
}

/** Of weights in 16384ths both ways, and of 255. */
const ONE: f32 = <f32>1 / (<f32>16384 * <f32>16384 * <f32>255);

/** Four samples after one another, weighted and summed, channel by channel. */
@inline
function line(p: usize, ab: v128, cd: v128): v128 {
  const four = v128.load(p);
  const pairs = i8x16.shuffle(four, four, 0, 4, 1, 5, 2, 6, 3, 7, 8, 12, 9, 13, 10, 14, 11, 15);
  return f32x4.convert_i32x4_s(
    i32x4.add(
      i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(pairs), ab), i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(pairs), cd),
    ),
  );
}
