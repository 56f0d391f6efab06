import { SURFACE_SUMS } from '@lurn/kernels';
import { factorise, invertFactorised, solveFactorised, type Banded } from '../geometry/banded.js';
import type { Closed } from '../geometry/area.js';
import type { Point } from '../geometry/matrix.js';
import type { Pyramid } from '../picture/pyramid.js';
import { LevelFit } from '../surface/level-fit.js';
import type { SurfaceTemplate } from '../surface/surface-template.js';
import type { Lattice } from './lattice.js';
import { LatticeBlocks } from './lattice-blocks.js';
import { SoftEquations, type SoftKnown, type Stiffness } from './soft-equations.js';

/** Steps of Gauss and Newton at the most, at full size and on coarser levels. */
const [FINE_STEPS, COARSE_STEPS] = [8, 5];
/** Blocks that move less than this in a step, in samples of their level, have settled: so many times their root mean square. */
const [FINE_SETTLED, COARSE_SETTLED] = [0.03, 0.15];
const MOSTLY = 2;
/** Blocks of less say do not count there. */
const LEAST_SAY = 0.1;
const NEARLY = 6;
/** Steps for which the equations are built anew; in between the matrix is nearly right. */
const ANEW = [0, 2];
/** No block goes farther than this in a step, in samples of its level. */
const LONGEST_STEP = 4;
/** How a second difference of control points varies, in parts of their spacing, before a picture tells. */
const BENDS = 0.15;
/** How much that, and a first difference, changes from one frame to the next. */
const [BENDS_ON, STRETCHES_ON] = [0.06, 0.1];
/** On coarse levels a mesh is so many times stiffer: it finds its way as a whole first. */
const STIFFER = [1, 2, 8, 60, 300];
/** A block that has shrunk below this part of its area lies in a fold. */
const FOLDED = 0.12;
/** Where few blocks look like themselves, misfit may be so many times what was usual. */
const FALLING_MISFIT = 1.6;

/** How one block of a soft surface fits. */
export interface SoftBlock {
  /** Its middle on the surface's own frame. */
  readonly middle: Point;
  /** Its say, 0 to 1. */
  readonly weight: number;
  /** False where it lies outside the picture, in a fold, or is closed. */
  readonly seen: boolean;
  /** How much texture it has. */
  readonly worth: number;
  readonly misfit: number;
  /** Of what is seen with the texture, summed: their products, and the squares of either. */
  readonly together: number;
  readonly own: number;
  readonly other: number;
}

/** A soft surface found on a frame. */
export interface SoftFit {
  /** Control points. */
  readonly to: Float64Array;
  readonly converged: boolean;
  /** Correlation over the blocks that have a say, -1 to 1. */
  readonly score: number;
  /** The part of its texture that is seen, and of that the part that fits. */
  readonly seen: number;
  readonly held: number;
  readonly blocks: readonly SoftBlock[];
  /** Covariances of the control points as far as the band reaches. */
  readonly covariance: Banded;
}

export interface SoftAim extends SoftKnown {
  /** Standard deviation of the pictures' noise, in grey levels. */
  readonly noise: number;
  /** How stiffly neighbours hold each other; 1 by itself. */
  readonly stiffness: number;
  /** Control points on the frame before: where nothing tells they keep their shape; null where that is not known. */
  readonly last: Float64Array | null;
  readonly only?: Closed;
}

/**
 * Aligns a soft surface's texture with a picture: the control points of a lattice are moved until every block of the
 * texture looks like itself, coarse to fine, inverse compositional a block (Baker and Matthews 2004), with a gain and an
 * offset and a say of each block; what bends them is held against what texture tells (Rueckert et al. 1999; Gay-Bellile,
 * Bartoli and Sayd 2010).
 */
export class SoftAligner {
  private readonly fits: readonly LevelFit[];
  private readonly hung: readonly LatticeBlocks[];
  private readonly maps: readonly Float64Array[];
  /** What a step does to each block. */
  private readonly moves: readonly Float64Array[];
  private readonly equations: SoftEquations;
  /** The matrix that a block is looked at through; of one after the other. */
  private readonly seenThrough = Float64Array.of(0, 0, 0, 0, 0, 0, 0, 0, 1);

  constructor(
    readonly template: SurfaceTemplate,
    private readonly lattice: Lattice,
  ) {
    this.fits = template.levels.map((level) => new LevelFit(level));
    this.hung = template.levels.map((level) => new LatticeBlocks(lattice, level, template.fromUnit));
    this.maps = template.levels.map(({ blocks }) => new Float64Array(6 * blocks.length));
    this.moves = template.levels.map(({ blocks }) => new Float64Array(2 * blocks.length));
    this.equations = new SoftEquations(lattice);
  }

  /**
   * @param guess     control points to begin with
   * @param coarsest  the level to begin on
   * @returns null when too little of it can be seen there
   */
  align(picture: Pyramid, guess: Float64Array, coarsest: number, aim: SoftAim): SoftFit | null {
    let to: Float64Array = guess.slice();
    let settled = false;
    for (let level = Math.min(coarsest, this.template.levels.length - 1); level >= 0; level--) {
      const found = this.settle(picture, level, to, aim);
      if (!found && level === 0) return null;
      if (found) ({ to, settled } = found);
    }
    return this.judge(to, settled);
  }

  /** The last alignment was right: what its misfit was is usual. */
  learn(): void {
    for (const fit of this.fits) fit.learn();
  }

  private stiffnessOn(level: number, { stiffness, last }: SoftAim): Stiffness {
    const cell = Math.min(this.lattice.across, this.lattice.down);
    const times = stiffness * STIFFER[Math.min(level, STIFFER.length - 1)];
    const of = (part: number) => times / (part * cell) ** 2;
    return { bend: of(BENDS), bendOn: of(BENDS_ON), stretchOn: of(STRETCHES_ON), last };
  }

  /** Steps on one level until nothing moves any more. */
  private settle(
    picture: Pyramid,
    level: number,
    start: Float64Array,
    aim: SoftAim,
  ): { to: Float64Array; settled: boolean } | null {
    const { equations } = this;
    const [fit, maps, hung] = [this.fits[level], this.maps[level], this.hung[level]];
    const to = start.slice();
    this.require(picture, level, to);
    fit.ask(aim.only, this.template.fromUnit);
    const scale = 1 / 2 ** level;
    const limit = level === 0 ? FINE_SETTLED : COARSE_SETTLED;
    const steps = level === 0 ? FINE_STEPS : COARSE_STEPS;
    const stiffness = this.stiffnessOn(level, aim);
    let far = Infinity;
    for (let step = 0; step < steps; step++) {
      if (!this.look(picture, level, to)) return null;
      fit.weigh(
        aim.noise / 2 ** (level * 0.8),
        level === 0 ? FALLING_MISFIT + 4 / (step + 1) : Infinity,
        step,
      );
      if (level === 0 ? ANEW.includes(step) : step === 0) {
        equations.build(fit, hung, maps, to, stiffness, aim);
        factorise(equations.matrix);
      } else equations.rebuildRight(fit, hung, maps, to, stiffness, aim);
      const change = equations.right;
      solveFactorised(equations.matrix, change);
      const moved = this.movesBy(level, change);
      if (!Number.isFinite(moved.farthest)) return null;
      far = moved.most * scale;
      const longest = moved.farthest * scale;
      const damp = longest > LONGEST_STEP && aim.pins.length === 0 ? LONGEST_STEP / longest : 1;
      for (let k = 0; k < to.length; k++) to[k] += damp * change[k];
      if (far < limit) break;
    }
    return { to, settled: far < NEARLY * limit };
  }

  /** How far blocks go by a change of the control points, in source pixels: the farthest, and most of them, by their say. */
  private movesBy(level: number, change: Float64Array): { readonly farthest: number; readonly most: number } {
    const { weight } = this.fits[level];
    const moves = this.moves[level];
    this.hung[level].middles(change, moves);
    let [farthest, squares, all] = [0, 0, 0];
    for (let b = 0; b < weight.length; b++) {
      const say = weight[b];
      if (!(say > LEAST_SAY)) continue;
      const square = moves[2 * b] ** 2 + moves[2 * b + 1] ** 2;
      farthest = Math.max(farthest, square);
      squares += say * square;
      all += say;
    }
    return { farthest: Math.sqrt(farthest), most: all > 0 ? MOSTLY * Math.sqrt(squares / all) : 0 };
  }

  /** Sums over every block that lies open in the picture. */
  private look(picture: Pyramid, level: number, to: Float64Array): boolean {
    const maps = this.maps[level];
    this.hung[level].maps(to, maps);
    const scale = 1 / 2 ** level;
    const least = FOLDED * this.template.half ** 2;
    const m = this.seenThrough;
    return this.fits[level].look(picture.levels[level], (b) => {
      const k = 6 * b;
      if (!(maps[k] * maps[k + 4] - maps[k + 1] * maps[k + 3] > least)) return null;
      for (let i = 0; i < 6; i++) m[i] = maps[k + i] * scale;
      return m;
    });
  }

  /** Makes sure of what will be sampled. */
  private require(picture: Pyramid, level: number, to: Float64Array): void {
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let k = 0; k < to.length; k += 2) {
      left = Math.min(left, to[k]);
      right = Math.max(right, to[k]);
      top = Math.min(top, to[k + 1]);
      bottom = Math.max(bottom, to[k + 1]);
    }
    const margin = 6 * 2 ** level;
    picture.need(level, left - margin, top - margin, right + margin, bottom + margin);
  }

  private judge(to: Float64Array, converged: boolean): SoftFit {
    const [fit] = this.fits;
    const { own, weight, seen, sums, misfit } = fit;
    const { fromUnit } = this.template;
    let [all, open, held] = [0, 0, 0];
    let [covariance, variance, other] = [0, 0, 0];
    const blocks = own.blocks.map((block, b): SoftBlock => {
      const worth = block.texture * block.count;
      const s = b * SURFACE_SUMS;
      all += worth;
      const middle = block.probes[block.probes.length - 1];
      const at = { x: fromUnit[0] * middle.x + fromUnit[2], y: fromUnit[4] * middle.y + fromUnit[5] };
      const spread = sums[s + 9] - sums[s + 8] ** 2 / block.count;
      if (seen[b]) {
        open += worth;
        held += weight[b] * worth;
        covariance += weight[b] * sums[s + 10];
        variance += weight[b] * block.contrast;
        other += weight[b] * spread;
      }
      const say = seen[b] ? weight[b] : 0;
      return {
        ...{ middle: at, weight: say, seen: seen[b] === 1, worth, misfit: misfit[b] },
        ...{ together: say * sums[s + 10], own: say * block.contrast, other: say * spread },
      };
    });
    // What was factorised for the last steps.
    const { equations } = this;
    invertFactorised(equations.matrix);
    return {
      ...{ to, converged, blocks },
      score: covariance > 0 ? covariance / Math.sqrt(variance * other) : 0,
      seen: all > 0 ? open / all : 0,
      held: open > 0 ? held / open : 0,
      covariance: equations.matrix,
    };
  }
}
