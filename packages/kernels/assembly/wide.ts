/**
 * Places of a row that go on by equal steps, by the cubic kernel made wider by `shrink`, which is 2 at the most: see
 * src/wide.ts, with which it agrees but for what single precision leaves.
 *
 * @param x, y  corner-based place of the row's first
 * @param room  32 bytes
 * @returns the first of `from` to `n - 1` of which not all eight by eight samples lie in the plane
 */
export function wideEvenRow(
  plane: usize, width: i32, height: i32, stride: i32, x: f64, y: f64, dx: f64, dy: f64, shrink: f64, from: i32,
  n: i32, out: usize, room: usize,
): i32 {
  const taps = <i32>Math.ceil(4 * shrink);
  const narrow = f32x4.splat(<f32>(1 / shrink));
  for (let i = from; i < n; i++) {
    const px = x + <f64>i * dx;
    const py = y + <f64>i * dy;
    const firstX = Math.floor(px - 0.5 - 2 * shrink) + 1;
    const firstY = Math.floor(py - 0.5 - 2 * shrink) + 1;
    if (!(firstX >= 0 && firstY >= 0 && firstX + 8 <= <f64>width && firstY + 8 <= <f64>height)) return i;
    const offX = f32x4.splat(<f32>(firstX - px + 0.5));
    const offY = f32x4.splat(<f32>(firstY - py + 0.5));
    const wa = weights(offX, 0, narrow);
    const wb = weights(offX, 4, narrow);
    const va = weights(offY, 0, narrow);
    const vb = weights(offY, 4, narrow);
    v128.store(room, va);
    v128.store(room, vb, 16);
    let sum = f32x4.splat(0);
    let p = plane + <i32>firstY * stride + <i32>firstX;
    for (let r = 0; r < taps; r++) {
      const samples = i16x8.extend_low_i8x16_u(v128.load64_zero(p));
      const line = f32x4.add(
        f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_s(samples)), wa),
        f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_s(samples)), wb),
      );
      sum = f32x4.add(sum, f32x4.mul(line, v128.load32_splat(room + 4 * r)));
      p += stride;
    }
    const all = total(f32x4.add(wa, wb)) * total(f32x4.add(va, vb));
    const value = total(sum) / all;
    store<u8>(out + i, <u8><i32>(min<f32>(255, max<f32>(0, value)) + 0.5));
  }
  return n;
}

/** The kernel at four places a sample apart, from the `first` on; none beyond its reach. */
@inline
function weights(off: v128, first: f32, narrow: v128): v128 {
  const t = f32x4.mul(f32x4.add(off, f32x4.add(f32x4(0, 1, 2, 3), f32x4.splat(first))), narrow);
  const a = f32x4.abs(t);
  const inner = f32x4.add(
    f32x4.mul(f32x4.mul(f32x4.sub(f32x4.mul(f32x4.splat(1.5), a), f32x4.splat(2.5)), a), a), f32x4.splat(1),
  );
  const outer = f32x4.add(
    f32x4.mul(
      f32x4.sub(f32x4.mul(f32x4.sub(f32x4.splat(2.5), f32x4.mul(f32x4.splat(0.5), a)), a), f32x4.splat(4)), a,
    ),
    f32x4.splat(2),
  );
  const near = v128.bitselect(inner, outer, f32x4.lt(a, f32x4.splat(1)));
  return v128.and(near, f32x4.lt(a, f32x4.splat(2)));
}

@inline
function total(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3);
}
