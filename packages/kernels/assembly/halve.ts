/**
 * Halves a plane of bytes with [1 3 3 1] / 8 in both directions: see src/halve.ts, with which it agrees bit for bit.
 * Computes the samples [x0, x1) x [y0, y1) of `to`.
 */
export function halve(
  from: usize, width: i32, height: i32, stride: i32, to: usize, toStride: i32,
  x0: i32, y0: i32, x1: i32, y1: i32,
): void {
  // Eight samples at a time read [2x - 1, 2x + 23).
  const last = (width - 23) >> 1;
  for (let y = y0; y < y1; y++) {
    const r0 = from + row(2 * y - 1, height) * stride;
    const r1 = from + row(2 * y, height) * stride;
    const r2 = from + row(2 * y + 1, height) * stride;
    const r3 = from + row(2 * y + 2, height) * stride;
    const out = to + y * toStride;
    let x = x0;
    if (x === 0 && x < x1) {
      store<u8>(out, <u8>edge(r0, r1, r2, r3, 0, width));
      x = 1;
    }
    if (x + 8 <= x1 && x <= last) {
      let p = 2 * x - 1;
      let l = columns(r0 + p, r1 + p, r2 + p, r3 + p);
      for (; x + 8 <= x1 && x <= last; x += 8) {
        const h = columns(r0 + p + 8, r1 + p + 8, r2 + p + 8, r3 + p + 8);
        const next = columns(r0 + p + 16, r1 + p + 16, r2 + p + 16, r3 + p + 16);
        store8(out + x, l, h, next);
        l = next;
        p += 16;
      }
    }
    // What is left is done by the last eight once more, where they fit.
    const again = x1 - 8;
    if (x < x1 && again > x0 && again <= last) {
      const p = 2 * again - 1;
      store8(
        out + again,
        columns(r0 + p, r1 + p, r2 + p, r3 + p), columns(r0 + p + 8, r1 + p + 8, r2 + p + 8, r3 + p + 8),
        columns(r0 + p + 16, r1 + p + 16, r2 + p + 16, r3 + p + 16),
      );
      x = x1;
    }
    for (; x < x1; x++) store<u8>(out + x, <u8>edge(r0, r1, r2, r3, x, width));
  }
}

/** Eight halved samples from sixteen columns and the two after them. */
@inline
function store8(to: usize, l: v128, h: v128, next: v128): void {
  const a = v128.shuffle<u16>(l, h, 0, 2, 4, 6, 8, 10, 12, 14);
  const b = v128.shuffle<u16>(l, h, 1, 3, 5, 7, 9, 11, 13, 15);
  const c = v128.shuffle<u16>(a, next, 1, 2, 3, 4, 5, 6, 7, 8);
  const d = v128.shuffle<u16>(b, next, 1, 2, 3, 4, 5, 6, 7, 9);
  const sum = i16x8.add(i16x8.add(a, d), i16x8.add(three(i16x8.add(b, c)), i16x8.splat(32)));
  const eight = i16x8.shr_u(sum, 6);
  v128.store64_lane(to, i8x16.narrow_i16x8_u(eight, eight), 0);
}

@inline
function row(y: i32, height: i32): i32 {
  return y < 0 ? 0 : y >= height ? height - 1 : y;
}

@inline
function three(v: v128): v128 {
  return i16x8.add(v, i16x8.shl(v, 1));
}

/** Eight columns of four rows, added up. */
@inline
function columns(r0: usize, r1: usize, r2: usize, r3: usize): v128 {
  return i16x8.add(
    i16x8.add(v128.load8x8_u(r0), v128.load8x8_u(r3)),
    three(i16x8.add(v128.load8x8_u(r1), v128.load8x8_u(r2))),
  );
}

@inline
function column(r0: usize, r1: usize, r2: usize, r3: usize, x: i32, width: i32): i32 {
  const at = <usize>(x < 0 ? 0 : x >= width ? width - 1 : x);
  return (
    <i32>load<u8>(r0 + at) + 3 * (<i32>load<u8>(r1 + at) + <i32>load<u8>(r2 + at)) + <i32>load<u8>(r3 + at)
  );
}

function edge(r0: usize, r1: usize, r2: usize, r3: usize, x: i32, width: i32): i32 {
  const p = 2 * x - 1;
  return (
    (column(r0, r1, r2, r3, p, width) +
      3 * (column(r0, r1, r2, r3, p + 1, width) + column(r0, r1, r2, r3, p + 2, width)) +
      column(r0, r1, r2, r3, p + 3, width) +
      32) >>
    6
  );
}
