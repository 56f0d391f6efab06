import { NodePairs, PAIR_NODES } from '@lurn/kernels';
import { bandedMatrix, factorise, solveFactorised, type Banded } from '../geometry/banded.js';
import type { LevelFit } from '../surface/level-fit.js';
import { PARAMETERS } from '../surface/surface-template.js';
import type { Lattice } from './lattice.js';
import type { LatticeBlocks } from './lattice-blocks.js';

const NODES = PAIR_NODES;
const PAIRS = NODES * NODES;
/** Keeps what nothing tells of where it is. */
const LEAST_HOLD = 1e-7;

/** A place of the surface's own frame that is known on another. */
export interface SoftPin {
  readonly at: { readonly x: number; readonly y: number };
  readonly to: { readonly x: number; readonly y: number };
}

/** A place of the surface's own frame that is told of on another by something else than its texture. */
export interface SoftLead extends SoftPin {
  /** How sure that is: its standard deviation, in pixels. */
  readonly sd: number;
}

/** What is known of a surface's places besides its texture. */
export interface SoftKnown {
  /** Put by hand: they hold beyond whatever texture says. */
  readonly pins: readonly SoftPin[];
  /** What leads where texture says little. */
  readonly leads: readonly SoftLead[];
}

/** How control points hold each other, each as one over a variance in pixels squared. */
export interface Stiffness {
  /** Of a second difference. */
  readonly bend: number;
  /** Of how a second difference, and a first one, changes from the frame before. */
  readonly bendOn: number;
  readonly stretchOn: number;
  /** Control points on the frame before; null where that tells nothing. */
  readonly last: Float64Array | null;
}

/** How firmly a pin holds, as one over a variance in pixels squared: beyond whatever texture says. */
const PIN_HOLD = 1e7;

/**
 * The normal equations of a lattice's control points: two unknowns a node, what the blocks' texture says by their say, how
 * stiffly the nodes hold each other, and what else is known.
 */
export class SoftEquations {
  readonly matrix: Banded;
  readonly right: Float64Array;
  /** Products of the second differences: the bending energy of a thin plate (Terzopoulos 1986), one axis of it. */
  private readonly bending: Banded;
  /** Products of the first differences: the energy of a membrane. */
  private readonly stretching: Banded;
  private readonly since: Float64Array;
  /** What the blocks of one cell say together. */
  private readonly pairs = new NodePairs();
  /** How much each block had to say when the matrix was built. */
  private built = new Float64Array(0);

  constructor(private readonly lattice: Lattice) {
    this.matrix = bandedMatrix(2 * lattice.nodes, 2 * lattice.reach + 1, true);
    this.right = new Float64Array(2 * lattice.nodes);
    this.bending = bendingOf(lattice);
    this.stretching = stretchingOf(lattice);
    this.since = new Float64Array(2 * lattice.nodes);
  }

  /**
   * @param maps      of the blocks, as {@link LatticeBlocks.maps} has them
   * @param to        control points as they are
   * @param stiffness how they hold each other
   */
  build(
    fit: LevelFit,
    blocks: LatticeBlocks,
    maps: Float64Array,
    to: Float64Array,
    stiffness: Stiffness,
    known: SoftKnown,
  ): void {
    this.matrix.data.fill(0);
    this.right.fill(0);
    let cell = -1;
    if (this.built.length < blocks.count) this.built = new Float64Array(blocks.count);
    for (const b of blocks.order) {
      this.built[b] = fit.weight[b];
      if (!(fit.weight[b] > 0)) continue;
      if (cell >= 0 && blocks.nodes[NODES * b] !== blocks.nodes[NODES * cell]) this.addCell(blocks, cell);
      cell = b;
      sayOf(fit, maps, b, fit.weight[b], this.pairs.block);
      this.pairs.add(blocks.say, b);
      this.spreadRight(blocks, b);
    }
    if (cell >= 0) this.addCell(blocks, cell);
    this.addHolds(to, stiffness, known, true);
  }

  /** The right side alone, as things have moved since: for steps by a matrix that is nearly right. */
  rebuildRight(
    fit: LevelFit,
    blocks: LatticeBlocks,
    maps: Float64Array,
    to: Float64Array,
    stiffness: Stiffness,
    known: SoftKnown,
  ): void {
    this.right.fill(0);
    for (let b = 0; b < blocks.count; b++) {
      // What the matrix does not hold must not push.
      const weight = Math.min(fit.weight[b], this.built[b]);
      if (!(weight > 0)) continue;
      sayOf(fit, maps, b, weight, null);
      this.spreadRight(blocks, b);
    }
    this.addHolds(to, stiffness, known, false);
  }

  private addHolds(to: Float64Array, stiffness: Stiffness, known: SoftKnown, matrix: boolean): void {
    this.addEnergy(this.bending, to, stiffness.bend, matrix);
    const { last } = stiffness;
    if (last) {
      for (let k = 0; k < to.length; k++) this.since[k] = to[k] - last[k];
      this.addEnergy(this.bending, this.since, stiffness.bendOn, matrix);
      this.addEnergy(this.stretching, this.since, stiffness.stretchOn, matrix);
    }
    for (const pin of known.pins) this.addPin(to, pin, PIN_HOLD, matrix);
    for (const lead of known.leads) this.addPin(to, lead, 1 / lead.sd ** 2, matrix);
  }

  /** The same for places that are known and nothing else. */
  fit(to: Float64Array, pairs: readonly SoftPin[], hold: number, stiffness: number): void {
    this.matrix.data.fill(0);
    this.right.fill(0);
    this.addEnergy(this.bending, to, stiffness, true);
    for (const pair of pairs) this.addPin(to, pair, hold, true);
  }

  /** What the blocks of a cell have said together, over the nodes that they all hang on. */
  private addCell({ nodes }: LatticeBlocks, b: number): void {
    const { data, band } = this.matrix;
    const { sums } = this.pairs;
    const row = band + 1;
    const first = b * NODES;
    for (let l = 0; l < NODES; l++) {
      const nl = 2 * nodes[first + l];
      for (let k = 0; k < NODES; k++) {
        const nk = 2 * nodes[first + k];
        if (nk < nl) continue;
        const pair = k >= l ? l * NODES + k : k * NODES + l;
        const at = nk * row + nk - nl;
        data[at] += sums[pair];
        data[at + row] += sums[2 * PAIRS + pair];
        data[at + row + 1] += sums[PAIRS + k * NODES + l];
        if (nk > nl) data[at - 1] += sums[PAIRS + l * NODES + k];
      }
    }
    sums.fill(0);
  }

  private spreadRight({ nodes, say }: LatticeBlocks, b: number): void {
    const { right } = this;
    for (let k = b * NODES, f = 3 * k; k < (b + 1) * NODES; k++, f++) {
      const n = 2 * nodes[k];
      right[n] += say[f] * RX[0] + say[f + NODES] * RX[1] + say[f + 2 * NODES] * RX[2];
      right[n + 1] += say[f] * RY[0] + say[f + NODES] * RY[1] + say[f + 2 * NODES] * RY[2];
    }
  }

  /** An energy of control points, or of how they have moved, by its matrix over the nodes. */
  private addEnergy(of: Banded, to: Float64Array, weight: number, matrix: boolean): void {
    const { right } = this;
    const { data, band } = this.matrix;
    const row = band + 1;
    const own = of.band + 1;
    for (let i = 0; i < of.size; i++) {
      for (let k = 0; k <= Math.min(i, of.band); k++) {
        const value = weight * of.data[i * own + k];
        if (value === 0) continue;
        const j = i - k;
        if (matrix) {
          data[2 * i * row + 2 * k] += value;
          data[(2 * i + 1) * row + 2 * k] += value;
        }
        for (let axis = 0; axis < 2; axis++) {
          right[2 * i + axis] -= value * to[2 * j + axis];
          if (k > 0) right[2 * j + axis] -= value * to[2 * i + axis];
        }
      }
    }
    if (matrix) for (let i = 0; i < 2 * of.size; i++) data[i * row] += LEAST_HOLD;
  }

  private addPin(to: Float64Array, { at, to: wanted }: SoftPin, hold: number, matrix: boolean): void {
    const { data, band } = this.matrix;
    const row = band + 1;
    const now = this.lattice.placeAt(to, at.x, at.y);
    const [dx, dy] = [wanted.x - now.x, wanted.y - now.y];
    const said = this.lattice.weightsAt(at.x, at.y);
    for (const { node: k, weight: a } of said) {
      this.right[2 * k] += hold * a * dx;
      this.right[2 * k + 1] += hold * a * dy;
      if (!matrix) continue;
      for (const { node: l, weight: b } of said) {
        if (l > k) continue;
        data[2 * k * row + 2 * (k - l)] += hold * a * b;
        data[(2 * k + 1) * row + 2 * (k - l)] += hold * a * b;
      }
    }
  }
}

// What one block pushes; used anew by each: no memory is made in the loop.
const [RX, RY] = [new Float64Array(3), new Float64Array(3)];

/** What a block says of how its places move in the picture, over its three numbers an axis: its slopes and where it is. */
function sayOf(
  fit: LevelFit,
  maps: Float64Array,
  b: number,
  weight: number,
  block: Float64Array | null,
): void {
  const { own, gain, light, noise, signal, right: sides } = fit;
  const [xu, xv, yu, yv] = [maps[6 * b], maps[6 * b + 1], maps[6 * b + 3], maps[6 * b + 4]];
  const det = xu * yv - xv * yu;
  const [p, q, r, s] = [yv / det, -xv / det, -yu / det, xu / det];
  const g = gain[b];
  const side = (weight * signal[b] * g) / noise[b];
  for (let i = 0; i < 3; i++) {
    const r0 = side * sides[b * PARAMETERS + i];
    const r1 = side * sides[b * PARAMETERS + i + 3];
    RX[i] = -(p * r0 + r * r1);
    RY[i] = -(q * r0 + s * r1);
  }
  if (!block) return;
  const { normal, byOne, byValue, count, contrast } = own.blocks[b];
  const say = side * g;
  // What offset and gain can explain is taken out, as far as they are free (project-out; Baker et al. 2003, part 3).
  const one = say / (count + light.offsetHold[b]);
  const value = say / (contrast + light.gainHold[b]);
  for (let i = 0; i < 3; i++) {
    for (let j = 0; j < 3; j++) {
      const n00 = say * normal[i * 8 + j] - one * byOne[i] * byOne[j] - value * byValue[i] * byValue[j];
      const n01 =
        say * normal[i * 8 + j + 3] - one * byOne[i] * byOne[j + 3] - value * byValue[i] * byValue[j + 3];
      const n10 =
        say * normal[(i + 3) * 8 + j] - one * byOne[i + 3] * byOne[j] - value * byValue[i + 3] * byValue[j];
      const n11 =
        say * normal[(i + 3) * 8 + j + 3] -
        one * byOne[i + 3] * byOne[j + 3] -
        value * byValue[i + 3] * byValue[j + 3];
      const k = 3 * i + j;
      block[k] = p * p * n00 + p * r * (n01 + n10) + r * r * n11;
      block[9 + k] = p * q * n00 + p * s * n01 + r * q * n10 + r * s * n11;
      block[18 + k] = q * q * n00 + q * s * (n01 + n10) + s * s * n11;
    }
  }
}

/** The first differences across and down, squared and summed. */
function stretchingOf(lattice: Lattice): Banded {
  const out = bandedMatrix(lattice.nodes, lattice.reach);
  eachNode(lattice, (n, i, j, nx, ny) => {
    if (i < nx - 1) addStencil(out, [[n(i, j), 1], [n(i + 1, j), -1]], 1); // prettier-ignore
    if (j < ny - 1) addStencil(out, [[n(i, j), 1], [n(i, j + 1), -1]], 1); // prettier-ignore
  });
  return out;
}

/** The second differences across, down and mixed, squared and summed, as a matrix over the nodes. */
function bendingOf(lattice: Lattice): Banded {
  const out = bandedMatrix(lattice.nodes, lattice.reach);
  eachNode(lattice, (n, i, j, nx, ny) => {
    if (i > 0 && i < nx - 1) addStencil(out, [[n(i - 1, j), 1], [n(i, j), -2], [n(i + 1, j), 1]], 1); // prettier-ignore
    if (j > 0 && j < ny - 1) addStencil(out, [[n(i, j - 1), 1], [n(i, j), -2], [n(i, j + 1), 1]], 1); // prettier-ignore
    if (i < nx - 1 && j < ny - 1)
      addStencil(out, [[n(i, j), 1], [n(i + 1, j), -1], [n(i, j + 1), -1], [n(i + 1, j + 1), 1]], 2); // prettier-ignore
  });
  return out;
}

type Numbered = (column: number, row: number) => number;

function eachNode(
  lattice: Lattice,
  visit: (node: Numbered, column: number, row: number, columns: number, rows: number) => void,
): void {
  const [nx, ny] = [lattice.columns + 3, lattice.rows + 3];
  const node: Numbered = (i, j) => lattice.node(i, j);
  for (let j = 0; j < ny; j++) for (let i = 0; i < nx; i++) visit(node, i, j, nx, ny);
}

function addStencil(
  out: Banded,
  stencil: readonly (readonly [node: number, factor: number])[],
  weight: number,
): void {
  for (const [i, a] of stencil)
    for (const [j, b] of stencil) if (j <= i) out.data[i * (out.band + 1) + i - j] += weight * a * b;
}

/** How firmly places that are known hold a lattice that is fitted to them, and how stiff it is, in pixels. */
const [FIT_HOLD, FIT_BENDS] = [400, 3];

/** Control points under which places go where they are known to, as smoothly as that can be (Lee, Wolberg and Shin 1997). */
export function fittedTo(lattice: Lattice, pairs: readonly SoftPin[]): Float64Array {
  const to = lattice.atRest();
  if (pairs.length === 0) return to;
  const equations = new SoftEquations(lattice);
  equations.fit(to, pairs, FIT_HOLD, 1 / FIT_BENDS ** 2);
  factorise(equations.matrix);
  solveFactorised(equations.matrix, equations.right);
  for (let k = 0; k < to.length; k++) to[k] += equations.right[k];
  return to;
}
