import { addWide, firstLanes, fourBytes, sumOfTwo } from './lanes';

/** Three rows of four bytes from a place on, each row by its weight. */
@inline
function rowsAt(p: usize, stride: i32, up: v128, middle: v128, down: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(fourBytes(p - stride), up), f32x4.mul(fourBytes(p), middle)),
    f32x4.mul(fourBytes(p + stride), down),
  );
}

/**
 * See src/surface-sums.ts, which tells what it does; four samples at a time.
 *
 * @param u, v, values, gx, gy  where the first sample's are
 * @param m    nine doubles
 * @param out  eleven doubles
 */
export function surfaceSums(
  data: usize, stride: i32, u: usize, v: usize, values: usize, gx: usize, gy: usize, count: i32,
  m: usize, mean: f32, level: f32, out: usize,
): void {
  const a = f32x4.splat(<f32>f64.load(m));
  const b = f32x4.splat(<f32>f64.load(m, 8));
  const c = f32x4.splat(<f32>f64.load(m, 16));
  const d = f32x4.splat(<f32>f64.load(m, 24));
  const e = f32x4.splat(<f32>f64.load(m, 32));
  const f = f32x4.splat(<f32>f64.load(m, 40));
  const g = f32x4.splat(<f32>f64.load(m, 48));
  const h = f32x4.splat(<f32>f64.load(m, 56));
  const i = f32x4.splat(<f32>f64.load(m, 64));
  const half = f32x4.splat(0.5);
  const one = f32x4.splat(1);
  const across = i32x4.splat(stride);
  const zero = f64x2.splat(0);
  const none = f32x4.splat(0);
  let s0 = zero;
  let s1 = zero;
  let s2 = zero;
  let s3 = zero;
  let s4 = zero;
  let s5 = zero;
  let s6 = zero;
  let s7 = zero;
  let sum = zero;
  let squares = zero;
  let product = zero;
  for (let k = 0; k < count; ) {
    // So many at a time are added up as floats that nothing is lost.
    const end = min(count, k + 64);
    let r0s = none;
    let r1s = none;
    let r2s = none;
    let r3s = none;
    let r4s = none;
    let r5s = none;
    let r6s = none;
    let r7s = none;
    let rsum = none;
    let rsquares = none;
    let rproduct = none;
  for (; k < end; k += 4) {
    const at = <usize>k << 2;
    let x = v128.load(u + at);
    let y = v128.load(v + at);
    const lanes = firstLanes(count - k);
    if (count - k < 4) {
      // The rest lies where the first does, and counts for nothing.
      x = v128.bitselect(x, f32x4.splat(f32x4.extract_lane(x, 0)), lanes);
      y = v128.bitselect(y, f32x4.splat(f32x4.extract_lane(y, 0)), lanes);
    }
    const w = f32x4.div(one, f32x4.add(f32x4.add(f32x4.mul(g, x), f32x4.mul(h, y)), i));
    const px = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(a, x), f32x4.mul(b, y)), c), w);
    const py = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(d, x), f32x4.mul(e, y)), f), w);
    const ix = i32x4.trunc_sat_f32x4_s(px);
    const iy = i32x4.trunc_sat_f32x4_s(py);
    const fx = f32x4.sub(f32x4.sub(px, f32x4.convert_i32x4_s(ix)), half);
    const fy = f32x4.sub(f32x4.sub(py, f32x4.convert_i32x4_s(iy)), half);
    const lx = f32x4.sub(half, fx);
    const rx = f32x4.add(half, fx);
    const x0 = f32x4.mul(half, f32x4.mul(lx, lx));
    const x2 = f32x4.mul(half, f32x4.mul(rx, rx));
    const x1 = f32x4.sub(f32x4.sub(one, x0), x2);
    const ly = f32x4.sub(half, fy);
    const ry = f32x4.add(half, fy);
    const y0 = f32x4.mul(half, f32x4.mul(ly, ly));
    const y2 = f32x4.mul(half, f32x4.mul(ry, ry));
    const y1 = f32x4.sub(f32x4.sub(one, y0), y2);
    const place = i32x4.add(i32x4.mul(iy, across), i32x4.sub(ix, i32x4.splat(1)));
    const r0 = rowsAt(
      data + i32x4.extract_lane(place, 0), stride,
      v128.shuffle<f32>(y0, y0, 0, 0, 0, 0), v128.shuffle<f32>(y1, y1, 0, 0, 0, 0), v128.shuffle<f32>(y2, y2, 0, 0, 0, 0),
    );
    const r1 = rowsAt(
      data + i32x4.extract_lane(place, 1), stride,
      v128.shuffle<f32>(y0, y0, 1, 1, 1, 1), v128.shuffle<f32>(y1, y1, 1, 1, 1, 1), v128.shuffle<f32>(y2, y2, 1, 1, 1, 1),
    );
    const r2 = rowsAt(
      data + i32x4.extract_lane(place, 2), stride,
      v128.shuffle<f32>(y0, y0, 2, 2, 2, 2), v128.shuffle<f32>(y1, y1, 2, 2, 2, 2), v128.shuffle<f32>(y2, y2, 2, 2, 2, 2),
    );
    const r3 = rowsAt(
      data + i32x4.extract_lane(place, 3), stride,
      v128.shuffle<f32>(y0, y0, 3, 3, 3, 3), v128.shuffle<f32>(y1, y1, 3, 3, 3, 3), v128.shuffle<f32>(y2, y2, 3, 3, 3, 3),
    );
    // Turned, so that each vector has one column of all four samples.
    const t0 = v128.shuffle<f32>(r0, r1, 0, 4, 1, 5);
    const t1 = v128.shuffle<f32>(r0, r1, 2, 6, 3, 7);
    const t2 = v128.shuffle<f32>(r2, r3, 0, 4, 1, 5);
    const t3 = v128.shuffle<f32>(r2, r3, 2, 6, 3, 7);
    let seen = f32x4.add(
      f32x4.add(
        f32x4.mul(v128.shuffle<f32>(t0, t2, 0, 1, 4, 5), x0),
        f32x4.mul(v128.shuffle<f32>(t0, t2, 2, 3, 6, 7), x1),
      ),
      f32x4.mul(v128.shuffle<f32>(t1, t3, 0, 1, 4, 5), x2),
    );
    seen = v128.and(f32x4.sub(seen, f32x4.splat(level)), lanes);
    const p1 = f32x4.mul(v128.load(gx + at), seen);
    const p2 = f32x4.mul(v128.load(gy + at), seen);
    const q = f32x4.add(f32x4.mul(p1, x), f32x4.mul(p2, y));
    r0s = f32x4.add(r0s, f32x4.mul(p1, x));
    r1s = f32x4.add(r1s, f32x4.mul(p1, y));
    r2s = f32x4.add(r2s, p1);
    r3s = f32x4.add(r3s, f32x4.mul(p2, x));
    r4s = f32x4.add(r4s, f32x4.mul(p2, y));
    r5s = f32x4.add(r5s, p2);
    r6s = f32x4.sub(r6s, f32x4.mul(q, x));
    r7s = f32x4.sub(r7s, f32x4.mul(q, y));
    rsum = f32x4.add(rsum, seen);
    rsquares = f32x4.add(rsquares, f32x4.mul(seen, seen));
    rproduct = f32x4.add(rproduct, f32x4.mul(seen, f32x4.sub(v128.load(values + at), f32x4.splat(mean))));
  }
    s0 = addWide(s0, r0s);
    s1 = addWide(s1, r1s);
    s2 = addWide(s2, r2s);
    s3 = addWide(s3, r3s);
    s4 = addWide(s4, r4s);
    s5 = addWide(s5, r5s);
    s6 = addWide(s6, r6s);
    s7 = addWide(s7, r7s);
    sum = addWide(sum, rsum);
    squares = addWide(squares, rsquares);
    product = addWide(product, rproduct);
  }
  f64.store(out, sumOfTwo(s0));
  f64.store(out, sumOfTwo(s1), 8);
  f64.store(out, sumOfTwo(s2), 16);
  f64.store(out, sumOfTwo(s3), 24);
  f64.store(out, sumOfTwo(s4), 32);
  f64.store(out, sumOfTwo(s5), 40);
  f64.store(out, sumOfTwo(s6), 48);
  f64.store(out, sumOfTwo(s7), 56);
  f64.store(out, sumOfTwo(sum), 64);
  f64.store(out, sumOfTwo(squares), 72);
  f64.store(out, sumOfTwo(product), 80);
}
