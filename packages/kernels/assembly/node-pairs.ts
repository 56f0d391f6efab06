/** What blocks say over pairs of nodes: see src/node-pairs.ts. */

const NODES: usize = 16;

@inline
function three(m: usize, f0: f64, f1: f64, f2: f64): v128 {
  return f64x2.splat(load<f64>(m) * f0 + load<f64>(m, 8) * f1 + load<f64>(m, 16) * f2);
}

@inline
function more(at: usize, value: v128): void {
  v128.store(at, f64x2.add(v128.load(at), value));
}

/**
 * @param said   how the block's motion is told by its nodes: three times sixteen numbers
 * @param block  what it says of that: nine numbers of x with x, nine of x with y, nine of y with y
 * @param pairs  sixteen by sixteen sums of x with x, as many of x with y, and of y with y
 */
export function addNodePairs(said: usize, block: usize, pairs: usize): void {
  for (let l: usize = 0; l < NODES; l++) {
    const f0 = load<f64>(said + (l << 3));
    const f1 = load<f64>(said + ((NODES + l) << 3));
    const f2 = load<f64>(said + ((2 * NODES + l) << 3));
    const a0 = three(block, f0, f1, f2);
    const a1 = three(block + 24, f0, f1, f2);
    const a2 = three(block + 48, f0, f1, f2);
    const b0 = three(block + 72, f0, f1, f2);
    const b1 = three(block + 96, f0, f1, f2);
    const b2 = three(block + 120, f0, f1, f2);
    const d0 = three(block + 144, f0, f1, f2);
    const d1 = three(block + 168, f0, f1, f2);
    const d2 = three(block + 192, f0, f1, f2);
    const row = pairs + ((l * NODES) << 3);
    // Of x with x and y with y the half is enough, from the pair of lanes that the diagonal lies in.
    const from = l & ~1;
    for (let k: usize = 0; k < NODES; k += 2) {
      const e0 = v128.load(said + (k << 3));
      const e1 = v128.load(said + ((NODES + k) << 3));
      const e2 = v128.load(said + ((2 * NODES + k) << 3));
      const at = row + (k << 3);
      more(at + 2048, f64x2.add(f64x2.add(f64x2.mul(e0, b0), f64x2.mul(e1, b1)), f64x2.mul(e2, b2)));
      if (k < from) continue;
      more(at, f64x2.add(f64x2.add(f64x2.mul(e0, a0), f64x2.mul(e1, a1)), f64x2.mul(e2, a2)));
      more(at + 4096, f64x2.add(f64x2.add(f64x2.mul(e0, d0), f64x2.mul(e1, d1)), f64x2.mul(e2, d2)));
    }
  }
}
