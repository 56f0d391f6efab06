/**
 * Sums for the normalised cross-correlation of a patch with a plane of bytes at many whole shifts: see
 * src/correlation.ts. Nothing but whole numbers: the sums are exact.
 *
 * @param plane   the sample under the patch's first at the first shift; everything that is read lies in the plane
 * @param patch   16-bit values, rows of `n` rounded up to eights, zeros in the rest
 * @param scores  three 32-bit numbers a shift: b, b b, a b
 */
export function correlationSums(
  plane: usize, stride: i32, patch: usize, n: i32, m: i32, columns: i32, rows: i32, out: usize,
): void {
  const ones = i16x8.splat(1);
  const rest = n & 7 ? i16x8.lt_s(i16x8(0, 1, 2, 3, 4, 5, 6, 7), i16x8.splat(<i16>(n & 7))) : i16x8.splat(-1);
  const whole = (n - 1) & ~7;
  for (let j = 0; j < rows; j++) {
    for (let i = 0; i < columns; i++) {
      let sb = i32x4.splat(0);
      let sbb = sb;
      let sab = sb;
      let p = plane + i;
      let q = patch;
      for (let v = 0; v < m; v++) {
        for (let u = 0; u < whole; u += 8) {
          const b = v128.load8x8_u(p + u);
          sb = i32x4.add(sb, i32x4.dot_i16x8_s(b, ones));
          sbb = i32x4.add(sbb, i32x4.dot_i16x8_s(b, b));
          sab = i32x4.add(sab, i32x4.dot_i16x8_s(b, v128.load(q)));
          q += 16;
        }
        const b = v128.and(v128.load8x8_u(p + whole), rest);
        sb = i32x4.add(sb, i32x4.dot_i16x8_s(b, ones));
        sbb = i32x4.add(sbb, i32x4.dot_i16x8_s(b, b));
        sab = i32x4.add(sab, i32x4.dot_i16x8_s(b, v128.load(q)));
        q += 16;
        p += stride;
      }
      i32.store(out, all(sb));
      i32.store(out, all(sbb), 4);
      i32.store(out, all(sab), 8);
      out += 12;
    }
    plane += stride;
  }
}

@inline
function all(v: v128): i32 {
  return (
    i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + (i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3))
  );
}
