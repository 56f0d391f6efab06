import type { Point } from '../geometry/matrix.js';
import type { Pyramid } from '../picture/pyramid.js';
import { softSample, type SoftSample, type SoftVertex } from './soft-track.js';
import { HIDDEN, type FoundSoft, type FoundVertex, type SoftTracker } from './soft-tracker.js';
import type { SoftLeads } from './leads.js';
import type { SoftPin } from './soft-equations.js';

export type SoftStopReason = 'left-picture' | 'match-failed' | 'not-found-again';

export type SoftOutcome =
  | { readonly going: true; readonly sample: SoftSample; readonly found: FoundSoft | null }
  | {
      readonly going: false;
      readonly reason: SoftStopReason;
      /** The first frame, in the direction of tracking, from which nothing is to be believed. */
      readonly since: number;
    };

/** A hidden vertex is seen again when more than this of the texture about it fits. */
const SEEN = 0.36;
/** So many frames a hidden vertex goes with its neighbours before it ends. */
const COASTS = 12;
const [COAST_CONFIDENCE, COAST_DECAY] = [0.3, 0.9];
/** Where nothing is found it goes on slower and slower: each frame by this part of the frame before. */
const COAST_PACE = 0.5;
/** After so many frames on which nothing of it was found it is given up. */
const LONGEST_LOST = 90;
/** How fast the record of which prediction was right fades, a frame. */
const FORGET = 0.8;
/** No prediction is trusted to be nearer than this, in pixels; before one was checked, this part of the picture's width. */
const [LEAST_SPREAD, UNCHECKED] = [2, 0.012];

const NO_LEADS: SoftLeads = new Map();

/** Follows one soft surface along the frames; each vertex is seen, goes with its neighbours for a while, or has ended. */
export class SoftFollower {
  private last: Float64Array;
  private before: Float64Array | null = null;
  /** Frames since each vertex was seen. */
  private readonly unseen: Int32Array;
  private lostSince: number | null = null;
  private readonly errors = { still: 0, going: 0 };
  private checked = 0;

  /**
   * @param at    where its vertices are on the frame that it is followed from
   * @param past  and on the one before, where that is known
   */
  constructor(
    readonly tracker: SoftTracker,
    at: readonly (Point | null)[],
    past: readonly (Point | null)[] | null,
  ) {
    this.last = tracker.controlFor(at);
    if (past) this.before = tracker.controlFor(past);
    this.unseen = Int32Array.from(at, (p) => (p ? 0 : COASTS + 1));
  }

  /** The first frame of a stretch on which nothing was found, that still goes on; null else. */
  get hiddenSince(): number | null {
    return this.lostSince;
  }

  /** Where its vertices are believed to be, null where they have ended. */
  places(): (Point | null)[] {
    return this.tracker.placesUnder(this.last).map((p, i) => (this.unseen[i] > COASTS ? null : p));
  }

  /**
   * @param pins    vertices that were placed by hand on this frame, by their numbers
   * @param joined  what leads them whether they are seen or not
   * @param hints   what suggests where they are while they are not seen
   */
  follow(
    frame: number,
    picture: Pyramid,
    pins: ReadonlyMap<number, SoftPin>,
    joined: SoftLeads = NO_LEADS,
    hints: SoftLeads = NO_LEADS,
  ): SoftOutcome {
    const leads = new Map([...hints, ...joined]);
    const going = this.goingOn();
    const { last, lostSince } = this;
    const guesses = this.errors.going < this.errors.still ? [going, last] : [last, going];
    // What it is followed from may have been put by hand, and where it was before that be nearer.
    if (this.checked === 0 && this.before) guesses.push(this.before);
    if (leads.size > 0) guesses.push(this.ledTo(leads));
    const { width, height } = picture.levels[0];
    const found = this.tracker.find(picture, {
      guesses,
      spread: this.spread(width),
      lost: lostSince !== null,
      pins: [...pins.values()],
      leads: [...joined.values()],
      hints,
    });
    const { lowMatch, minConfidence } = this.tracker.settings;
    if (found && (lowMatch === 'carryOn' || found.vertices.some((v) => v.confidence >= minConfidence)))
      return this.take(frame, found, pins, leads, { width, height });
    const since = lostSince ?? frame;
    if (lowMatch !== 'coast') return { going: false, reason: 'match-failed', since };
    if (Math.abs(frame - since) >= LONGEST_LOST) return { going: false, reason: 'not-found-again', since };
    return this.coast(frame, pins, leads);
  }

  private take(
    frame: number,
    found: FoundSoft,
    pins: ReadonlyMap<number, SoftPin>,
    leads: SoftLeads,
    size: { readonly width: number; readonly height: number },
  ): SoftOutcome {
    if (this.lostSince === null) {
      this.checked++;
      this.errors.still = FORGET * this.errors.still + apart(found.to, this.last);
      this.errors.going = FORGET * this.errors.going + apart(found.to, this.goingOn());
    } else [this.errors.still, this.errors.going, this.checked] = [0, 0, 0];
    this.lostSince = null;
    this.before = this.last;
    this.last = found.to;
    const vertices = found.vertices.map((v, i) => this.vertex(v, i, pins.get(i), leads.has(i), size));
    return { going: true, sample: softSample(frame, vertices, found.held * found.seen), found };
  }

  private vertex(
    at: FoundVertex,
    i: number,
    pin: SoftPin | undefined,
    led: boolean,
    { width, height }: { readonly width: number; readonly height: number },
  ): SoftVertex | null {
    if (pin) {
      this.unseen[i] = 0;
      return { ...pin.to, confidence: 1, state: 'pinned' };
    }
    const inside = at.x >= 0 && at.y >= 0 && at.x <= width && at.y <= height;
    if (inside && at.held >= (this.unseen[i] > 0 ? SEEN : HIDDEN)) {
      this.unseen[i] = 0;
      return { x: at.x, y: at.y, confidence: at.confidence, state: 'tracked' };
    }
    const gone = this.goneFor(i, led);
    if (gone > COASTS) return null;
    const confidence = Math.min(at.confidence, COAST_CONFIDENCE) * COAST_DECAY ** gone;
    return { x: at.x, y: at.y, confidence, state: 'coasted' };
  }

  /** On a frame on which nothing of it was found it goes on for a while as it went. */
  private coast(frame: number, pins: ReadonlyMap<number, SoftPin>, leads: SoftLeads): SoftOutcome {
    this.lostSince ??= frame;
    const going = this.goingOn();
    const on = this.last.map((v, k) => v + COAST_PACE * (going[k] - v));
    const to = leads.size > 0 ? this.ledTo(leads) : on;
    this.before = this.last;
    this.last = to;

    const places = this.tracker.placesUnder(to);
    const vertices = places.map((p, i): SoftVertex | null => {
      const pin = pins.get(i);
      if (pin) return { ...pin.to, confidence: 1, state: 'pinned' };
      const gone = this.goneFor(i, leads.has(i));
      return gone > COASTS
        ? null
        : { ...p, confidence: COAST_CONFIDENCE * COAST_DECAY ** gone, state: 'coasted' };
    });
    return { going: true, sample: softSample(frame, vertices, 0), found: null };
  }

  /** For how many frames a vertex has not been seen; one that something else tells of does not end. */
  private goneFor(i: number, led: boolean): number {
    this.unseen[i] = led ? Math.min(COASTS, this.unseen[i] + 1) : this.unseen[i] + 1;
    return this.unseen[i];
  }

  /** Control points that take the vertices where they are led. */
  private ledTo(leads: SoftLeads): Float64Array {
    return this.tracker.controlFor(Array.from(this.unseen, (_, i) => leads.get(i)?.to ?? null));
  }

  private goingOn(): Float64Array {
    const { last, before } = this;
    return before ? last.map((v, k) => v + 0.9 * (v - before[k])) : last.slice();
  }

  private spread(width: number): number {
    if (this.checked < 2) return Math.max(LEAST_SPREAD, UNCHECKED * width);
    const usual = Math.min(this.errors.still, this.errors.going) * (1 - FORGET);
    return Math.max(LEAST_SPREAD, 2 * usual);
  }
}

/** The mean distance of control points. */
function apart(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let k = 0; k < a.length; k += 2) sum += Math.hypot(a[k] - b[k], a[k + 1] - b[k + 1]);
  return (2 * sum) / a.length;
}
