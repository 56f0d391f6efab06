/**
 * Means of two by two bytes: see src/box-half.ts, with which it agrees bit for bit.
 *
 * @param pairs  whole pairs of a row; what is left of it is done elsewhere
 */
export function boxHalf(from: usize, stride: i32, pairs: i32, rows: i32, to: usize, toStride: i32): void {
  const two = i16x8.splat(2);
  for (let y = 0; y < rows; y++) {
    const b = from + stride;
    let x = 0;
    for (; x + 8 <= pairs; x += 8) {
      const sum = i16x8.add(
        i16x8.extadd_pairwise_i8x16_u(v128.load(from + 2 * x)), i16x8.extadd_pairwise_i8x16_u(v128.load(b + 2 * x)),
      );
      const eight = i16x8.shr_u(i16x8.add(sum, two), 2);
      v128.store64_lane(to + x, i8x16.narrow_i16x8_u(eight, eight), 0);
    }
    for (; x < pairs; x++) {
      const p = <usize>(2 * x);
      const sum = <i32>load<u8>(from + p) + <i32>load<u8>(from + p, 1) + <i32>load<u8>(b + p) + <i32>load<u8>(b + p, 1);
      store<u8>(to + x, <u8>((sum + 2) >> 2));
    }
    from += 2 * stride;
    to += toStride;
  }
}
