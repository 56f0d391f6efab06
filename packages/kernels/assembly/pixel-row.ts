/**
 * A row of luma and chroma as pixels: see src/pixel-row.ts, with which it agrees bit for bit.
 *
 * @param u, v   as many samples as luma, or one for two
 * @param pairs  one for two
 * @param n      rounded up to whole eights, for which there has to be room
 * @param code   nine whole numbers: see PixelCode
 */
export function pixelRow(y: usize, u: usize, v: usize, pairs: bool, n: i32, code: usize, to: usize): void {
  const ky = v128.load32_splat(code), cy = v128.load32_splat(code, 4);
  const kr = v128.load32_splat(code, 8), cr = v128.load32_splat(code, 12);
  const ku = v128.load32_splat(code, 16), kv = v128.load32_splat(code, 20), cg = v128.load32_splat(code, 24);
  const kb = v128.load32_splat(code, 28), cb = v128.load32_splat(code, 32);
  const full = i8x16.splat(-1);
  for (let x = 0; x < n; x += 8) {
    const luma = i16x8.extend_low_i8x16_u(v128.load64_zero(y + x));
    const us = chroma(u, x, pairs), vs = chroma(v, x, pairs);
    const l0 = i32x4.add(i32x4.mul(i32x4.extend_low_i16x8_u(luma), ky), cy);
    const l1 = i32x4.add(i32x4.mul(i32x4.extend_high_i16x8_u(luma), ky), cy);
    const u0 = i32x4.extend_low_i16x8_u(us), u1 = i32x4.extend_high_i16x8_u(us);
    const v0 = i32x4.extend_low_i16x8_u(vs), v1 = i32x4.extend_high_i16x8_u(vs);
    const red = eight(i32x4.add(l0, i32x4.add(i32x4.mul(v0, kr), cr)), i32x4.add(l1, i32x4.add(i32x4.mul(v1, kr), cr)));
    const green = eight(
      i32x4.add(l0, i32x4.add(i32x4.add(i32x4.mul(u0, ku), i32x4.mul(v0, kv)), cg)),
      i32x4.add(l1, i32x4.add(i32x4.add(i32x4.mul(u1, ku), i32x4.mul(v1, kv)), cg)),
    );
    const blue = eight(i32x4.add(l0, i32x4.add(i32x4.mul(u0, kb), cb)), i32x4.add(l1, i32x4.add(i32x4.mul(u1, kb), cb)));
    const rg = i8x16.shuffle(red, green, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
    const ba = i8x16.shuffle(blue, full, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
    v128.store(to + 4 * x, i8x16.shuffle(rg, ba, 0, 1, 16, 17, 2, 3, 18, 19, 4, 5, 20, 21, 6, 7, 22, 23));
    v128.store(to + 4 * x + 16, i8x16.shuffle(rg, ba, 8, 9, 24, 25, 10, 11, 26, 27, 12, 13, 28, 29, 14, 15, 30, 31));
  }
}

/** Eight chroma samples in sixteen bits each. */
@inline
function chroma(from: usize, x: i32, pairs: bool): v128 {
  if (!pairs) return i16x8.extend_low_i8x16_u(v128.load64_zero(from + x));
  const four = v128.load32_zero(from + (x >> 1));
  return i16x8.extend_low_i8x16_u(i8x16.shuffle(four, four, 0, 0, 1, 1, 2, 2, 3, 3, 0, 0, 0, 0, 0, 0, 0, 0));
}

/** Whole parts of 65536ths, no less than 0 and no more than 255, as eight bytes. */
@inline
function eight(a: v128, b: v128): v128 {
  const words = i16x8.narrow_i32x4_s(i32x4.shr_s(a, 16), i32x4.shr_s(b, 16));
  return i8x16.narrow_i16x8_u(words, words);
}
