import { LurnError } from '../errors.js';
import { length } from '../numbers.js';
import type { Point } from '../geometry/matrix.js';
import type { Eye } from '../picture/eye.js';
import type { Pyramid } from '../picture/pyramid.js';
import { multiplyShapes, UPRIGHT, type Shape } from '../picture/sampling.js';
import type { Alignment, Allow, PatchAligner } from './alignment.js';
import { confidenceOf } from './confidence.js';
import { correlationMap, peaksOf } from './correlation.js';
import { lookalikeScore } from './grip.js';
import {
  contextScore,
  searchLevels,
  SMALLEST_PATCH,
  takeCoarse,
  takeContext,
  takeFine,
  type CoarseTemplate,
  type Context,
  type FineTemplate,
} from './template.js';

/** When the template is taken anew: not at all, on every frame, or when the match falls. */
export type Refresh = 'never' | 'always' | 'auto';
/** What happens when the match falls below the least confidence. */
export type LowMatch = 'stop' | 'carryOn' | 'coast';

export interface SpotSettings {
  /** Half-sizes of the patch in pixels, x and y; whole numbers of at least 3. */
  readonly patch: readonly [number, number];
  /** How far the patch may have moved by the next frame, in pixels, x and y; whole numbers of at least 1. */
  readonly reach: readonly [number, number];
  readonly eye: Eye;
  readonly allow: Allow;
  readonly refresh: Refresh;
  readonly lowMatch: LowMatch;
  /** Below this confidence, 0 to 1, a match is low. */
  readonly minConfidence: number;
}

/** Where a feature was found. */
export interface Found {
  readonly x: number;
  readonly y: number;
  /** How the patch has turned, grown or sheared since it was kept. */
  readonly shape: Shape;
  readonly score: number;
  readonly converged: boolean;
  /** Probability that the place is within 0.3 px. */
  readonly confidence: number;
  /** Predicted standard deviation in pixels, lookalikes aside. */
  readonly error: number;
  readonly uneven: number;
  readonly rival: number;
  readonly usualScore: number;
}

export interface Where {
  /** Centre of the search, in source pixels. */
  readonly x: number;
  readonly y: number;
  /** Factor on the reach. */
  readonly grow: number;
  /** After an occlusion only the kept template counts, not what has been there lately. */
  readonly lost: boolean;
  /** How far the feature usually lies from where it was predicted, in pixels; Infinity where that is not known. */
  readonly spread: number;
}

/** Places within this score of the best at the coarse levels are looked at closely. */
const CLOSE_RUN = 0.12;
/** Those further off than this only where the best did not settle: else their score at level 1 tells enough. */
const NEAR_RUN = 0.05;
const CANDIDATES = 4;
/** ... the best by their score and their place, of so many peaks. */
const PEAKS = 16;
const CLOSE_LOOKS = 3;
/** How far the sub-pixel refinement may move from the guess, in samples of its level. */
const REFINE_LIMIT = 3;
/** A match is a surprise when it lies this many spreads from the prediction ... */
const SURPRISE = 5;
/** ... and of places that look alike, one less surprising is preferred by this much of the score. */
const PREFERENCE = 0.04;
/** However unlike its surroundings a patch is, a match below this part of the usual score tells little. */
const LEAST_LOOKALIKE = 0.6;
const MOST_LOOKALIKE = 0.97;
/** A feature with a lookalike this good is not believed to be found far from its prediction. */
const COMMON = 0.75;
/** The feature's score tells it from a lookalike whose score is lower by so many of its own usual deviations. */
const TELLING = 4;
/** No score is steadier than this from one frame to the next. */
const LEAST_SCORE_DEVIATION = 0.003;
/** Surroundings that correlate by less than this part of what is usual are others. */
const SAME_CONTEXT = 0.85;
/** ... and by so much they may be the feature's own, with something still in front of a part of them. */
const COMING_CONTEXT = 0.75;
/** Surroundings that usually correlate less than this do not go with the feature. */
const TELLING_CONTEXT = 0.7;
/** They are looked at on the first matches, and then on one of so many. */
const CONTEXT_EVERY = 8;
/** After an occlusion a feature with lookalikes is not believed so many times as far away as is a surprise. */
const OUT_OF_QUESTION = 2;
/** Confidence of a surprising match that a lookalike could have given. */
const DUBIOUS = 0.25;
/** Matches that settle what the usual score is. */
const SETTLING = 8;
/** The match has fallen when its score is below this part of the usual one. */
const FALLEN = 0.85;
/** A refreshed template is believed over the kept one only when its score is better by this much. */
const CLEARLY_BETTER = 0.06;
/** A place that was expected is believed without a search when its score is no lower than usual by more than this ... */
const AS_USUAL = 0.02;
/** ... nor by so many of the score's usual deviations; its confidence is that of the last search ... */
const USUAL_DEVIATIONS = 3;
/** ... which is made anew every so many matches: other places may have come to look like the feature. */
const SEARCH_EVERY = 16;
/** Before so many matches it is not known what is usual. */
const FIRST_SEARCHES = 4;
/** Lookalikes are farther away than this part of the patch's half-size. */
const LOOKALIKE_APART = 0.4;
/** A climb begins on the level on which the place is usually within this many samples of where it is expected. */
const CLIMB_FROM = 0.5;
/** A template is refreshed only from a match at least this sure. */
const SURE = 0.6;
/** A match at least this sure, with a usual score, tells how the patch has turned and grown. */
const HELD = 0.15;
/** The coarse templates are taken anew when the patch has turned or grown by this much. */
const COARSE_CHANGE = 0.1;

/**
 * Finds one feature in picture after picture. Its template is kept from the frame on which the spot was placed;
 * every place is measured against it (after turning and scaling it as the patch may do), so that nothing drifts. A
 * second template, refreshed along the way, is consulted only where the kept one has become poor, and what it finds
 * is aligned back to the kept one where that still fits.
 */
export class SpotTracker {
  private readonly kept: FineTemplate;
  private readonly keptCoarse: CoarseTemplate;
  private coarse: CoarseTemplate;
  private coarseShape: Shape = UPRIGHT;
  /** Not before a second match needs it. */
  private context: Context | null = null;
  private usualContext = 1;
  private refreshed: { readonly template: FineTemplate; readonly shape: Shape } | null = null;
  private shape: Shape = UPRIGHT;
  private usualScore = 0;
  /** How far the score usually is from the usual one. */
  private scoreDeviation = 0;
  private seen = 0;
  /** By how much the best other place scored less, in the last search. */
  private rivalGap = Infinity;
  private readonly levels: number;
  /** How much the place nearest in looks is like the feature itself: by its own surroundings, then by rivals met. */
  private lookalike = 0;

  /**
   * @param picture  pyramid of the frame on which the spot was placed, seen through the spot's eye
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
    this.levels = searchLevels(settings.patch, settings.reach);
    this.kept = takeFine(picture, x, y, settings.patch, settings.allow);
    this.keptCoarse = takeCoarse(picture, x, y, settings.patch, this.levels);
    this.coarse = this.keptCoarse;
    if (!this.kept.shift.determined) {
      throw new LurnError(
        'flat-patch',
        `There is nothing to hold on to in the patch at (${x.toFixed(1)}, ${y.toFixed(1)}): it has no texture, or only a straight edge. Move it to a corner or make it larger.`,
      );
    }
  }

  /** The score that, by what lies around the feature, only the feature itself should reach. */
  get tellingScore(): number {
    return (
      this.usualScore * (0.5 + 0.5 * Math.min(MOST_LOOKALIKE, Math.max(LEAST_LOOKALIKE, this.lookalike)))
    );
  }

  /** True when other places look much like the feature: while it is hidden one of them may be taken for it. */
  get hasLookalikes(): boolean {
    return this.lookalike > COMMON;
  }

  /**
   * True when what was found could be a place that only looks like the feature: far from where it was expected, its
   * score is nearer to that of lookalikes than to its own, or the two cannot be told apart, or its surroundings have
   * not come along, as they do when the camera jolts. After an occlusion it is looked for where no lookalike has been
   * met yet: what has any is not believed to be very far away, and near by its surroundings must be coming into view,
   * where they usually go with it.
   */
  private couldBeAnother(found: Alignment, picture: Pyramid, where: Where): boolean {
    const off = surprise(found, where);
    const far = off > 1;
    const apart = (1 - this.lookalike) * this.usualScore;
    const alike = apart < TELLING * Math.max(LEAST_SCORE_DEVIATION, this.scoreDeviation);
    if (far && found.score < this.tellingScore) return true;
    if (far && this.hasLookalikes && (alike || (where.lost && off > OUT_OF_QUESTION))) return true;
    if (this.usualContext < TELLING_CONTEXT) return far && this.hasLookalikes;
    if (!where.lost && !(far && this.hasLookalikes)) return false;
    const least = this.usualContext * (far ? SAME_CONTEXT : COMING_CONTEXT);
    return this.context !== null && contextScore(this.context, picture, found.x, found.y) < least;
  }

  /** The best match within the reach; null when nothing resembles the feature or it is mostly outside the picture. */
  find(picture: Pyramid, where: Where): Found | null {
    const expected = this.whereExpected(picture, where);
    if (expected) {
      this.learn(picture, expected);
      return expected;
    }
    return this.searched(picture, where);
  }

  /**
   * The match at the place where it is expected, reached by climbing from a coarse level without a search; null when
   * there is any doubt of it. That is how most frames of most spots go, at a third of the cost.
   */
  private whereExpected(picture: Pyramid, where: Where): Found | null {
    const { refresh, patch } = this.settings;
    if (this.seen < FIRST_SEARCHES || this.seen % SEARCH_EVERY === 0 || where.lost) return null;
    if (this.refreshed || refresh === 'always' || !Number.isFinite(where.spread)) return null;
    const coarsest = Math.min(this.coarse.length, picture.levels.length - 1);
    let level = 0;
    while (level < coarsest && where.spread > CLIMB_FROM * 2 ** level) level++;
    const margin = (SMALLEST_PATCH + REFINE_LIMIT + 3) * 2 ** level + SURPRISE * where.spread;
    const [mx, my] = [patch[0] + margin, patch[1] + margin];
    picture.need(level, where.x - mx, where.y - my, where.x + mx, where.y + my);
    let place: Point = where;
    for (; level >= 1; level--) {
      const size = 2 ** level;
      const start = { x: place.x / size, y: place.y / size, shape: UPRIGHT };
      const found = this.coarse[level - 1].refine(picture.levels[level], start, REFINE_LIMIT);
      if (!found) return null;
      place = { x: size * found.x, y: size * found.y };
    }
    const start = { x: place.x, y: place.y, shape: this.shape };
    const match = this.kept.shaped.align(picture.levels[0], start, REFINE_LIMIT);
    if (!match?.converged || surprise(match, where) > 1) return null;
    const { usualScore, rivalGap } = this;
    const least = usualScore - Math.max(AS_USUAL, USUAL_DEVIATIONS * this.scoreDeviation);
    if (match.score < least) return null;
    // A lookalike is never as near as this to where the feature is.
    const off = length(match.x - where.x, match.y - where.y);
    if (this.hasLookalikes && (off > LOOKALIKE_APART * Math.min(...patch) || match.score < this.tellingScore))
      return null;
    const rival = Math.max(-1, match.score - rivalGap);
    const { x, y, shape, converged, score, error, uneven } = match;
    const confidence = confidenceOf({ error, score, usualScore, uneven, rival, converged });
    if (confidence < SURE) return null;
    return { x, y, shape, converged, score, error, uneven, rival, usualScore, confidence };
  }

  private searched(picture: Pyramid, where: Where): Found | null {
    const { refresh } = this.settings;
    const guesses = this.search(picture, where);
    if (guesses.length === 0) return null;
    let best = this.closeLook(this.kept, this.shape, picture, guesses, where);
    const fallen = !best || !best.converged || best.score < FALLEN * this.usualScore;
    const { refreshed } = this;
    if (refreshed && !where.lost && (fallen || refresh === 'always')) {
      const other = this.closeLook(refreshed.template, UPRIGHT, picture, guesses, where);
      if (other?.converged && other.score > (best?.converged ? best.score : 0) + CLEARLY_BETTER) {
        const shape = multiplyShapes(other.shape, refreshed.shape);
        const back = this.kept.shaped.align(picture.levels[0], { ...other, shape }, REFINE_LIMIT / 2);
        const fits = back?.converged && back.score > FALLEN * FALLEN * this.usualScore;
        best = { ...other, ...(fits ? { x: back.x, y: back.y, shape: back.shape } : { shape }) };
      }
    }
    if (!best) return null;
    const usualScore = this.seen === 0 ? best.score : this.usualScore;
    const dubious = this.seen > 0 && this.couldBeAnother(best, picture, where);
    const confidence = confidenceOf({ ...best, usualScore }) * (dubious ? DUBIOUS : 1);
    const found = { ...best, usualScore, confidence };
    this.rivalGap = best.score - best.rival;
    const steady = found.score >= FALLEN * usualScore && confidence >= HELD;
    // The first match, next to the frame the template is from, tells what is usual even where all is noisy.
    if (found.converged && (this.seen === 0 || steady || confidence >= SURE)) this.learn(picture, found);
    return found;
  }

  /** After a good match: what is usual, and the templates that follow the feature's looks. */
  private learn(picture: Pyramid, found: Found): void {
    const { refresh, patch, allow } = this.settings;
    const { x, y, shape, score } = found;
    this.shape = shape;
    const share = 1 / Math.min(SETTLING, ++this.seen);
    if (this.seen > 1)
      this.scoreDeviation += share * (Math.abs(score - this.usualScore) - this.scoreDeviation);
    this.usualScore += share * (score - this.usualScore);
    // Not before it is needed: whoever matches only once never asks for it.
    if (this.seen === 2) this.lookalike = lookalikeScore(picture, found, patch, this.settings.reach);
    this.lookalike = Math.max(this.lookalike, found.rival / this.usualScore);
    const changed = differs(shape, this.coarseShape, COARSE_CHANGE);
    if (changed || (this.seen > 1 && !this.context)) this.context = takeContext(picture, x, y, patch);
    else if (this.context && (this.seen <= SETTLING || this.seen % CONTEXT_EVERY === 0)) {
      this.usualContext += (contextScore(this.context, picture, x, y) - this.usualContext) / SETTLING;
    }
    if (this.levels > 1 && changed) {
      this.coarse = takeCoarse(picture, x, y, patch, this.levels);
      this.coarseShape = shape;
    }
    if (found.confidence < SURE) return;
    if (refresh === 'always' || (refresh === 'auto' && score < FALLEN * this.usualScore)) {
      const template = takeFine(picture, x, y, patch, allow);
      if (template.shift.determined) this.refreshed = { template, shape };
    }
  }

  /** Sub-pixel alignment at full size from every guess; the best by its score, with its rival. */
  private closeLook(
    { shift, shaped }: FineTemplate,
    shape: Shape,
    picture: Pyramid,
    guesses: readonly Guess[],
    where: Where,
  ): (Alignment & { readonly rival: number }) | null {
    const plane = picture.levels[0];
    let best: Alignment | null = null;
    let rival = -1;
    const bestGuess = Math.max(...guesses.map((g) => g.score));
    const [hw, hh] = this.settings.patch;
    for (const guess of guesses) {
      if (best?.converged && surprise(best, where) <= 1 && guess.score < bestGuess - NEAR_RUN) {
        rival = Math.max(rival, best.score - (bestGuess - guess.score));
        continue;
      }
      const start = { x: guess.x, y: guess.y, shape };
      let match = shaped.align(plane, start, REFINE_LIMIT);
      if (!match?.converged && shaped !== shift) {
        const shifted = shift.align(plane, start, REFINE_LIMIT);
        if (shifted?.converged) match = shifted;
      }
      if (!match) continue;
      if (!best) best = match;
      else if (Math.abs(match.x - best.x) < hw / 4 && Math.abs(match.y - best.y) < hh / 4) {
        if (match.converged && match.score > best.score) best = match;
      } else if (match.converged && (!best.converged || worth(match, where) > worth(best, where))) {
        rival = Math.max(rival, best.score);
        best = match;
      } else rival = Math.max(rival, match.score);
    }
    return best && { ...best, rival };
  }

  /** Correlation over the reach at the coarsest level, then a climb by sub-pixel alignment to level 1. */
  private search(picture: Pyramid, where: Where): Guess[] {
    const coarsest = Math.min(this.coarse.length, picture.levels.length - 1);
    const guesses = this.searchWith(this.coarse, coarsest, picture, where);
    if (where.lost && this.coarse !== this.keptCoarse) {
      guesses.push(...this.searchWith(this.keptCoarse, coarsest, picture, where));
    }
    const best = Math.max(...guesses.map((g) => g.score));
    const near = guesses
      .filter((g) => g.score > best - CLOSE_RUN)
      .sort((a, b) => worth(b, where) - worth(a, where));
    // Neighbouring candidates climb to the same place: keep each once.
    return near
      .filter((g, i) => near.findIndex((o) => Math.hypot(o.x - g.x, o.y - g.y) < 1.5) === i)
      .slice(0, CLOSE_LOOKS);
  }

  private searchWith(coarse: CoarseTemplate, coarsest: number, picture: Pyramid, where: Where): Guess[] {
    const { patch, reach } = this.settings;
    const size = 2 ** coarsest;
    const aligner: PatchAligner = coarsest > 0 ? coarse[coarsest - 1] : this.kept.shift;
    const { hw, hh } = aligner.patch;
    const rx = Math.max(1, Math.ceil((reach[0] * where.grow) / size));
    const ry = Math.max(1, Math.ceil((reach[1] * where.grow) / size));
    const mx = (rx + 1) * size + Math.max(patch[0], (hw + 3) * size) + 4;
    const my = (ry + 1) * size + Math.max(patch[1], (hh + 3) * size) + 4;
    picture.need(coarsest, where.x - mx, where.y - my, where.x + mx, where.y + my);
    const map = correlationMap(
      picture.levels[coarsest],
      aligner.patch,
      Math.floor(where.x / size),
      Math.floor(where.y / size),
      rx,
      ry,
    );
    const peaks = peaksOf(map, PEAKS);
    let guesses: Guess[] = peaks
      .filter((p) => p.score > peaks[0].score - 2 * CLOSE_RUN)
      .map((p) => ({ x: p.x + 0.5, y: p.y + 0.5, score: p.score }))
      .sort((a, b) => worth(b, where, size) - worth(a, where, size))
      .slice(0, CANDIDATES);
    if (coarsest === 0) return guesses;
    for (let level = coarsest; level >= 1; level--) {
      const finer = coarse[level - 1];
      guesses = guesses.map(({ x, y, score }) => {
        const found = finer.align(picture.levels[level], { x, y, shape: UPRIGHT }, REFINE_LIMIT);
        const place = found?.converged ? found : { x, y, score: found ? found.score : score };
        return { x: 2 * place.x, y: 2 * place.y, score: place.score };
      });
    }
    return guesses;
  }
}

/** True when one of the numbers differs by more than this. */
function differs(a: Shape, b: Shape, by: number): boolean {
  for (let k = 0; k < 4; k++) if (Math.abs(a[k] - b[k]) > by) return true;
  return false;
}

/** Above 1 where a match lies farther from the prediction than features usually do. @param size  pixels of a sample */
function surprise({ x, y }: Point, where: Where, size = 1): number {
  return length(size * x - where.x, size * y - where.y) / (SURPRISE * where.spread);
}

/** The score, less what a surprise costs. */
function worth(match: Guess, where: Where, size = 1): number {
  return match.score - PREFERENCE * Math.min(1, surprise(match, where, size));
}

interface Guess {
  readonly x: number;
  readonly y: number;
  readonly score: number;
}
