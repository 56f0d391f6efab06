import fc from 'fast-check';
import { kernels, pixelRow, pixelRowPlain, plainly, type PixelCode } from './index.js';

/** Limited range, ITU-R BT.709. */
const CODE: PixelCode = {
  ...{ ky: 76309, cy: -16 * 76309 + 32768, kr: 117489, cr: -128 * 117489, ku: -13975, kv: -34925 },
  ...{ cg: 128 * (13975 + 34925), kb: 138438, cb: -128 * 138438 },
};
const bytes = (n: number, seed: number) =>
  Uint8Array.from({ length: n }, (_, i) => (Math.imul(i + seed, 0x9e3779b1) >>> 24) & 255);

describe('a row of pixels', () => {
  it('is the same by the kernel as by the plain loop, bit for bit, and nothing beyond it is written', () => {
    expect(kernels()).not.toBeNull();
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 70 }),
        fc.boolean(),
        fc.nat(9),
        fc.nat(9),
        fc.nat(1000),
        (n, pairs, luma, chroma, seed) => {
          const row = {
            y: bytes(90, seed),
            u: bytes(90, seed + 7),
            v: bytes(90, seed + 3),
            luma,
            chroma,
            pairs,
          };
          const [a, b] = [new Int32Array(90).fill(7), new Int32Array(90).fill(7)];
          pixelRow(row, n, CODE, a, 5);
          pixelRowPlain(row, n, CODE, b, 5);
          expect(a).toEqual(b);
          expect([a[4], a[5 + n]]).toEqual([7, 7]);
        },
      ),
      { numRuns: 200 },
    );
  });

  it('makes black, white and red of what stands for them', () => {
    const one = (y: number, u: number, v: number) => {
      const out = new Int32Array(1);
      const of = (value: number) => Uint8Array.of(value);
      plainly(() =>
        pixelRow({ y: of(y), u: of(u), v: of(v), luma: 0, chroma: 0, pairs: false }, 1, CODE, out, 0),
      );
      return [...new Uint8Array(out.buffer)];
    };
    expect(one(16, 128, 128)).toEqual([0, 0, 0, 255]);
    expect(one(235, 128, 128)).toEqual([255, 255, 255, 255]);
    expect(one(63, 102, 240)).toEqual([255, 1, 0, 255]);
  });
});
