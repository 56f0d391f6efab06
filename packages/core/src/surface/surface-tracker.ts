import { LurnError } from '../errors.js';
import { movedBy, type Closed } from '../geometry/area.js';
import { moveQuad, staysInFront, type Quad } from '../geometry/homography.js';
import { apply, invert, multiply, translation, type Matrix3, type Point } from '../geometry/matrix.js';
import { measureNoise } from '../picture/noise.js';
import type { Eye } from '../picture/eye.js';
import type { Plane } from '../picture/plane.js';
import type { Pyramid } from '../picture/pyramid.js';
import { correlationMap, peaksOf, type Patch } from '../track/correlation.js';
import { SurfaceAligner, type SurfaceAllow, type SurfaceFit } from './surface-aligner.js';
import { surfaceConfidence } from './surface-confidence.js';
import { FIRST_LOOK, SurfaceTemplate } from './surface-template.js';
import { cornersApart } from './surface-track.js';

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
/** What is looked for in a search has about so many samples from its middle to a corner. */
const SEARCH_HALF = 24;
/** Places of each part of the surface that are tried in a search, and of those that are looked at closely. */
const [PEAKS, CLOSE_LOOKS] = [2, 3];
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

  /**
   * Where else it could be: its looks on a coarse level, as they would be seen from the likeliest motion, whole and in
   * quarters - what covers a part of it leaves others - correlated over the reach; then a coarse alignment from each.
   */
  private search(picture: Pyramid, { guesses, reach }: SurfaceGuess): Matrix3[] {
    const [guess] = guesses;
    const { template } = this.kept;
    const grown = cornersApart(
      boxOn(template, guess),
      repeated(apply(guess, template.middle.x, template.middle.y)),
    );
    const level = Math.min(
      picture.levels.length - 1,
      Math.max(FIRST_LOOK, Math.round(Math.log2(Math.max(1, grown / SEARCH_HALF)))),
    );
    const look = template.looks[Math.min(level, template.looks.length - 1)];
    if (!look) return [];
    const plane = picture.levels[level];
    const size = 2 ** level;
    picture.need(level, 0, 0, plane.width * size, plane.height * size);
    const back = toLevels(invert(guess), level, Math.min(level, template.looks.length - 1));
    const steps = Math.max(1, Math.ceil(reach / size));
    const found: { readonly motion: Matrix3; readonly score: number }[] = [];
    for (const part of partsOf(template, guess, size)) {
      const patch = seenThrough(look, back, part);
      if (!patch) continue;
      const map = correlationMap(plane, patch, part.cx, part.cy, steps, steps);
      for (const peak of peaksOf(map, PEAKS)) {
        const moved = translation((peak.x - part.cx) * size, (peak.y - part.cy) * size);
        found.push({ motion: multiply(moved, guess), score: peak.score });
      }
    }
    const allow: SurfaceAllow = this.settings.allow === 'shift' ? 'shift' : 'similarity';
    const aim = { allow, noise: this.noise, corners: [] };
    return found
      .sort((a, b) => b.score - a.score)
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

const repeated = (p: Point): Quad => [p, p, p, p];

/** Where a template's box is under a motion. */
export function boxOn(template: SurfaceTemplate, motion: Matrix3): Quad {
  return moveQuad(multiply(motion, template.fromUnit), template.corners as Quad);
}

/** A homography between source pixels as one between samples of levels. */
function toLevels(m: Matrix3, from: number, to: number): Matrix3 {
  const [f, t] = [2 ** from, 1 / 2 ** to];
  return [
    m[0] * f * t,
    m[1] * f * t,
    m[2] * t,
    m[3] * f * t,
    m[4] * f * t,
    m[5] * t,
    m[6] * f,
    m[7] * f,
    m[8],
  ];
}

interface Part {
  /** The sample it is centred on, and its half-sizes. */
  readonly cx: number;
  readonly cy: number;
  readonly hw: number;
  readonly hh: number;
}

/** The middle of a surface as it would be seen, and its quarters, in samples. */
function partsOf(template: SurfaceTemplate, guess: Matrix3, size: number): Part[] {
  const m = multiply(guess, template.fromUnit);
  if (!staysInFront(m, template.corners)) return [];
  const [{ x: w, y: h }] = [template.corners[2]];
  const part = (u: number, v: number, share: number): Part => {
    const c = apply(m, u * w, v * h);
    const [p, q] = [apply(m, (u + share) * w, v * h), apply(m, u * w, (v + share) * h)];
    const hw = Math.max(3, Math.round((Math.hypot(p.x - c.x, q.x - c.x) / size) * 0.9));
    const hh = Math.max(3, Math.round((Math.hypot(p.y - c.y, q.y - c.y) / size) * 0.9));
    return { cx: Math.floor(c.x / size), cy: Math.floor(c.y / size), hw, hh };
  };
  return [
    part(0, 0, 1),
    part(-0.5, -0.5, 0.5),
    part(0.5, -0.5, 0.5),
    part(-0.5, 0.5, 0.5),
    part(0.5, 0.5, 0.5),
  ];
}

/** What would be seen about a place, from another frame's picture; null where too little of that is known. */
function seenThrough(
  { width, height, stride, data }: Plane,
  back: Matrix3,
  { cx, cy, hw, hh }: Part,
): Patch | null {
  const n = 2 * hw + 1;
  const values = new Float32Array(n * (2 * hh + 1));
  let outside = 0;
  for (let j = -hh, k = 0; j <= hh; j++) {
    for (let i = -hw; i <= hw; i++, k++) {
      const p = apply(back, cx + i + 0.5, cy + j + 0.5);
      const [x, y] = [Math.floor(p.x), Math.floor(p.y)];
      if (x < 0 || y < 0 || x >= width || y >= height) outside++;
      values[k] = data[Math.min(height - 1, Math.max(0, y)) * stride + Math.min(width - 1, Math.max(0, x))];
    }
  }
  return outside > 0.3 * values.length ? null : { hw, hh, values };
}
