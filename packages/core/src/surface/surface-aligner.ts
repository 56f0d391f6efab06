import { SURFACE_SUMS } from '@lurn/kernels';
import type { Closed } from '../geometry/area.js';
import { normalisedAt, staysInFront } from '../geometry/homography.js';
import { multiply, invert, type Matrix3, type Point } from '../geometry/matrix.js';
import type { Pyramid } from '../picture/pyramid.js';
import { LevelFit } from './level-fit.js';
import { cornerError, isRich, ownShift, stepOf, type SurfaceAllow } from './surface-equations.js';
import type { SurfaceTemplate } from './surface-template.js';
import { areaAt, homographyOf, longest, normalised, placeAt, toLevel } from './unit-motion.js';

export type { SurfaceAllow } from './surface-equations.js';

/** Steps of Gauss and Newton at the most, at full size and on coarser levels. */
const [FINE_STEPS, COARSE_STEPS] = [12, 10];
/** A corner that moves less than this in a step, in samples of its level, has settled. */
const [FINE_SETTLED, COARSE_SETTLED] = [0.012, 0.1];
/** Steps that go on for so many times that are as good as settled: blocks may take turns at the edge of having a say. */
const NEARLY = 8;
/** No corner goes farther than this in a step, in samples of its level. */
const LONGEST_STEP = 4;
/** Where few blocks do, misfit may be so many times what was usual. */
const FALLING_MISFIT = 1.6;
/** How one block fits: its say from 0 to 1, and its misfit and gain against what is usual. */
export interface BlockFit {
  readonly weight: number;
  /** False where it lies outside the picture or is closed. */
  readonly seen: boolean;
  /** What gain and offset leave unexplained, against what is expected. */
  readonly misfit: number;
  readonly gain: number;
  /** How far it would lie elsewhere by itself, in pixels of the picture. */
  readonly off: number;
}

/** A surface found on a frame. */
export interface SurfaceFit {
  /** Its own frame to this one, source pixels. */
  readonly motion: Matrix3;
  readonly converged: boolean;
  /** Correlation over the blocks that have a say, -1 to 1. */
  readonly score: number;
  /** The part of its texture that is seen, and of that the part that fits. */
  readonly seen: number;
  readonly held: number;
  /** Predicted standard deviation of the place of a corner, in pixels: the worst of those asked about. */
  readonly error: number;
  readonly blocks: readonly BlockFit[];
}

/** What is asked of an alignment. */
export interface SurfaceAim {
  readonly allow: SurfaceAllow;
  /** Standard deviation of the pictures' noise, in grey levels. */
  readonly noise: number;
  /** Places on the surface's own frame whose error is told. */
  readonly corners: readonly Point[];
  /** What of it is measured, in pixels of its own frame; all of it when left out. */
  readonly only?: Closed;
}

/**
 * Aligns a surface's texture with a picture: inverse compositional, coarse to fine (Baker and Matthews 2004), with a
 * gain and an offset of each block, and a say of each block by its misfit (an M-estimator over blocks, iteratively
 * reweighted; Holland and Welsch 1977): what covers a part of it, or shines on it, is left out.
 */
export class SurfaceAligner {
  private readonly fits: readonly LevelFit[];

  constructor(readonly template: SurfaceTemplate) {
    this.fits = template.levels.map((level) => new LevelFit(level));
  }

  /**
   * @param guess     the surface's own frame to the picture's, source pixels
   * @param coarsest  the level to begin on
   * @returns null when too little of it can be seen there, or it turns over
   */
  align(picture: Pyramid, guess: Matrix3, coarsest: number, aim: SurfaceAim): SurfaceFit | null {
    return this.climb(picture, guess, coarsest, 0, aim);
  }

  /** The same on one coarse level alone: what is told of the fit is told of that. */
  coarse(picture: Pyramid, guess: Matrix3, level: number, aim: SurfaceAim): SurfaceFit | null {
    const own = Math.min(level, this.template.levels.length - 1);
    return this.climb(picture, guess, own, own, aim);
  }

  private climb(
    picture: Pyramid,
    guess: Matrix3,
    coarsest: number,
    finest: number,
    aim: SurfaceAim,
  ): SurfaceFit | null {
    const { template } = this;
    /** Units to source pixels of the picture. */
    let motion = normalised(multiply(guess, template.fromUnit));
    const first = Math.min(coarsest, template.levels.length - 1);
    let settled = false;
    for (let level = first; level >= finest; level--) {
      const to = this.pictureLevel(picture, level, motion);
      if (to === null) continue;
      const allow = level >= 2 && isRich(aim.allow) ? 'similarity' : aim.allow;
      const found = this.settle(picture, level, to, motion, { ...aim, allow }, level === finest);
      if (!found) {
        if (level === finest) return null;
        continue;
      }
      ({ motion, settled } = found);
    }
    return this.judge(finest, motion, settled, aim);
  }

  /** The last alignment was right: what its misfit was is usual. */
  learn(): void {
    for (const fit of this.fits) fit.learn();
  }

  /** Which level of the picture shows the surface as large as a level of the template does; null where none does. */
  private pictureLevel(picture: Pyramid, level: number, motion: Matrix3): number | null {
    const grown = Math.sqrt(areaAt(motion)) / this.template.half;
    const wanted = level + Math.round(Math.log2(grown) * 0.9);
    if (wanted < 0) return level === 0 ? 0 : null;
    return Math.min(wanted, picture.levels.length - 1);
  }

  /** Steps on one level until nothing moves any more. */
  private settle(
    picture: Pyramid,
    level: number,
    to: number,
    start: Matrix3,
    aim: SurfaceAim,
    last: boolean,
  ): { motion: Matrix3; settled: boolean } | null {
    const plane = picture.levels[to];
    const fit = this.fits[level];
    const scale = 1 / 2 ** to;
    let motion = start;
    this.require(picture, to, motion);
    fit.ask(aim.only, this.template.fromUnit);
    const limit = level === 0 ? FINE_SETTLED : COARSE_SETTLED;
    const steps = level === 0 ? FINE_STEPS : COARSE_STEPS;
    let far = Infinity;
    for (let step = 0; step < steps; step++) {
      const sampled = toLevel(motion, scale);
      if (!fit.look(plane, () => sampled)) return null;
      const strict = last ? FALLING_MISFIT + 4 / (step + 1) : Infinity;
      fit.weigh(aim.noise / 2 ** (level * 0.8), strict, step);
      const change = stepOf(fit, aim.allow);
      if (!change) return null;
      far = longest(sampled, change, this.template.corners);
      const damp = far > LONGEST_STEP ? LONGEST_STEP / far : 1;
      const next = normalised(multiply(motion, invert(homographyOf(change, damp))));
      if (!staysInFront(next, this.template.corners)) return null;
      motion = next;
      if (far < limit) return { motion, settled: true };
    }
    return { motion, settled: far < NEARLY * limit };
  }

  /** Makes sure of what will be sampled. */
  private require(picture: Pyramid, level: number, motion: Matrix3): void {
    const places = this.template.corners.map(({ x, y }) => placeAt(motion, x, y));
    const margin = 6 * 2 ** level;
    picture.need(
      level,
      Math.min(...places.map((p) => p.x)) - margin,
      Math.min(...places.map((p) => p.y)) - margin,
      Math.max(...places.map((p) => p.x)) + margin,
      Math.max(...places.map((p) => p.y)) + margin,
    );
  }

  private judge(level: number, motion: Matrix3, converged: boolean, aim: SurfaceAim): SurfaceFit {
    const fit = this.fits[level];
    const { own, weight, seen, sums, gain, misfit } = fit;
    let [all, open, held] = [0, 0, 0];
    let [covariance, variance, other] = [0, 0, 0];
    const scale = Math.sqrt(areaAt(motion));
    const blocks = own.blocks.map((block, b): BlockFit => {
      const worth = block.texture * block.count;
      const s = b * SURFACE_SUMS;
      all += worth;
      if (seen[b]) open += worth;
      held += weight[b] * worth;
      const spread = sums[s + 9] - sums[s + 8] ** 2 / block.count;
      covariance += weight[b] * sums[s + 10];
      variance += weight[b] * block.contrast;
      other += weight[b] * spread;
      const off = seen[b] ? scale * ownShift(fit, b) : 0;
      return { weight: weight[b], seen: seen[b] === 1, misfit: misfit[b], gain: gain[b], off };
    });
    return {
      motion: normalisedAt(multiply(motion, this.template.toUnit), this.template.middle),
      converged,
      score: covariance > 0 ? covariance / Math.sqrt(variance * other) : 0,
      seen: all > 0 ? open / all : 0,
      held: open > 0 ? held / open : 0,
      error: cornerError(fit, motion, this.template.toUnit, aim.allow, aim.corners),
      blocks,
    };
  }
}
