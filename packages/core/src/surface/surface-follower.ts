import type { Closed } from '../geometry/area.js';
import { isClockwise, moveQuad, quadToQuad, type Quad } from '../geometry/homography.js';
import { multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import type { Pyramid } from '../picture/pyramid.js';
import { goOn } from '../track/prediction.js';
import type { FoundSurface, SurfaceTracker } from './surface-tracker.js';
import { cornersApart, type SurfaceSample } from './surface-track.js';

export type SurfaceStopReason = 'left-picture' | 'match-failed' | 'not-found-again' | 'turned-over';

export type SurfaceOutcome =
  | {
      readonly going: true;
      /** The present frame's sample; after a gap the coasted ones before it too, made to meet it. */
      readonly samples: readonly SurfaceSample[];
      /** What was found; null where it is coasted. */
      readonly found: FoundSurface | null;
    }
  | {
      readonly going: false;
      readonly reason: SurfaceStopReason;
      readonly confidence: number;
      /** The first frame, in the direction of tracking, from which nothing is to be believed. */
      readonly since: number;
    };

interface PlacedSurface {
  readonly frame: number;
  readonly corners: Quad;
}

/** A hidden surface is given up after this many frames. */
const LONGEST_COAST = 150;
const COAST_CONFIDENCE = 0.3;
const COAST_DECAY = 0.95;
/** How fast the record of which prediction was right fades, a frame. */
const FORGET = 0.8;
/** No prediction is trusted to be nearer than this, in pixels; before one was checked, this part of the picture's width. */
const LEAST_SPREAD = 1.5;
const UNCHECKED = 0.015;
/** How far a surface is looked for when it is not where it is expected: parts of the picture's width, and more while it is hidden. */
const [REACH, REACH_GROWTH] = [0.08, 0.03];
const LONGEST_MEMORY = 12;
/** After so many frames of coasting only its middle goes on. */
const WHOLE_COAST = 3;

/** Follows one surface along the frames: predicts, looks, coasts while it is hidden, and ends where it must. */
export class SurfaceFollower {
  private readonly past: PlacedSurface[] = [];
  private coasted: SurfaceSample[] = [];
  private readonly errors = { still: 0, going: 0 };
  private checked = 0;

  /**
   * @param base    the corners that samples tell of, on the surface's own frame
   * @param before  the own frame to that of the tracker's template: where it began from a pin
   */
  constructor(
    readonly tracker: SurfaceTracker,
    private readonly base: Quad,
    private readonly before: Matrix3,
    start: PlacedSurface,
    past: readonly PlacedSurface[] = [],
  ) {
    this.past.push(...past, start);
  }

  get hidden(): boolean {
    return this.coasted.length > 0;
  }

  get hiddenSince(): number | null {
    return this.coasted[0]?.frame ?? null;
  }

  /** @param only  what of it is measured on this frame, in pixels of the template's; all of it when left out */
  follow(frame: number, picture: Pyramid, only?: Closed): SurfaceOutcome {
    const { width, height } = picture.levels[0];
    const { lowMatch, minConfidence } = this.tracker.settings;
    const last = this.last;
    const going = this.goingOn(frame);
    const ahead = this.errors.going < this.errors.still || this.hidden;
    const guesses = (ahead ? [going, last] : [last, going])
      .map((corners) => this.motionTo(corners))
      .filter((m) => m !== null);
    const hidden = this.coasted.length;
    const reach = width * Math.min(1, REACH + REACH_GROWTH * hidden);
    const where = { guesses, spread: this.spread(width), lost: this.hidden, reach, only };
    const found = guesses.length > 0 ? this.tracker.find(picture, where) : null;
    const corners = found && moveQuad(multiply(found.motion, this.before), this.base);
    const upright = corners && isClockwise(corners);
    const sure = found && upright && found.confidence >= minConfidence;
    if (found && corners && (sure || (upright && lowMatch === 'carryOn')))
      return this.take(frame, corners, found);
    const confidence = found?.confidence ?? 0;
    const expected = ahead ? going : last;
    const gone = !touches(expected, width, height);
    if (lowMatch !== 'coast') {
      const reason = found && !upright ? 'turned-over' : gone ? 'left-picture' : 'match-failed';
      return { going: false, reason, confidence, since: frame };
    }
    const since = this.hiddenSince ?? frame;
    if (this.coasted.length >= LONGEST_COAST || farOut(going, width, height))
      return { going: false, reason: gone ? 'left-picture' : 'not-found-again', confidence, since };
    const sample: SurfaceSample = {
      frame,
      corners: going,
      confidence: COAST_CONFIDENCE * COAST_DECAY ** hidden,
      state: 'coasted',
    };
    this.coasted.push(sample);
    return { going: true, samples: [sample], found: null };
  }

  private take(frame: number, corners: Quad, found: FoundSurface): SurfaceOutcome {
    const samples: SurfaceSample[] = [];
    if (this.hidden) {
      samples.push(...bent(this.coasted, corners, this.goingOn(frame)));
      this.coasted = [];
      this.errors.still = this.errors.going = 0;
      this.checked = 0;
    } else {
      this.checked++;
      this.errors.still = FORGET * this.errors.still + cornersApart(corners, this.last);
      this.errors.going = FORGET * this.errors.going + cornersApart(corners, this.goingOn(frame));
    }
    this.past.push({ frame, corners });
    if (this.past.length > LONGEST_MEMORY) this.past.shift();
    const { confidence } = found;
    samples.push({ frame, corners, confidence, state: 'tracked', held: found.held * found.seen });
    return { going: true, samples, found };
  }

  private get last(): Quad {
    return (this.coasted[this.coasted.length - 1] ?? this.past[this.past.length - 1]).corners;
  }

  /** Where the corners are if they go on as they went; after a while only the middle does, and the shape stays. */
  private goingOn(frame: number): Quad {
    const seen = this.past[this.past.length - 1];
    const ahead = Math.abs(frame - seen.frame);
    const of = (at: number) =>
      seen.corners.map((_, i) =>
        goOn(
          this.past.map((p) => ({ frame: p.frame, ...p.corners[i] })),
          at,
        ),
      ) as unknown as Quad;
    const whole = of(seen.frame + Math.sign(frame - seen.frame) * Math.min(ahead, WHOLE_COAST));
    if (ahead <= WHOLE_COAST) return whole;
    const middle = middleOf(of(frame));
    const kept = middleOf(whole);
    return whole.map((p) => ({ x: p.x + middle.x - kept.x, y: p.y + middle.y - kept.y })) as unknown as Quad;
  }

  /** The template's frame to one on which the base is there; null where that is no view of a plane. */
  private motionTo(corners: Quad): Matrix3 | null {
    return isClockwise(corners) ? quadToQuad(moveQuad(this.before, this.base), corners) : null;
  }

  private spread(width: number): number {
    if (this.checked < 2) return Math.max(LEAST_SPREAD, UNCHECKED * width);
    const usual = Math.min(this.errors.still, this.errors.going) * (1 - FORGET);
    return Math.max(LEAST_SPREAD, 3 * usual);
  }
}

const middleOf = (quad: Quad): Point => ({
  x: quad.reduce((s, p) => s + p.x, 0) / 4,
  y: quad.reduce((s, p) => s + p.y, 0) / 4,
});

/** A coasted stretch so bent that it meets what was found instead of where it was heading. */
function bent(coasted: readonly SurfaceSample[], found: Quad, heading: Quad): SurfaceSample[] {
  return coasted.map((c, i) => {
    const share = (i + 1) / (coasted.length + 1);
    const corners = c.corners.map((p, k) => ({
      x: p.x + share * (found[k].x - heading[k].x),
      y: p.y + share * (found[k].y - heading[k].y),
    })) as unknown as Quad;
    return { ...c, corners };
  });
}

/** True when the box round corners reaches into the picture. */
function touches(corners: Quad, width: number, height: number): boolean {
  const [xs, ys] = [corners.map((p) => p.x), corners.map((p) => p.y)];
  return Math.max(...xs) > 0 && Math.max(...ys) > 0 && Math.min(...xs) < width && Math.min(...ys) < height;
}

/** True when corners have gone farther out of the picture than it is wide. */
function farOut(corners: Quad, width: number, height: number): boolean {
  const { x, y } = middleOf(corners);
  return x < -width || y < -height || x > 2 * width || y > 2 * height || !Number.isFinite(x + y);
}
