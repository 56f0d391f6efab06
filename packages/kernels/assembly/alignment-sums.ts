import { addWide, sumOfTwo } from './lanes';

/**
 * Products of a patch as it is seen with its steepest descent images: see src/alignment-sums.ts. All images have rows
 * of `n` rounded up to fours, zeros in the rest.
 *
 * @param out  eight doubles: gx, gy, u gx, v gx, u gy, v gy, the patch, one
 */
export function alignmentSums(
  seen: usize,
  gx: usize,
  gy: usize,
  patch: usize,
  hw: i32,
  hh: i32,
  out: usize,
): void {
  const wide = ((2 * hw + 4) >> 2) << 4;
  const zero = f64x2.splat(0);
  let sgx = zero;
  let sgy = zero;
  let sux = zero;
  let suy = zero;
  let svx = zero;
  let svy = zero;
  let st = zero;
  let s1 = zero;
  const first = f32x4.add(f32x4(0, 1, 2, 3), f32x4.splat(-(<f32>hw)));
  const four = f32x4.splat(4);
  let p: usize = 0;
  for (let v = -hh; v <= hh; v++) {
    let rgx = f32x4.splat(0);
    let rgy = rgx;
    let rux = rgx;
    let ruy = rgx;
    let rt = rgx;
    let r1 = rgx;
    let u = first;
    for (let end = p + wide; p < end; p += 16) {
      const c = v128.load(seen + p);
      const x = f32x4.mul(v128.load(gx + p), c);
      const y = f32x4.mul(v128.load(gy + p), c);
      rgx = f32x4.add(rgx, x);
      rgy = f32x4.add(rgy, y);
      rux = f32x4.add(rux, f32x4.mul(u, x));
      ruy = f32x4.add(ruy, f32x4.mul(u, y));
      rt = f32x4.add(rt, f32x4.mul(v128.load(patch + p), c));
      r1 = f32x4.add(r1, c);
      u = f32x4.add(u, four);
    }
    const down = f32x4.splat(<f32>v);
    sgx = addWide(sgx, rgx);
    sgy = addWide(sgy, rgy);
    sux = addWide(sux, rux);
    suy = addWide(suy, ruy);
    svx = addWide(svx, f32x4.mul(down, rgx));
    svy = addWide(svy, f32x4.mul(down, rgy));
    st = addWide(st, rt);
    s1 = addWide(s1, r1);
  }
  f64.store(out, sumOfTwo(sgx));
  f64.store(out, sumOfTwo(sgy), 8);
  f64.store(out, sumOfTwo(sux), 16);
  f64.store(out, sumOfTwo(svx), 24);
  f64.store(out, sumOfTwo(suy), 32);
  f64.store(out, sumOfTwo(svy), 40);
  f64.store(out, sumOfTwo(st), 48);
  f64.store(out, sumOfTwo(s1), 56);
}

/**
 * Sums over a patch and what is seen of it: see src/alignment-sums.ts.
 *
 * @param count  floats, in fours: zeros in both add nothing
 * @param out    five doubles: a, a a, b, b b, a b
 */
export function patchSums(patch: usize, seen: usize, count: i32, out: usize): void {
  const zero = f64x2.splat(0);
  let sa = zero;
  let saa = zero;
  let sb = zero;
  let sbb = zero;
  let sab = zero;
  const size = <usize>count << 2;
  for (let p: usize = 0; p < size; ) {
    // So many at a time are added up as floats that nothing is lost.
    const end = min(size, p + 256);
    let ra = f32x4.splat(0);
    let raa = ra;
    let rb = ra;
    let rbb = ra;
    let rab = ra;
    for (; p < end; p += 16) {
      const a = v128.load(patch + p);
      const b = v128.load(seen + p);
      ra = f32x4.add(ra, a);
      raa = f32x4.add(raa, f32x4.mul(a, a));
      rb = f32x4.add(rb, b);
      rbb = f32x4.add(rbb, f32x4.mul(b, b));
      rab = f32x4.add(rab, f32x4.mul(a, b));
    }
    sa = addWide(sa, ra);
    saa = addWide(saa, raa);
    sb = addWide(sb, rb);
    sbb = addWide(sbb, rbb);
    sab = addWide(sab, rab);
  }
  f64.store(out, sumOfTwo(sa));
  f64.store(out, sumOfTwo(saa), 8);
  f64.store(out, sumOfTwo(sb), 16);
  f64.store(out, sumOfTwo(sbb), 24);
  f64.store(out, sumOfTwo(sab), 32);
}

/**
 * What gain and offset leave of a patch in each of nine cells: see src/alignment-sums.ts.
 *
 * @param columns  room for a row of floats
 * @param out      nine doubles, row by row
 */
export function cellResiduals(
  patch: usize,
  seen: usize,
  n: i32,
  m: i32,
  gain: f32,
  offset: f32,
  columns: usize,
  out: usize,
): void {
  const wide = ((n + 3) >> 2) << 4;
  const g = f32x4.splat(gain);
  const o = f32x4.splat(offset);
  let p: usize = 0;
  let v = 0;
  for (let band = 0; band < 3; band++) {
    memory.fill(columns, 0, wide);
    // The rows of which floor(3 v / m) is this band.
    for (const end = ((band + 1) * m + 2) / 3; v < end; v++) {
      for (let i = 0; i < wide; i += 16, p += 16) {
        const r = f32x4.sub(v128.load(seen + p), f32x4.add(f32x4.mul(g, v128.load(patch + p)), o));
        v128.store(columns + i, f32x4.add(v128.load(columns + i), f32x4.mul(r, r)));
      }
    }
    for (let third = 0; third < 3; third++) {
      let sum: f64 = 0;
      for (let u = (n * third) / 3; u < (n * (third + 1)) / 3; u++) sum += f32.load(columns + (u << 2));
      f64.store(out, sum);
      out += 8;
    }
  }
}
