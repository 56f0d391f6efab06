import fc from 'fast-check';
import {
  addNodePairsPlain,
  factorise,
  factorisePlain,
  invertFactorised,
  invertFactorisedPlain,
  kernelDoubles,
  NodePairs,
  PAIR_EACH,
  PAIR_NODES,
} from './index.js';

/** The kernels that equations are built and solved by, beside the plain TypeScript that says what they do. */

const numbers = (seed: number) => {
  let a = seed + 1;
  return () => (a = (Math.imul(a, 1664525) + 1013904223) >>> 0) / 2 ** 32 - 0.5;
};

/** The same positive definite matrix in the kernels' memory and elsewhere. */
function matrices(size: number, band: number, seed: number) {
  const next = numbers(seed);
  const data = kernelDoubles(size * (band + 1)).fill(0);
  for (let i = 0; i < size; i++)
    for (let k = 0; k <= Math.min(i, band); k++)
      data[i * (band + 1) + k] = k === 0 ? 2 * band + 1 + next() : next();
  return [
    { size, band, data },
    { size, band, data: Float64Array.from(data) },
  ];
}

const apart = (a: Float64Array, b: Float64Array) =>
  a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0);

describe('a banded matrix by the kernels', () => {
  it('is factorised and inverted as by the plain loops', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 60 }),
        fc.integer({ min: 0, max: 30 }),
        fc.nat(1e6),
        (size, wide, seed) => {
          const band = Math.min(wide, size - 1);
          const [fast, plain] = matrices(size, band, seed);
          factorise(fast);
          factorisePlain(plain);
          expect(apart(fast.data, plain.data)).toBeLessThan(1e-12);
          invertFactorised(fast);
          invertFactorisedPlain(plain);
          expect(apart(fast.data, plain.data)).toBeLessThan(1e-12);
        },
      ),
    );
  });

  it('that is nearly singular holds its unknowns where they are, either way', () => {
    const [fast, plain] = matrices(3, 1, 1);
    for (const { data } of [fast, plain]) data.set([1, 0, 1, 1, 1, 0]);
    factorise(fast);
    factorisePlain(plain);
    expect([...fast.data]).toEqual([...plain.data]);
    expect(fast.data[2]).toBe(1e7);
  });
});

describe('what blocks say over pairs of nodes', () => {
  it('begins with nothing, also in memory that was used before', () => {
    // Kept alive, so that what comes next lies behind them: there something is left over.
    const kept = Array.from({ length: 200 }, () => kernelDoubles(3 * PAIR_NODES * PAIR_NODES));
    const behind = Math.max(...kept.map(({ byteOffset, byteLength }) => byteOffset + byteLength));
    new Float64Array(kept[0].buffer, behind, 2 ** 17).fill(7);
    const fresh = Array.from({ length: 100 }, () => new NodePairs());
    const again = fresh.filter(({ sums }) => sums.byteOffset >= behind);
    expect(again.length).toBeGreaterThan(0);
    expect(fresh.every(({ sums }) => sums.every((v) => v === 0))).toBe(true);
  });

  it('is the same by the kernel and by the plain loop, and adds up', () => {
    fc.assert(
      fc.property(fc.nat(1e6), (seed) => {
        const next = numbers(seed);
        const said = kernelDoubles(3 * PAIR_EACH * PAIR_NODES).map(next);
        const shared = kernelDoubles(said.length);
        shared.set(said);
        const pairs = new NodePairs();
        const sums = new Float64Array(pairs.sums.length);
        for (const b of [0, 2, 1]) {
          for (let i = 0; i < pairs.block.length; i++) pairs.block[i] = next();
          pairs.add(shared, b);
          addNodePairsPlain(said, b * PAIR_EACH * PAIR_NODES, pairs.block, sums);
        }
        // Below the diagonal nothing is asked for, where what is told is symmetric.
        const whole = PAIR_NODES * PAIR_NODES;
        let worst = 0;
        for (let i = 0; i < sums.length; i++) {
          const [l, k] = [Math.floor((i % whole) / PAIR_NODES), i % PAIR_NODES];
          const asked = k >= l || Math.floor(i / whole) === 1;
          if (asked) worst = Math.max(worst, Math.abs(pairs.sums[i] - sums[i]));
        }
        expect(worst).toBeLessThan(1e-12);
      }),
    );
  });
});
