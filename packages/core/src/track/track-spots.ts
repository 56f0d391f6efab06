import { LurnError, type AbortSignalLike } from '../errors.js';
import type { Area } from '../geometry/area.js';
import type { Point } from '../geometry/matrix.js';
import { Covers } from '../geometry/covers.js';
import { sameEye, type Eye } from '../picture/eye.js';
import type { Pyramid } from '../picture/pyramid.js';
import { FrameRun, type FrameSource, type Progress } from './frame-run.js';
import { Follower, type Outcome, type StopReason } from './follower.js';
import { joinOn, patchPlace, pathPlace, type Join } from './joins.js';
import type { Placed, PlaceOf } from './prediction.js';
import { SpotTracker, type SpotSettings } from './spot-tracker.js';
import { SEARCH_LEVELS } from './template.js';
import { measuredEnd, STATES } from './measured.js';
import { nearestPin, sampleAt, type FramedSample, type Track } from './track.js';

/** The same frames, with what areas close in them: that is never measured. */
export function closedBy(source: FrameSource, areas: readonly Area[]): FrameSource {
  if (areas.length === 0) return source;
  const covers = new Covers(areas);
  return {
    async plane(frame, channel, signal) {
      const plane = await source.plane(frame, channel, signal);
      const covered = covers.at(frame, plane.width, plane.height);
      return covered ? { ...plane, covered } : plane;
    },
  };
}

/** A spot of which it is known where it is on some frames. */
export interface KnownSpot {
  readonly id: string;
  /** The id of what it is on: spots of one mover may predict each other. */
  readonly mover: string;
  readonly track: Track;
}

export interface SpotToTrack extends KnownSpot {
  readonly name: string;
  readonly settings: SpotSettings;
  /** What is known so far; at least the sample it starts from. */
  readonly track: Track;
  readonly joins: readonly Join[];
}

export interface TrackRequest {
  readonly spots: readonly SpotToTrack[];
  /** Spots that are not tracked now, but whose samples may tell where a hidden one is. */
  readonly others?: readonly KnownSpot[];
  /** The frame the spots are followed from; each needs a sample on it. */
  readonly from: number;
  /** The last frame to measure; below `from` to go backwards. */
  readonly to: number;
}

export interface SpotStop {
  readonly id: string;
  readonly frame: number;
  /** First frame, in the direction of tracking, whose samples are withdrawn. */
  readonly since: number;
  readonly reason: StopReason | 'flat-patch' | 'spot-outside' | 'patch-too-large';
  /** A sentence for the person. */
  readonly message: string;
}

/** What one more frame has brought. */
export interface TrackStep extends Progress {
  /** Samples of this frame, and of frames before it where a gap could be closed. */
  readonly samples: readonly { readonly id: string; readonly sample: FramedSample }[];
  readonly stopped: readonly SpotStop[];
}

interface Runner {
  readonly spot: SpotToTrack;
  readonly follower: Follower;
  /** How the patch had turned and grown when it was last measured. */
  change: { readonly turn: number; readonly scale: number };
}

const UNCHANGED = { turn: 0, scale: 1 };

/**
 * Follows spots from one frame to another and yields each frame's samples as they are measured. A pin on the
 * way is never moved: the spot goes on from it, with the template taken there.
 *
 * @throws LurnError `stopped` when the signal is aborted, `no-sample` when a spot has no sample to start from;
 *         and whatever the source throws.
 */
export async function* trackSpots(
  source: FrameSource,
  request: TrackRequest,
  signal?: AbortSignalLike,
): AsyncGenerator<TrackStep> {
  yield* new Run(source, request, signal).steps();
}

interface StepResult {
  samples: { id: string; sample: FramedSample }[];
  stopped: SpotStop[];
}

/** What is sure of a spot's path, frame by frame. */
class Places {
  private readonly first: number;
  private readonly x: Float64Array;
  private readonly y: Float64Array;

  constructor(track: Track, { from, to }: TrackRequest) {
    const empty = track.state.length === 0;
    this.first = Math.min(from, to, empty ? from : track.start);
    const end = Math.max(from, to, empty ? from : measuredEnd(track) - 1) + 1;
    this.x = new Float64Array(end - this.first).fill(NaN);
    this.y = new Float64Array(end - this.first);
  }

  set(frame: number, x: number, y: number): void {
    this.x[frame - this.first] = x;
    this.y[frame - this.first] = y;
  }

  get(frame: number): Point | null {
    const i = frame - this.first;
    const x = this.x[i] ?? NaN;
    return Number.isNaN(x) ? null : { x, y: this.y[i] };
  }
}

/** The state of one run over the frames. */
class Run extends FrameRun<Runner, SpotStop, StepResult> {
  private readonly places = new Map<string, Places>();
  private readonly movers: ReadonlyMap<string, string>;

  constructor(
    source: FrameSource,
    private readonly request: TrackRequest,
    signal?: AbortSignalLike,
  ) {
    super(source, SEARCH_LEVELS, request, signal);
    const all: KnownSpot[] = [...(request.others ?? []), ...request.spots];
    this.movers = new Map(all.map((s) => [s.id, s.mover]));
    // What is sure of the path so far. Of the frames ahead it is about to be measured anew.
    const ahead = Math.sign(request.to - request.from);
    const beingTracked = new Set(request.spots.map((s) => s.id));
    for (const { id, track } of all) {
      const known = new Places(track, request);
      for (let i = 0; i < track.state.length; i++) {
        const frame = track.start + i;
        const old = !beingTracked.has(id) || (frame - request.from) * ahead <= 0;
        const state = STATES[track.state[i]];
        if (old && (state === 'tracked' || state === 'pinned'))
          known.set(frame, track.values.x[i], track.values.y[i]);
      }
      this.places.set(id, known);
    }
  }

  /** Takes every spot's template: from the pin nearest to the start, else from the starting sample itself. */
  protected async begin(): Promise<SpotStop[]> {
    const { spots, from } = this.request;
    const stopped: SpotStop[] = [];
    const ahead = Math.sign(this.request.to - from) || 1;
    for (const spot of spots) {
      const first = sampleAt(spot.track, from);
      if (!first) {
        throw new LurnError(
          'no-sample',
          `"${spot.name}" has no sample on frame ${from} to track from. Place it there, or go to a frame where it has one.`,
          { spot: spot.id, frame: from },
        );
      }
      const pin = this.pinFor(spot, from) ?? { ...first, frame: from };
      const before: Placed[] = [];
      for (let k = 12; k >= 1; k--) {
        const p = this.places.get(spot.id)!.get(from - ahead * k);
        if (p) before.push({ frame: from - ahead * k, ...this.patchOf(spot, from - ahead * k, p) });
      }
      const begun = await this.start(spot, pin, { ...first, frame: from }, before);
      if ('reason' in begun) stopped.push(begun);
      else this.runners.push(begun);
    }
    return stopped;
  }

  protected nothing(): StepResult {
    return { samples: [], stopped: [] };
  }

  /** Those that are seen come first: they tell where the hidden ones are. */
  protected override inOrder(runners: readonly Runner[]): readonly Runner[] {
    return [...runners].sort((a, b) => Number(a.follower.hidden) - Number(b.follower.hidden));
  }

  protected withdrawn({ spot, follower }: Runner, frame: number): SpotStop | null {
    const since = follower.hiddenSince;
    if (since === null) return null;
    const message = `"${spot.name}" was hidden from frame ${since} on and not found again by frame ${frame}.`;
    return { id: spot.id, frame, since, reason: 'not-found-again', message };
  }

  protected async advance(runner: Runner, frame: number, result: StepResult): Promise<Runner | null> {
    const { spot, follower } = runner;
    const pin = sampleAt(spot.track, frame);
    const join = joinOn(spot.joins, frame);
    const changes = join !== joinOn(spot.joins, frame - Math.sign(this.request.to - this.request.from));
    if (pin?.state === 'pinned' || changes) {
      const path = pin?.state === 'pinned' ? pin : null;
      if (!path) return null; // a join without its pin: there is nothing to go on from
      const fresh = await this.start(spot, { ...path, frame }, { ...path, frame }, [], runner.change);
      this.places.get(spot.id)!.set(frame, path.x, path.y);
      if (!('reason' in fresh)) return fresh;
      result.stopped.push(fresh);
      return null;
    }
    const picture = this.ready(frame, spot.settings.eye) ?? (await this.picture(frame, spot.settings.eye));
    const outcome = follower.follow(frame, picture, () => this.companions(spot));
    if (!outcome.going) {
      result.stopped.push(stopOf(spot, frame, outcome));
      return null;
    }
    for (const sample of outcome.samples) {
      // Without a join the path is where the patch is.
      const path = spot.joins.length > 0 ? this.pathOf(spot, sample.frame, sample) : sample;
      result.samples.push({ id: spot.id, sample: path === sample ? sample : { ...sample, ...path } });
      if (sample.turn !== undefined && sample.scale !== undefined)
        runner.change = { turn: sample.turn, scale: sample.scale };
      if (sample.state === 'tracked') this.places.get(spot.id)!.set(sample.frame, path.x, path.y);
    }
    return runner;
  }

  /** A spot ready to be followed from `at`, its template taken at `pin`; or why that cannot be. */
  private async start(
    spot: SpotToTrack,
    pin: FramedSample,
    at: FramedSample,
    past: readonly Placed[],
    change = UNCHANGED,
  ): Promise<Runner | SpotStop> {
    const picture = await this.picture(pin.frame, spot.settings.eye);
    const patch = this.patchOf(spot, pin.frame, pin);
    const from = { frame: at.frame, ...this.patchOf(spot, at.frame, at) };
    try {
      const tracker = new SpotTracker(spot.settings, picture, patch.x, patch.y);
      return { spot, follower: new Follower(tracker, from, past, change), change };
    } catch (error) {
      if (!(error instanceof LurnError)) throw error;
      const reason = error.code as SpotStop['reason'];
      const { frame } = pin;
      return { id: spot.id, frame, since: frame, reason, message: `"${spot.name}": ${error.message}` };
    }
  }

  /** The nearest pin on the same side of the joins as a frame. */
  private pinFor(spot: SpotToTrack, frame: number): FramedSample | null {
    const join = joinOn(spot.joins, frame);
    return nearestPin(spot.track, frame, (f) => joinOn(spot.joins, f) === join);
  }

  private last: { readonly frame: number; readonly eye: Eye; readonly picture: Pyramid } | null = null;

  /** The picture that was asked for last, where that is the one: most spots are seen through one eye. */
  private ready(frame: number, eye: Eye): Pyramid | null {
    const { last } = this;
    return last && last.frame === frame && sameEye(last.eye, eye) ? last.picture : null;
  }

  private async picture(frame: number, eye: Eye): Promise<Pyramid> {
    const picture = await this.pictures.of(frame, eye);
    this.last = { frame, eye, picture };
    return picture;
  }

  /** Where the other spots of a spot's mover are. */
  private companions(spot: SpotToTrack): PlaceOf[] {
    const out: PlaceOf[] = [];
    for (const [id, mover] of this.movers) {
      if (id !== spot.id && mover === spot.mover) out.push((frame) => this.places.get(id)!.get(frame));
    }
    return out;
  }

  private patchOf(spot: SpotToTrack, frame: number, path: Point): Point {
    const join = joinOn(spot.joins, frame);
    const { x, y } = patchPlace(join, path, this.atJoin(spot, join), frame, this.companionOf(join));
    return { x, y };
  }

  private pathOf(spot: SpotToTrack, frame: number, patch: Point): Point {
    const join = joinOn(spot.joins, frame);
    const { x, y } = pathPlace(join, patch, this.atJoin(spot, join), frame, this.companionOf(join));
    return { x, y };
  }

  private atJoin(spot: SpotToTrack, join: Join | null): Point | null {
    return join && sampleAt(spot.track, join.frame);
  }

  private companionOf(join: Join | null): PlaceOf | undefined {
    const places = join?.companion ? this.places.get(join.companion) : undefined;
    return places && ((frame) => places.get(frame));
  }
}

function stopOf(spot: SpotToTrack, frame: number, outcome: Outcome & { going: false }): SpotStop {
  const { reason, confidence, since } = outcome;
  const message =
    reason === 'left-picture'
      ? `"${spot.name}" left the picture at frame ${since}.`
      : reason === 'not-found-again'
        ? `"${spot.name}" was hidden from frame ${since} on and not found again by frame ${frame}.`
        : `"${spot.name}" was lost at frame ${frame}: the best match has a confidence of only ${confidence.toFixed(2)}.`;
  return { id: spot.id, frame, since, reason, message };
}
