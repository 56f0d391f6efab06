/** What several kernels do with the lanes of a vector. */

/** All ones in the first `count` of four lanes. */
@inline
export function firstLanes(count: i32): v128 {
  return i32x4.lt_s(i32x4(0, 1, 2, 3), i32x4.splat(count));
}

/** Four bytes as floats. */
@inline
export function fourBytes(p: usize): v128 {
  return f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(p))));
}

/** Sum of four floats. */
@inline
export function sumOf(v: v128): f32 {
  return (
    f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3))
  );
}

/** Sum of two doubles. */
@inline
export function sumOfTwo(v: v128): f64 {
  return f64x2.extract_lane(v, 0) + f64x2.extract_lane(v, 1);
}

/** Two sums of doubles, with the four floats of a vector added. */
@inline
export function addWide(sums: v128, v: v128): v128 {
  return f64x2.add(
    sums,
    f64x2.add(f64x2.promote_low_f32x4(v), f64x2.promote_low_f32x4(v128.shuffle<f32>(v, v, 2, 3, 0, 1))),
  );
}
