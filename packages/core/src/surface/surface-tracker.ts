import { LurnError } from '../errors.js';
import { movedBy, type Closed } from '../geometry/area.js';
import { apply, invert, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import { measureNoise } from '../picture/noise.js';
import type { Eye } from '../picture/eye.js';
import type { Pyramid } from '../picture/pyramid.js';
import { SurfaceAligner, type SurfaceAllow, type SurfaceFit } from './surface-aligner.js';
import { looksAlike } from './surface-search.js';
import { surfaceConfidence } from './surface-confidence.js';
import { FIRST_LOOK, SurfaceTemplate } from './surface-template.js';

export interface SurfaceSettings {
  readonly allow: SurfaceAllow;
  /** When its looks are taken anew; always aligned back to how it looked first. */
  readonly refresh: 'never' | 'auto' | 'always';
  /** What happens where it cannot be found. */
  readonly lowMatch: 'stop' | 'carryOn' | 'coast';
  readonly minConfidence: number;
  readonly eye: Eye;
}

/** A surface found, and how sure that is. */
export interface FoundSurface extends SurfaceFit {
  /** The probability that every corner of its shape is within 0.5 px. */
  readonly confidence: number;
}

/** Where a surface is looked for. */
export interface SurfaceGuess {
  /** Likely motions, the likeliest first: its own frame to the one that is looked at. */
  readonly guesses: readonly Matrix3[];
  /** How far off the likeliest may be, in pixels. */
  readonly spread: number;
  /** True while it was not found on the frame before. */
  readonly lost: boolean;
  /** How far the search goes, in pixels; 0: where it is expected only. */
  readonly reach: number;
  /** What of it is measured on this frame, in pixels of its own; all of it when left out. */
  readonly only?: Closed;
}

/** Least texture, in squared grey levels a pixel, and least size, in pixels, of what can be held on to. */
const LEAST_TEXTURE = 0.6;
const LEAST_SIDE = 12;
/** A fit is as good as usual from these parts of the usual correlation, and of what is seen, on. */
const AS_USUAL = 0.93;
const MOSTLY = 0.45;
/** Below these it is not the surface. */
const [LEAST_SCORE, LEAST_HELD, LEAST_SEEN] = [0.5, 0.12, 0.04];
/** After it was hidden it has to fit better than that to be believed. */
const [BACK_SCORE, BACK_HELD] = [0.65, 0.25];
/** Over so many good fits what is usual settles. */
const SETTLING = 12;
/** Of the places that are found in a search so many are looked at closely. */
const CLOSE_LOOKS = 3;
/** A corner that may be farther off than this, in pixels, is a reason to look elsewhere. */
const UNSURE = 0.3;
/** Where it fits in part only, it is looked for elsewhere on one frame of so many. */
const SEARCH_EVERY = 6;
/** A frame's looks are taken anew when the part that fits falls below this, and it is still surely seen. */
const CHANGED = 0.7;

/** Finds one flat surface on picture after picture by its texture. */
export class SurfaceTracker {
  private readonly kept: SurfaceAligner;
  private refreshed: { readonly aligner: SurfaceAligner; readonly motion: Matrix3 } | null = null;
  private usualScore = 0;
  private seen = 0;
  /** Frames on which less of it fitted than usually does. */
  private doubted = 0;
  private readonly noise: number;
  private readonly corners: readonly Point[];

  /**
   * @param picture  pyramid of the surface's own frame, seen through its eye
   * @param drawn    outlines that add up to it, and those left out of it, in source pixels
   * @throws LurnError `surface-outside` when nothing of it lies in the picture, `surface-small` when it is too small to
   *         be told apart, `surface-flat` when there is no texture to hold on to
   */
  constructor(
    readonly settings: SurfaceSettings,
    picture: Pyramid,
    private readonly drawn: Closed,
  ) {
    const { width, height } = picture.levels[0];
    this.corners = drawn.focus.flat();
    const inside = (p: Point) => p.x > 0 && p.y > 0 && p.x < width && p.y < height;
    const template = new SurfaceTemplate(picture, drawn);
    const [left, top, right, bottom] = [
      ...[Math.min(...this.corners.map((p) => p.x)), Math.min(...this.corners.map((p) => p.y))],
      ...[Math.max(...this.corners.map((p) => p.x)), Math.max(...this.corners.map((p) => p.y))],
    ];
    if (right <= 0 || bottom <= 0 || left >= width || top >= height)
      throw new LurnError(
        'surface-outside',
        `It lies outside the picture of ${width} x ${height} pixels. Draw it inside.`,
      );
    if (right - left < LEAST_SIDE || bottom - top < LEAST_SIDE)
      throw new LurnError(
        'surface-small',
        `It is ${Math.round(right - left)} x ${Math.round(bottom - top)} pixels. Draw at least ${LEAST_SIDE} x ${LEAST_SIDE}, or place a spot there.`,
      );
    const [fine] = template.levels;
    if (!fine) {
      const open = this.corners.some(inside) ? 'All of it is ignored' : 'Nothing of it can be seen';
      throw new LurnError('surface-closed', `${open} on this frame. Go to a frame on which it can be seen.`);
    }
    this.noise = measureNoise(picture.levels[0]);
    const texture =
      fine.blocks.reduce((sum, b) => sum + b.texture * b.count, 0) / fine.values.length -
      0.1 * this.noise * this.noise;
    if (texture < LEAST_TEXTURE)
      throw new LurnError(
        'surface-flat',
        'There is nothing to hold on to: it has no texture. Draw it larger, so that more is in it.',
      );
    this.kept = new SurfaceAligner(template);
  }

  get template(): SurfaceTemplate {
    return this.kept.template;
  }

  /** The best match; null when nothing like it can be seen. */
  find(picture: Pyramid, where: SurfaceGuess): FoundSurface | null {
    const coarsest = levelFor(where.spread);
    let best: SurfaceFit | null = null;
    for (const guess of where.guesses) {
      const fit = this.look(picture, guess, coarsest, where.only);
      if (fit && (!best || worth(fit) > worth(best))) best = fit;
      if (best && this.isAsUsual(best)) break;
    }
    if (this.looksElsewhere(best, where)) {
      for (const guess of this.search(picture, where)) {
        const fit = this.look(picture, guess, FIRST_LOOK + 1, where.only);
        if (fit && (!best || worth(fit) > worth(best) + 0.02)) best = fit;
        if (best && this.isAsUsual(best)) break;
      }
    }
    if (!best) return null;
    const [score, held] = where.lost ? [BACK_SCORE, BACK_HELD] : [LEAST_SCORE, LEAST_HELD];
    const usualScore = this.seen === 0 ? best.score : this.usualScore;
    if (best.score < score * usualScore || best.held < held || best.seen < LEAST_SEEN) return null;
    const confidence = surfaceConfidence({ ...best, usualScore });
    if (!where.lost && confidence > 0.5) this.learn(picture, best);
    return { ...best, confidence };
  }

  /** A search costs as much as some frames: where enough of it fits, there is one now and then only. */
  private looksElsewhere(best: SurfaceFit | null, { reach, lost }: SurfaceGuess): boolean {
    if (reach === 0) return false;
    if (!best || lost || !best.converged || best.error > UNSURE) return true;
    if (best.held < LEAST_HELD * 2 || best.score < AS_USUAL * this.usualScore) return true;
    return !this.isAsUsual(best) && this.doubted++ % SEARCH_EVERY === 0;
  }

  private isAsUsual(fit: SurfaceFit): boolean {
    return fit.converged && fit.held >= MOSTLY && fit.score >= AS_USUAL * this.usualScore;
  }

  /** Aligned with how it looked first; where that does not fit any more, with how it looked last, and then back. */
  private look(picture: Pyramid, guess: Matrix3, coarsest: number, only?: Closed): SurfaceFit | null {
    const aim = { only, allow: this.settings.allow, noise: this.noise, corners: this.corners };
    const own = this.kept.align(picture, guess, coarsest, aim);
    const { refreshed } = this;
    if (!refreshed || (own && this.isAsUsual(own) && this.settings.refresh !== 'always')) return own;
    const back = invert(refreshed.motion);
    const corners = this.corners.map((p) => apply(refreshed.motion, p.x, p.y));
    const fit = refreshed.aligner.align(picture, multiply(guess, back), coarsest, {
      ...aim,
      corners,
      only: only && movedBy(refreshed.motion, only),
    });
    if (!fit || (own && worth(fit) < worth(own) + 0.05)) return own;
    const motion = multiply(fit.motion, refreshed.motion);
    const again = this.kept.align(picture, motion, 0, aim);
    if (again?.converged && again.held > LEAST_HELD * 2 && again.score > LEAST_SCORE) return again;
    return { ...fit, motion };
  }

  private learn(picture: Pyramid, fit: SurfaceFit): void {
    this.kept.learn();
    const share = 1 / Math.min(SETTLING, ++this.seen);
    this.usualScore += share * (fit.score - this.usualScore);
    const { refresh } = this.settings;
    if (refresh === 'never' || (refresh === 'auto' && fit.held * fit.seen > CHANGED)) return;
    if (this.seen % SETTLING !== 0) return;
    const template = new SurfaceTemplate(picture, movedBy(fit.motion, this.drawn));
    if (template.levels.length > 0)
      this.refreshed = { aligner: new SurfaceAligner(template), motion: fit.motion };
  }

  /** Where else it could be, coarsely aligned from each ({@link looksAlike}). */
  private search(picture: Pyramid, { guesses, reach }: SurfaceGuess): Matrix3[] {
    const allow: SurfaceAllow = this.settings.allow === 'shift' ? 'shift' : 'similarity';
    const aim = { allow, noise: this.noise, corners: [] };
    return looksAlike(this.kept.template, picture, guesses[0], reach)
      .slice(0, 2 * CLOSE_LOOKS + 2)
      .map(({ motion }) => ({ motion, fit: this.kept.coarse(picture, motion, FIRST_LOOK, aim) }))
      .filter(({ fit }) => fit !== null)
      .sort((a, b) => worth(b.fit!) - worth(a.fit!))
      .slice(0, CLOSE_LOOKS)
      .map(({ fit }) => fit!.motion);
  }
}

/** How much of a fit speaks for it. */
const worth = (fit: Pick<SurfaceFit, 'score' | 'held' | 'seen'>) =>
  fit.score * Math.sqrt(fit.held) * Math.min(1, fit.seen * 2);

/** The level from which a guess that far off is climbed from. */
function levelFor(spread: number): number {
  return Math.max(1, Math.min(4, Math.ceil(Math.log2(Math.max(1, spread) / 1.5))));
}
