import fc from 'fast-check';
import { CubicRows, cubicRow, evenRow, sampleWide, type BytePlane, type EvenSteps } from './index.js';
import { noise, real, seeds, upTo } from './testing/noise.js';

/** Rows whose places go on by equal steps. */
function rowsAlong(plane: BytePlane, n: number, { x, y, dx, dy }: EvenSteps): CubicRows {
  const rows = new CubicRows(plane, n);
  evenRow(x, dx, n, rows.xs);
  evenRow(y, dy, n, rows.ys);
  return rows;
}

describe('rows by cubic convolution', () => {
  it('agree to one grey level, and leave what does not lie well inside', () => {
    let drawn = 0;
    fc.assert(
      fc.property(
        seeds,
        fc.tuple(real(-6, 12), real(-6, 60), real(0.3, 1.3), real(-0.4, 0.4)),
        upTo(70, 1),
        (seed, [x, y, dx, dy], n): void => {
          const plane = noise(60, 50, seed);
          const rows = rowsAlong(plane, n, { x, y, dx, dy });
          const [fast, plain] = [new Uint8Array(n + 3).fill(9), new Uint8Array(n + 3).fill(9)];
          for (let i = 0; i < n; i++) {
            const at = rows.draw(i, fast, 3, 255);
            const wanted = cubicRow(plane, rows.xs, rows.ys, i, n, plain, 3, 255);
            // Phases are rounded before it is asked whether a place lies well inside: to the rim it is half a phase.
            const ends = [i, at, wanted].filter((k) => k < n);
            const onRim = ends
              .flatMap((k) => [rows.xs[k], rows.ys[k]])
              .some((v) => Math.abs(v - 0.5 - Math.round(v - 0.5)) < 6e-4);
            if (at !== wanted && onRim) return;
            expect(at).toBe(wanted);
            drawn += at - i;
            i = at;
          }
          expect(Math.max(...fast.map((v, i) => Math.abs(v - plain[i])))).toBeLessThanOrEqual(1);
        },
      ),
      { numRuns: 400 },
    );
    expect(drawn).toBeGreaterThan(2500);
  });

  it('with even places agree, too, eight at a time, and nearly always to the same level', () => {
    let [drawn, apart] = [0, 0];
    fc.assert(
      fc.property(
        seeds,
        fc.tuple(real(-6, 12), real(-6, 60), real(-0.1, 1.6), real(-0.15, 0.15)),
        upTo(70, 1),
        fc.boolean(),
        (seed, [x, y, dx, dy], n, smooth): void => {
          const plane = noise(60, 50, seed);
          // What pictures look like, rather than noise of every size.
          if (smooth) plane.data.forEach((v, i) => (plane.data[i] = 110 + 60 * Math.sin(i / 5) + v / 16));
          const rows = rowsAlong(plane, n, { x, y, dx, dy });
          const [fast, plain] = [new Uint8Array(n + 3).fill(9), new Uint8Array(n + 3).fill(9)];
          for (let i = 0; i < n; i++) {
            const at = rows.drawEven({ x, y, dx, dy }, i, fast, 3);
            if (at === i) continue;
            expect(cubicRow(plane, rows.xs, rows.ys, i, at, plain, 3, 255)).toBe(at);
            for (let k = i; k < at; k++) {
              const off = Math.abs(fast[3 + k] - plain[3 + k]);
              if (off > 1) expect(off).toBeLessThanOrEqual(1);
              apart += smooth ? off : 0;
              drawn += smooth ? 1 : 0;
            }
            i = at;
          }
          expect(fast.filter((v, i) => i < 3 && v !== 9)).toHaveLength(0);
        },
      ),
      { numRuns: 1500 },
    );
    expect(drawn).toBeGreaterThan(2500);
    expect(apart / drawn).toBeLessThan(0.05);
  });

  it('with even places are drawn in blocks of their own, whatever the row’s length', () => {
    const plane = noise(60, 50, 3);
    const steps = { x: 20.3, y: 20.4, dx: 0.9, dy: 0.01 };
    const drawn = (n: number) => {
      const out = new Uint8Array(n);
      return [new CubicRows(plane, n).drawEven(steps, 0, out, 0), out] as const;
    };
    const [all, whole] = drawn(32);
    expect(all).toBe(32);
    for (let n = 8; n < 32; n++) {
      const [to, out] = drawn(n);
      expect(to).toBe(n);
      expect([...out]).toEqual([...whole.subarray(0, n)]);
    }
    expect(drawn(7)[0]).toBe(0);
  });

  it('have even places to the same bits', () => {
    fc.assert(
      fc.property(real(-9, 9), real(-2, 2), upTo(20), (x, dx, n) => {
        const { xs } = new CubicRows(noise(60, 50, 1), 20);
        xs.fill(7);
        evenRow(x, dx, n, xs);
        const plain = new Float64Array(20).fill(7);
        evenRow(x, dx, n, plain);
        expect([...xs.subarray(0, n)]).toEqual([...plain.subarray(0, n)]);
      }),
    );
  });

  it('never take a place far away, or none, for one inside', () => {
    const plane = noise(60, 50, 1);
    const rows = new CubicRows(plane, 8);
    for (const far of [2 ** 22 + 20, -(2 ** 22) + 20, 1e300, -1e300, Infinity, -Infinity, NaN]) {
      rows.xs.fill(far);
      rows.ys.fill(20);
      expect(rows.draw(0, new Uint8Array(8), 0, 255)).toBe(0);
    }
  });

  it('copy a plane that the kernels do not reach, and read one of sixteen bits where it is', () => {
    const own = noise(60, 50, 4);
    const elsewhere = { ...own, data: own.data.slice() };
    const deep = { ...own, data: Uint16Array.from(own.data) };
    const [a, b, c] = [own, elsewhere, deep].map((plane) => {
      const rows = new CubicRows(plane, 40);
      for (let i = 0; i < 40; i++) [rows.xs[i], rows.ys[i]] = [4.2 + i, 20.7];
      const out = new Uint16Array(40);
      expect(rows.draw(0, out, 0, 255)).toBe(40);
      return [...out];
    });
    expect(b).toEqual(a);
    expect(Math.max(...c.map((v, i) => Math.abs(v - a[i])))).toBeLessThanOrEqual(1);
  });

  it('made wider agree with what is summed plainly, wherever all samples are in the plane', () => {
    let [drawn, apart] = [0, 0];
    fc.assert(
      fc.property(
        seeds,
        fc.tuple(real(-8, 30), real(-8, 60), real(-1.5, 2.5), real(-1, 1)),
        real(1.02, 2),
        upTo(40, 1),
        (seed, [x, y, dx, dy], shrink, n): void => {
          const plane = noise(60, 50, seed);
          const steps = { x, y, dx, dy };
          const rows = new CubicRows(plane, n);
          const out = new Uint8Array(n + 3);
          for (let i = 0; i < n; i++) {
            const to = rows.drawWide(steps, shrink, i, out, 3);
            for (; i < to; i++) {
              const plain = sampleWide(plane, x + i * dx, y + i * dy, shrink);
              const off = Math.abs(out[3 + i] - Math.round(Math.min(255, Math.max(0, plain))));
              expect(off).toBeLessThanOrEqual(1);
              apart += off;
              drawn++;
            }
            if (to === n) break;
            const [u, v] = [x + to * dx, y + to * dy];
            expect(Math.min(u, v, 60 - u, 50 - v)).toBeLessThan(8);
          }
        },
      ),
      { numRuns: 400 },
    );
    expect(drawn).toBeGreaterThan(1000);
    expect(apart).toBeLessThan(drawn / 500);
  });
});
