import { LurnError, stoppedError, type AbortSignalLike } from '../errors.js';
import type { Point } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import { Pyramid } from '../picture/pyramid.js';
import { SEARCH_LEVELS, SpotTracker, type SpotSettings, type StopReason } from './spot-tracker.js';
import { hasSample, sampleAt, samplesOf, type FramedSample, type Track } from './track.js';

/** Where the tracker gets pictures from. Frames are asked for one after the other, in either direction. */
export interface LumaSource {
  luma(frame: number, signal?: AbortSignalLike): Promise<Plane>;
}

export interface SpotToTrack {
  readonly id: string;
  readonly name: string;
  readonly settings: SpotSettings;
  /** What is known so far; at least the pin from which the template is taken. */
  readonly track: Track;
}

export interface TrackRequest {
  readonly spots: readonly SpotToTrack[];
  /** The frame the spots are followed from; each needs a sample on it. */
  readonly from: number;
  /** The last frame to measure; below `from` to go backwards. */
  readonly to: number;
}

export interface SpotStop {
  readonly id: string;
  readonly frame: number;
  readonly reason: StopReason | 'flat-patch' | 'spot-outside' | 'patch-too-large';
  /** A sentence for the person. */
  readonly message: string;
}

/** What one more frame has brought. */
export interface TrackStep {
  readonly frame: number;
  /** How many of the asked frames are done, and of how many. */
  readonly done: number;
  readonly total: number;
  readonly samples: readonly { readonly id: string; readonly sample: FramedSample }[];
  readonly stopped: readonly SpotStop[];
}

interface Runner {
  readonly spot: SpotToTrack;
  readonly tracker: SpotTracker;
  x: number;
  y: number;
}

/**
 * Follows spots from one frame to another and yields each frame's samples as they are measured. A pin on the
 * way is never moved: the spot goes on from it, with the template taken there.
 *
 * @throws LurnError `stopped` when the signal is aborted, `no-sample` when a spot has no sample to start from;
 *         and whatever the source throws.
 */
export async function* trackSpots(
  source: LumaSource,
  request: TrackRequest,
  signal?: AbortSignalLike,
): AsyncGenerator<TrackStep> {
  const { from, to } = request;
  const step = to >= from ? 1 : -1;
  const total = Math.abs(to - from);
  const begun = await begin(source, request, signal);
  let running = begun.running;
  if (begun.stopped.length > 0) yield { frame: from, done: 0, total, samples: [], stopped: begun.stopped };
  const spare: (Pyramid | undefined)[] = [undefined];
  for (let frame = from + step, done = 1; done <= total && running.length > 0; frame += step, done++) {
    if (signal?.aborted) throw stoppedError('Tracking');
    const picture = new Pyramid(await source.luma(frame, signal), SEARCH_LEVELS, spare[0]);
    spare[0] = picture;
    const samples: { id: string; sample: FramedSample }[] = [];
    const stopped: SpotStop[] = [];
    const next: Runner[] = [];
    for (const runner of running) {
      const { spot } = runner;
      const pin = sampleAt(spot.track, frame);
      if (pin?.state === 'pinned') {
        const fresh = start(spot, picture, { ...pin, frame }, pin);
        if ('reason' in fresh) stopped.push(fresh);
        else next.push(fresh);
        continue;
      }
      const match = runner.tracker.follow(picture, runner);
      if (!match.found) {
        stopped.push({
          id: spot.id,
          frame,
          reason: match.reason,
          message: stopSentence(spot.name, frame, match),
        });
        continue;
      }
      runner.x = match.x;
      runner.y = match.y;
      const { x, y, confidence } = match;
      samples.push({ id: spot.id, sample: { frame, x, y, confidence, state: 'tracked' } });
      next.push(runner);
    }
    running = next;
    yield { frame, done, total, samples, stopped };
  }
}

function stopSentence(
  name: string,
  frame: number,
  match: { reason: StopReason; confidence: number },
): string {
  return match.reason === 'left-picture'
    ? `"${name}" left the picture at frame ${frame}.`
    : `"${name}" was lost at frame ${frame}: the best match has a confidence of only ${match.confidence.toFixed(2)}.`;
}

/** Takes every spot's template: from the pin nearest to the start, else from the starting sample itself. */
async function begin(
  source: LumaSource,
  { spots, from }: TrackRequest,
  signal?: AbortSignalLike,
): Promise<{ running: Runner[]; stopped: SpotStop[] }> {
  const pictures = new Map<number, Pyramid>();
  const running: Runner[] = [];
  const stopped: SpotStop[] = [];
  for (const spot of spots) {
    const first = sampleAt(spot.track, from);
    if (!first) {
      throw new LurnError(
        'no-sample',
        `"${spot.name}" has no sample on frame ${from} to track from. Place it there, or go to a frame where it has one.`,
        { spot: spot.id, frame: from },
      );
    }
    const pin = nearestPin(spot.track, from) ?? { ...first, frame: from };
    let picture = pictures.get(pin.frame);
    if (!picture) {
      picture = new Pyramid(await source.luma(pin.frame, signal), SEARCH_LEVELS);
      pictures.set(pin.frame, picture);
    }
    const begun = start(spot, picture, pin, first);
    if ('reason' in begun) stopped.push(begun);
    else running.push(begun);
  }
  return { running, stopped };
}

/** A spot ready to be followed from `at`, its template taken at `pin`; or why that cannot be. */
function start(spot: SpotToTrack, picture: Pyramid, pin: FramedSample, at: Point): Runner | SpotStop {
  try {
    return { spot, tracker: new SpotTracker(spot.settings, picture, pin.x, pin.y), x: at.x, y: at.y };
  } catch (error) {
    if (!(error instanceof LurnError)) throw error;
    const reason = error.code as SpotStop['reason'];
    return { id: spot.id, frame: pin.frame, reason, message: `"${spot.name}": ${error.message}` };
  }
}

/** The pin nearest to a frame, or null. */
export function nearestPin(track: Track, frame: number): FramedSample | null {
  let best: FramedSample | null = null;
  for (const sample of samplesOf(track)) {
    if (sample.state !== 'pinned') continue;
    if (!best || Math.abs(sample.frame - frame) < Math.abs(best.frame - frame)) best = sample;
  }
  return best;
}

/** The spots of a list that have a sample on a frame, and so can be followed from it. */
export function followable<T extends { readonly track: Track }>(spots: readonly T[], frame: number): T[] {
  return spots.filter((spot) => hasSample(spot.track, frame));
}
