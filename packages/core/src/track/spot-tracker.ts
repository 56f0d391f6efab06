import { LurnError } from '../errors.js';
import type { Point } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import type { Pyramid } from '../picture/pyramid.js';
import { sampleGrid, UPRIGHT } from '../picture/sampling.js';
import { PatchAligner, type Alignment, type Pose } from './alignment.js';
import { correlationMap, peaksOf, type Patch, type Peak } from './correlation.js';

export interface SpotSettings {
  /** Half-sizes of the patch in pixels, x and y; whole numbers of at least 3. */
  readonly patch: readonly [number, number];
  /** How far the patch may have moved by the next frame, in pixels, x and y; whole numbers of at least 1. */
  readonly reach: readonly [number, number];
  /** A match below this confidence stops the spot, 0 to 1. */
  readonly minConfidence: number;
}

export type StopReason = 'left-picture' | 'match-failed';

export type Match =
  | { readonly found: true; readonly x: number; readonly y: number; readonly confidence: number }
  | { readonly found: false; readonly reason: StopReason; readonly confidence: number };

/** Levels of the pyramid that a spot's search uses at the most. */
export const SEARCH_LEVELS = 4;
const SMALLEST_PATCH = 3;
const COARSE_REACH = 8;
const CANDIDATES = 4;
/** How far the sub-pixel refinement may move from the best whole pixel. */
const REFINE_LIMIT = 2.5;
/** With the kept template at or above this score there is nothing to refresh. */
const GOOD_SCORE = 0.85;
/** A refreshed template is used only when its score beats the kept one's by this much. */
const CLEARLY_BETTER = 0.08;
/** Where the refreshed template found the feature, the kept one must agree within this many pixels ... */
const ALIGN_BACK_LIMIT = 1.5;
/** ... and at least this well. */
const LEAST_KEPT_SCORE = 0.4;

/**
 * Follows one feature from picture to picture by matching a template that is kept from the frame on which the
 * spot was placed. A second template, refreshed from the last good match, is consulted only where the kept one
 * has become poor and the refreshed one is clearly better.
 */
export class SpotTracker {
  private kept: Template;
  private refreshed: Template | null = null;

  /**
   * @param picture  pyramid of the frame on which the spot was placed
   * @param x, y     centre of the patch there, in source pixels
   * @throws LurnError `spot-outside` when the centre is not in the picture, `patch-too-large` when the patch
   *         does not fit in it, `flat-patch` when there is nothing in the patch to hold on to.
   */
  constructor(
    readonly settings: SpotSettings,
    picture: Pyramid,
    x: number,
    y: number,
  ) {
    const { width, height } = picture.levels[0];
    if (!(x >= 0 && y >= 0 && x <= width && y <= height)) {
      throw new LurnError(
        'spot-outside',
        `The spot at (${x}, ${y}) is outside the picture of ${width} x ${height} pixels. Place it inside.`,
      );
    }
    const [hw, hh] = settings.patch;
    if (2 * hw + 1 > width || 2 * hh + 1 > height) {
      throw new LurnError(
        'patch-too-large',
        `A patch of ${2 * hw + 1} x ${2 * hh + 1} does not fit in a picture of ${width} x ${height}. Make it smaller.`,
      );
    }
    this.kept = takeTemplate(settings, picture, x, y);
    if (!this.kept.shift.determined) {
      throw new LurnError(
        'flat-patch',
        `There is nothing to hold on to in the patch at (${x.toFixed(1)}, ${y.toFixed(1)}): it has no texture, or only a straight edge. Move it to a corner or make it larger.`,
      );
    }
  }

  /** Finds the feature in the next picture, given where it was in the one before. */
  follow(picture: Pyramid, from: Point): Match {
    const { width, height } = picture.levels[0];
    let best = this.match(this.kept, picture, from);
    let usedRefreshed = false;
    if (this.refreshed && (best?.score ?? 0) < GOOD_SCORE) {
      const other = this.match(this.refreshed, picture, from);
      if (other && other.score > (best?.score ?? 0) + CLEARLY_BETTER) {
        // What the refreshed template found is aligned back to the kept one, so that refreshing cannot drift.
        const back = this.kept.shift.align(picture.levels[0], { ...other, shape: UPRIGHT }, ALIGN_BACK_LIMIT);
        if (back?.converged && back.score > LEAST_KEPT_SCORE) {
          best = { ...back, score: (back.score + other.score) / 2 };
          usedRefreshed = true;
        }
      }
    }
    if (!best || best.x < 0 || best.y < 0 || best.x > width || best.y > height) {
      return { found: false, reason: 'left-picture', confidence: 0 };
    }
    const confidence = confidenceOf(best);
    if (confidence < this.settings.minConfidence) {
      return {
        found: false,
        reason: this.nearEdge(picture.levels[0], best) ? 'left-picture' : 'match-failed',
        confidence,
      };
    }
    if (!usedRefreshed && best.score < GOOD_SCORE) {
      const next = takeTemplate(this.settings, picture, best.x, best.y);
      if (next.shift.determined) this.refreshed = next;
    } else if (!usedRefreshed) {
      this.refreshed = null;
    }
    return { found: true, x: best.x, y: best.y, confidence };
  }

  private nearEdge(plane: Plane, at: Point): boolean {
    const [hw, hh] = this.settings.patch;
    return at.x < hw || at.y < hh || at.x > plane.width - hw || at.y > plane.height - hh;
  }

  /**
   * Coarse-to-fine correlation over the reach, then sub-pixel alignment at full size: by shift, and from there
   * by similarity, so that a patch that turns a little is not pulled to one side.
   */
  private match(template: Template, picture: Pyramid, from: Point): Alignment | null {
    const plane = picture.levels[0];
    let best: Alignment | null = null;
    for (const peak of this.search(template, picture, from)) {
      const whole: Pose = { x: peak.x + 0.5, y: peak.y + 0.5, shape: UPRIGHT };
      const aligned = template.shift.align(plane, whole, REFINE_LIMIT);
      const found = aligned?.converged ? aligned : { ...whole, score: peak.score, converged: false };
      if (!best || found.score > best.score) best = found;
    }
    if (!best || !template.similarity.determined) return best;
    const turned = template.similarity.align(plane, best, REFINE_LIMIT);
    return turned?.converged && turned.score >= best.score ? turned : best;
  }

  private search(template: Template, picture: Pyramid, from: Point): Peak[] {
    const [rx, ry] = this.settings.reach;
    const coarsest = Math.min(template.levels.length, picture.levels.length) - 1;
    const size = 2 ** coarsest;
    const { hw, hh } = template.levels[coarsest];
    const [mx, my] = [rx + (hw + 3) * size, ry + (hh + 3) * size];
    picture.need(coarsest, from.x - mx, from.y - my, from.x + mx, from.y + my);
    let peaks = peaksOf(
      correlationMap(
        picture.levels[coarsest],
        template.levels[coarsest],
        Math.floor(from.x / size),
        Math.floor(from.y / size),
        Math.ceil(rx / size),
        Math.ceil(ry / size),
      ),
      CANDIDATES,
    );
    for (let level = coarsest - 1; level >= 0; level--) {
      const finer = peaks
        .map((p) => {
          const map = correlationMap(
            picture.levels[level],
            template.levels[level],
            2 * p.x + 1,
            2 * p.y + 1,
            2,
            2,
          );
          return peaksOf(map, 1)[0];
        })
        .filter((p) => p !== undefined)
        .sort((a, b) => b.score - a.score);
      peaks = finer.slice(0, Math.max(2, CANDIDATES - (coarsest - level)));
    }
    // Neighbouring candidates climb to the same peak: keep each once.
    return peaks.filter((p, i) => peaks.findIndex((q) => q.x === p.x && q.y === p.y) === i);
  }
}

interface Template {
  readonly levels: readonly Patch[];
  readonly shift: PatchAligner;
  readonly similarity: PatchAligner;
}

function takeTemplate(settings: SpotSettings, picture: Pyramid, x: number, y: number): Template {
  const count = Math.min(searchLevels(settings), picture.levels.length);
  const [mx, my] = settings.patch.map((half) => half + (SMALLEST_PATCH + 2) * 2 ** (count - 1));
  picture.need(count - 1, x - mx, y - my, x + mx, y + my);
  const levels: Patch[] = [];
  for (let l = 0; l < count; l++) {
    const hw = Math.max(SMALLEST_PATCH, Math.round(settings.patch[0] / 2 ** l));
    const hh = Math.max(SMALLEST_PATCH, Math.round(settings.patch[1] / 2 ** l));
    const values = new Float64Array((2 * hw + 1) * (2 * hh + 1));
    sampleGrid(picture.levels[l], x / 2 ** l, y / 2 ** l, hw, hh, values);
    levels.push({ hw, hh, values });
  }
  return {
    levels,
    shift: new PatchAligner(levels[0], 'shift'),
    similarity: new PatchAligner(levels[0], 'similarity'),
  };
}

/** Enough levels that the reach is a handful of samples at the coarsest, while the patch still has structure. */
function searchLevels({ patch, reach }: SpotSettings): number {
  let levels = 1;
  while (
    levels < SEARCH_LEVELS &&
    Math.max(...reach) / 2 ** (levels - 1) > COARSE_REACH &&
    Math.min(...patch) / 2 ** levels >= SMALLEST_PATCH
  ) {
    levels++;
  }
  return levels;
}

/** Confidence from the match: the correlation, discounted where the refinement did not settle. */
function confidenceOf(match: Alignment): number {
  const c = Math.min(1, Math.max(0, match.score));
  return match.converged ? c : c * 0.6;
}
