import { kernelDoubles, addressOf, kernels } from './instance.js';

/** Nodes that a block hangs on, and numbers that each tells of its motion: two slopes, and where it begins. */
export const [PAIR_NODES, PAIR_EACH] = [16, 3];
const PAIRS = PAIR_NODES * PAIR_NODES;

/**
 * What blocks say of a lattice's nodes, summed over pairs of the sixteen nodes that they hang on in common: a block's own
 * say is nine numbers for x with x, nine for x with y and nine for y with y.
 */
export class NodePairs {
  /** What a block says, to be filled in before {@link add}. */
  readonly block = kernelDoubles(3 * PAIR_EACH * PAIR_EACH);
  /** By node l, then node k: x of k with x of l and y with y where k >= l, and x of k with y of l for all. */
  readonly sums = kernelDoubles(3 * PAIRS).fill(0);

  /**
   * @param said  by block, how its motion is told by its nodes: {@link PAIR_EACH} times {@link PAIR_NODES} numbers
   * @param b     the block
   * Cost: some two thousand multiply-adds; less than half of that where the kernel reaches them.
   */
  add(said: Float64Array, b: number): void {
    const { block, sums } = this;
    const all = kernels();
    const from = PAIR_EACH * PAIR_NODES * b;
    const [at, own, to] = all
      ? [addressOf(all, said), addressOf(all, block), addressOf(all, sums)]
      : [-1, -1, -1];
    if (all && at >= 0 && own >= 0 && to >= 0) all.addNodePairs(at + 8 * from, own, to);
    else addNodePairsPlain(said, from, block, sums);
  }
}

/** {@link NodePairs.add} by plain TypeScript. */
export function addNodePairsPlain(
  said: Float64Array,
  from: number,
  block: Float64Array,
  sums: Float64Array,
): void {
  const times = (m: number, l: number) =>
    block[m] * said[from + l] +
    block[m + 1] * said[from + PAIR_NODES + l] +
    block[m + 2] * said[from + 2 * PAIR_NODES + l];
  for (let l = 0; l < PAIR_NODES; l++) {
    const told = Array.from({ length: 3 * PAIR_EACH }, (_, i) => times(PAIR_EACH * i, l));
    for (let k = 0; k < PAIR_NODES; k++) {
      const of = (i: number) =>
        told[i] * said[from + k] +
        told[i + 1] * said[from + PAIR_NODES + k] +
        told[i + 2] * said[from + 2 * PAIR_NODES + k];
      const pair = l * PAIR_NODES + k;
      sums[PAIRS + pair] += of(3);
      if (k < l) continue;
      sums[pair] += of(0);
      sums[2 * PAIRS + pair] += of(6);
    }
  }
}
