import type { Point } from '../geometry/matrix.js';
import { length } from '../numbers.js';
import type { Pyramid } from '../picture/pyramid.js';
import { turnAndScale, type Shape } from '../picture/sampling.js';
import { goOn, withOthers, type Placed, type PlaceOf } from './prediction.js';
import type { Found, SpotTracker } from './spot-tracker.js';
import type { FramedSample } from './track.js';

/** Why a spot ends. */
export type StopReason = 'left-picture' | 'match-failed' | 'not-found-again';

export type Outcome =
  | {
      readonly going: true;
      /** The present frame's sample; after a gap the coasted ones before it too, made to meet it. */
      readonly samples: readonly FramedSample[];
    }
  | {
      readonly going: false;
      readonly reason: StopReason;
      readonly confidence: number;
      /** The first frame, in the direction of tracking, from which nothing is to be believed. */
      readonly since: number;
    };

/** How much farther is looked with every frame that a feature is hidden, and at the most. */
const GROWTH = 0.15;
const MOST_GROWTH = 3;
/** After a gap a feature with lookalikes may be one of them: it is never quite sure again. */
const MAYBE_ANOTHER = 0.7;
/** A hidden feature is given up after this many frames. */
const LONGEST_COAST = 120;
/** A feature that was hidden is believed to be back only when the match is this sure, and scores as only itself should. */
const SURE_AGAIN = 0.6;
/** ... or nearly as sure as it used to be, where it never was that sure. */
const AS_SURE_AS_BEFORE = 0.7;
/** Where other places look like it, a match less sure than this is as likely one of them. */
const SURE_ENOUGH = 0.4;
const COAST_CONFIDENCE = 0.3;
const COAST_DECAY = 0.95;
/** How fast the record of which prediction was right fades, a frame. */
const FORGET = 0.8;
/** No prediction is trusted to be nearer than this, in pixels. */
const LEAST_SPREAD = 1;
const SPREADING = 0.15;
/** Before a prediction was checked nothing in the reach is a surprise, but of places that match alike the nearer counts. */
const UNCHECKED = 0.2;
/** Places that a prediction may look back on. */
const LONGEST_MEMORY = 12;

/** Follows one feature along the frames: predicts, matches, coasts while it is hidden, and ends where it must. */
export class Follower {
  private readonly past: Placed[] = [];
  private coasted: FramedSample[] = [];
  private readonly errors = { still: 0, going: 0 };
  private checked = 0;
  private mostConfidence = 1;
  private usualConfidence = 1;
  /** True while the others of its group tell where it is. */
  private carried = false;

  constructor(
    readonly tracker: SpotTracker,
    start: Placed,
    /** Places before the start, oldest first, from which it can be told how the feature was moving. */
    past: readonly Placed[] = [],
    /** How the patch had turned and grown already when this template was taken. */
    private readonly before = { turn: 0, scale: 1 },
  ) {
    this.past.push(...past, start);
  }

  /** With how the patch has turned and grown since its template was taken, unless it may only shift. */
  private sampleOf(frame: number, x: number, y: number, confidence: number, shape: Shape): FramedSample {
    if (this.tracker.settings.allow === 'shift') return { frame, x, y, confidence, state: 'tracked' };
    const { turn, scale } = turnAndScale(shape);
    const { before } = this;
    const change = { turn: turn + before.turn, scale: scale * before.scale };
    return { frame, x, y, confidence, state: 'tracked', turn: change.turn, scale: change.scale };
  }

  get hidden(): boolean {
    return this.coasted.length > 0;
  }

  /** The first frame of the stretch that is being coasted; null while the feature is seen. */
  get hiddenSince(): number | null {
    return this.coasted[0]?.frame ?? null;
  }

  /**
   * @param others  places of the spots that may move with it, the present frame included where they are known; asked
   *                for only while it is hidden
   */
  follow(frame: number, picture: Pyramid, others: () => readonly PlaceOf[]): Outcome {
    const { width, height } = picture.levels[0];
    const { lowMatch, minConfidence, patch } = this.tracker.settings;
    const group = this.hidden ? withOthers(this.past, others(), frame) : null;
    const predicted = group ?? (this.hidden ? this.coast(frame) : this.predict(frame));
    const grow = Math.min(MOST_GROWTH, 1 + GROWTH * this.coasted.length);
    const inside = (p: Point) => p.x >= 0 && p.y >= 0 && p.x <= width && p.y <= height;
    const where = { x: predicted.x, y: predicted.y, grow, lost: this.hidden, spread: this.spread };
    const found = this.tracker.find(picture, where);
    const again = Math.min(SURE_AGAIN, AS_SURE_AS_BEFORE * this.usualConfidence);
    const least = this.hidden ? again : this.tracker.hasLookalikes ? SURE_ENOUGH : 0;
    const enough = Math.max(minConfidence, least);
    const sure =
      found !== null &&
      inside(found) &&
      found.confidence >= enough &&
      (!this.hidden || found.score >= this.tracker.tellingScore);
    if (found && inside(found) && (sure || lowMatch === 'carryOn')) return this.take(frame, found, predicted);
    const nearEdge = (p: Point) =>
      p.x < patch[0] || p.y < patch[1] || p.x > width - patch[0] || p.y > height - patch[1];
    const confidence = found?.confidence ?? 0;
    if (lowMatch !== 'coast') {
      const left = !found || !inside(found) || nearEdge(found);
      return { going: false, reason: left ? 'left-picture' : 'match-failed', confidence, since: frame };
    }
    const at = group ?? this.coast(frame);
    const met = group && !this.carried && this.hidden ? this.bend(group, this.coast(frame)) : [];
    this.carried = group !== null;
    const since = this.hiddenSince ?? frame;
    if (!inside(at)) return { going: false, reason: 'left-picture', confidence, since };
    if (this.coasted.length >= LONGEST_COAST)
      return { going: false, reason: 'not-found-again', confidence, since };
    const sample: FramedSample = {
      frame,
      x: at.x,
      y: at.y,
      confidence: COAST_CONFIDENCE * COAST_DECAY ** this.coasted.length,
      state: 'coasted',
    };
    this.coasted.push(sample);
    return { going: true, samples: [...met, sample] };
  }

  /**
   * Bends the coasted stretch so that it meets a place on the present frame instead of where it was heading: no jump
   * on the first frame after.
   */
  private bend(place: Point, predicted: Point): FramedSample[] {
    const share = 1 / (this.coasted.length + 1);
    this.coasted = this.coasted.map((c, i) => {
      const part = (i + 1) * share;
      return { ...c, x: c.x + part * (place.x - predicted.x), y: c.y + part * (place.y - predicted.y) };
    });
    return this.coasted;
  }

  private take(frame: number, { x, y, confidence, shape }: Found, predicted: Point): Outcome {
    const last = this.past[this.past.length - 1];
    const samples: FramedSample[] = [];
    if (this.hidden) {
      samples.push(...this.bend({ x, y }, predicted));
      this.coasted = [];
      if (this.tracker.hasLookalikes) this.mostConfidence = MAYBE_ANOTHER;
    } else {
      const going = goOn(this.past, frame);
      this.checked++;
      this.errors.still = FORGET * this.errors.still + length(x - last.x, y - last.y);
      this.errors.going = FORGET * this.errors.going + length(x - going.x, y - going.y);
    }
    this.usualConfidence += (1 - FORGET) * (confidence - this.usualConfidence);
    this.past.push({ frame, x, y });
    const sure = Math.min(confidence, this.mostConfidence);
    samples.push(this.sampleOf(frame, x, y, sure, shape));
    return { going: true, samples };
  }

  /** How far off the prediction usually is, in pixels; more with every frame that it goes unchecked. */
  private get spread(): number {
    if (this.checked < 3) return UNCHECKED * Math.hypot(...this.tracker.settings.reach);
    const usual = Math.min(this.errors.still, this.errors.going) * (1 - FORGET);
    return Math.max(LEAST_SPREAD, usual) * (1 + SPREADING * this.coasted.length);
  }

  /** Goes on from where it was last put, seen or not, so that nothing jumps when the others cannot tell any more. */
  private coast(frame: number): Point {
    return goOn([...this.past.slice(-LONGEST_MEMORY), ...this.coasted], frame);
  }

  /** As it stood or as it went, whichever has been right more often lately. */
  private predict(frame: number): Point {
    const last = this.past[this.past.length - 1];
    return this.errors.going < this.errors.still ? goOn(this.past, frame) : last;
  }
}
