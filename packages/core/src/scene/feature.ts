import type { Point } from '../geometry/matrix.js';
import type { Pyramid } from '../picture/pyramid.js';
import { sampleGrid, UPRIGHT, type Shape } from '../picture/sampling.js';
import { PatchAligner } from '../track/alignment.js';
import { correlationAt } from '../track/correlation.js';
import { confidenceOf } from '../track/confidence.js';
import type { Growing } from './scene-tracks.js';

/** Levels of the pyramid that features are followed on. */
export const FEATURE_LEVELS = 4;
/** Half-sizes of the patch, in samples: at full size, and at every coarser level. */
export const FEATURE_PATCH = 7;
const COARSE_PATCH = 4;
/** A coarse place is near enough for the next finer level to start from within this many samples. */
const COARSE_SETTLED = 0.15;
const FINE_SETTLED = 0.03;
/** The level on which places are compared to the nearest sample. */
const LIKENESS_LEVEL = 2;
/** How far a level may move a place, in its samples. */
const LIMIT = 3;
/** The coarse patches are taken anew after so many frames: they only lead to where the fine one is aligned. */
const COARSE_FOR = 20;
/** A match is believed when it is this sure, and its score is this part of the usual one. */
const SURE = 0.2;
const USUAL = 0.8;
const LEAST_SCORE = 0.45;
const LEARNING = 0.1;
const SETTLING = 6;
/** What a frame counts in how it drifts. */
const DRIFTING = 0.1;

/**
 * One feature of the scene. It is always measured against the patch that was kept when it was chosen, turned and scaled
 * as the picture has been since, so that it does not drift; coarser patches, taken anew now and then, lead there.
 */
export class Feature implements Growing {
  readonly x: number[] = [];
  readonly y: number[] = [];
  readonly confidence: number[] = [];
  /** Frames since it was seen last. */
  missed = 0;
  /** How it moved besides the picture as a whole by the frame before. */
  own: Point = { x: 0, y: 0 };
  /** The same, averaged over its last frames: it goes on so while it is hidden. */
  drift: Point = { x: 0, y: 0 };
  private readonly fine: PatchAligner;
  private coarse: readonly PatchAligner[] = [];
  private coarseAge = COARSE_FOR;
  private usualScore = 0;
  private seen = 0;

  /** @param place  in samples of the picture; what lies round it must be wholly inside */
  constructor(
    readonly start: number,
    picture: Pyramid,
    place: Point,
    /** How the whole picture had turned and grown by then. */
    readonly since: { readonly rotation: number; readonly logScale: number },
  ) {
    this.fine = new PatchAligner(takePatch(picture, 0, place, FEATURE_PATCH), 'shift', FINE_SETTLED);
    this.put(place, 1);
    this.takeCoarse(picture, place);
  }

  /** False where its patch has nothing to hold on to. */
  get holds(): boolean {
    return this.fine.determined;
  }

  get last(): Point {
    return { x: this.x[this.x.length - 1], y: this.y[this.y.length - 1] };
  }

  /** On how many frames it was found, after the first. */
  get timesSeen(): number {
    return this.seen;
  }

  get frames(): number {
    return this.x.length;
  }

  /**
   * Where the feature is by a level alone, from a guess; null when it does not settle there.
   *
   * @param level  1 or more
   */
  roughly(picture: Pyramid, level: number, guess: Point): Point | null {
    const size = 2 ** level;
    const aligner = this.coarse[level - 1];
    const plane = picture.levels[level];
    if (!aligner?.determined || !plane) return null;
    const found = aligner.refine(plane, { x: guess.x / size, y: guess.y / size, shape: UPRIGHT }, LIMIT);
    return found && { x: found.x * size, y: found.y * size };
  }

  /** How well it correlates with a place, to the nearest sample of a quarter of the size; 0 beyond the picture. */
  likenessAt(picture: Pyramid, { x, y }: Point): number {
    const plane = picture.levels[LIKENESS_LEVEL];
    const patch = this.coarse[LIKENESS_LEVEL - 1]?.patch;
    if (!plane || !patch) return 0;
    const size = 2 ** LIKENESS_LEVEL;
    return Math.max(0, correlationAt(plane, patch, Math.floor(x / size), Math.floor(y / size)));
  }

  /**
   * Looks for it from a guess, climbing from a level. What is found becomes its sample of this frame.
   *
   * @param shape  how it should have turned and grown since its patch was kept
   * @returns false when it is not seen there
   */
  find(picture: Pyramid, guess: Point, level: number, shape: Shape): boolean {
    let at = guess;
    for (let l = level; l >= 1; l--) {
      const found = this.roughly(picture, l, at);
      if (found) at = found;
    }
    const match = this.fine.align(picture.levels[0], { ...at, shape }, LIMIT);
    if (!match?.converged || match.score < LEAST_SCORE) return false;
    const usual = this.seen === 0 ? match.score : this.usualScore;
    if (match.score < USUAL * usual) return false;
    const confidence = confidenceOf({ ...match, usualScore: usual, rival: -1 });
    if (confidence < SURE) return false;
    const { width, height } = picture.levels[0];
    if (match.x < 2 || match.y < 2 || match.x > width - 2 || match.y > height - 2) return false;
    this.usualScore =
      usual + (match.score - usual) * Math.max(LEARNING, this.seen < SETTLING ? 1 / (this.seen + 1) : 0);
    this.seen++;
    this.missed = 0;
    this.put(match, confidence);
    if (++this.coarseAge >= COARSE_FOR) this.takeCoarse(picture, match);
    return true;
  }

  /** It moved so besides the picture as a whole. */
  moved(own: Point): void {
    const part = Math.max(DRIFTING, 1 / Math.max(1, this.seen));
    this.own = own;
    this.drift = {
      x: this.drift.x + part * (own.x - this.drift.x),
      y: this.drift.y + part * (own.y - this.drift.y),
    };
  }

  /** It was not seen: it is expected at a place. */
  miss(at: Point): void {
    this.missed++;
    this.put(at, 0);
  }

  private put({ x, y }: Point, confidence: number): void {
    this.x.push(x);
    this.y.push(y);
    this.confidence.push(confidence);
  }

  private takeCoarse(picture: Pyramid, { x, y }: Point): void {
    this.coarseAge = 0;
    this.coarse = Array.from({ length: picture.levels.length - 1 }, (_, k) => {
      const size = 2 ** (k + 1);
      return new PatchAligner(
        takePatch(picture, k + 1, { x: x / size, y: y / size }, COARSE_PATCH),
        'shift',
        COARSE_SETTLED,
      );
    });
  }

  /** What is left of it: its samples, without the frames at its end on which it was not seen. */
  ended(): Growing {
    let n = this.frames;
    while (n > 0 && this.confidence[n - 1] === 0) n--;
    const column = (values: readonly number[]) => Float32Array.from(values.slice(0, n));
    return { start: this.start, x: column(this.x), y: column(this.y), confidence: column(this.confidence) };
  }
}

function takePatch(picture: Pyramid, level: number, { x, y }: Point, half: number) {
  const values = new Float32Array((2 * half + 1) ** 2);
  sampleGrid(picture.levels[level], x, y, half, half, values);
  return { hw: half, hh: half, values };
}
