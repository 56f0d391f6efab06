import { kernelDoubles, PAIR_EACH, PAIR_NODES } from '@lurn/kernels';
import type { Matrix3, Point } from '../geometry/matrix.js';
import type { TemplateLevel } from '../surface/surface-template.js';
import { SUPPORT, weights, type Lattice } from './lattice.js';

/** Numbers of each control point's say over a block: how it changes along the units, and where they begin. */
const EACH = PAIR_EACH;
const NODES = PAIR_NODES;

/**
 * How the blocks of a template hang on a lattice: the spline over a block taken as affine, the best in the sense of least
 * squares, so that a block is looked at through one matrix.
 */
export class LatticeBlocks {
  /** Sixteen nodes of each block. */
  readonly nodes: Int32Array;
  /** Of each block: how its nodes' weights change along u, how along v, and what they are at (0, 0), in units: sixteen each. */
  readonly say: Float64Array;
  /** How much each node says of where the block's middle is. */
  private readonly mean: Float64Array;
  readonly count: number;
  /** Blocks in such an order that those of one cell follow each other. */
  readonly order: Int32Array;

  /** @param fromUnit  the template's units to pixels of its frame */
  constructor(
    private readonly lattice: Lattice,
    level: TemplateLevel,
    fromUnit: Matrix3,
  ) {
    this.count = level.blocks.length;
    this.nodes = new Int32Array(this.count * NODES);
    this.say = kernelDoubles(this.count * NODES * EACH);
    this.mean = new Float64Array(this.count * NODES);
    level.blocks.forEach(({ probes }, b) => this.hang(b, probes, fromUnit));
    const { nodes } = this;
    this.order = Int32Array.from(level.blocks, (_, b) => b).sort(
      (a, b) => nodes[NODES * a] - nodes[NODES * b],
    );
  }

  private hang(b: number, probes: readonly Point[], [half, , x, , , y]: Matrix3): void {
    const { lattice, nodes, say } = this;
    const [a, , c, , middle] = probes;
    const centre = { x: half * middle.x + x, y: half * middle.y + y };
    const { column, row, u, v } = lattice.cellAt(centre.x, centre.y);
    const across = lineOf(u, (half * (c.x - a.x)) / lattice.across);
    const down = lineOf(v, (half * (c.y - a.y)) / lattice.down);
    // Slopes along a cell become slopes along a unit.
    const [su, sv] = [half / lattice.across, half / lattice.down];
    for (let j = 0, k = b * NODES, s = k * EACH; j < SUPPORT; j++) {
      for (let i = 0; i < SUPPORT; i++, k++, s++) {
        nodes[k] = lattice.node(column + i, row + j);
        const mean = (this.mean[k] = across.mean[i] * down.mean[j]);
        const alongU = across.slope[i] * down.mean[j] * su;
        const alongV = across.mean[i] * down.slope[j] * sv;
        say[s] = alongU;
        say[s + NODES] = alongV;
        say[s + 2 * NODES] = mean - alongU * middle.x - alongV * middle.y;
      }
    }
  }

  /** Where the control points take the middle of every block, x and y of each. */
  middles(to: Float64Array, out: Float64Array): void {
    const { nodes, mean, count } = this;
    for (let b = 0, k = 0; b < count; b++) {
      let x = 0;
      let y = 0;
      for (const end = k + NODES; k < end; k++) {
        const n = 2 * nodes[k];
        x += mean[k] * to[n];
        y += mean[k] * to[n + 1];
      }
      out[2 * b] = x;
      out[2 * b + 1] = y;
    }
  }

  /** The affine map of every block, six numbers each: units to where the control points take them. */
  maps(to: Float64Array, out: Float64Array): void {
    const { nodes, say, count } = this;
    for (let b = 0; b < count; b++) {
      let xu = 0;
      let xv = 0;
      let x = 0;
      let yu = 0;
      let yv = 0;
      let y = 0;
      for (let k = b * NODES, s = k * EACH; k < (b + 1) * NODES; k++, s++) {
        const n = 2 * nodes[k];
        const px = to[n];
        const py = to[n + 1];
        xu += say[s] * px;
        xv += say[s + NODES] * px;
        x += say[s + 2 * NODES] * px;
        yu += say[s] * py;
        yv += say[s + NODES] * py;
        y += say[s + 2 * NODES] * py;
      }
      out[6 * b] = xu;
      out[6 * b + 1] = xv;
      out[6 * b + 2] = x;
      out[6 * b + 3] = yu;
      out[6 * b + 4] = yv;
      out[6 * b + 5] = y;
    }
  }
}

/** Places along a block's side that its line is fitted over. */
const LOOKS = 4;

/** The weights of a cell's nodes over a stretch about `u`, `width` long, as lines about its middle. */
function lineOf(u: number, width: number): { mean: number[]; slope: number[] } {
  const mean = [0, 0, 0, 0];
  const slope = [0, 0, 0, 0];
  let squares = 0;
  for (let k = 0; k < LOOKS; k++) {
    const d = ((k + 0.5) / LOOKS - 0.5) * width;
    squares += d * d;
    weights(u + d).forEach((w, i) => {
      mean[i] += w / LOOKS;
      slope[i] += w * d;
    });
  }
  return { mean, slope: slope.map((s) => s / squares) };
}
