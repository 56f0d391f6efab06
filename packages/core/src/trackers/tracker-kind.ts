import type { AbortSignalLike } from '../errors.js';
import type { SoftSample } from '../soft/soft-track.js';
import type { SoftToTrack } from '../soft/track-soft.js';
import type { SurfaceSample } from '../surface/surface-track.js';
import type { SurfaceToTrack } from '../surface/track-surfaces.js';
import type { FrameSource, Progress } from '../track/frame-run.js';
import { withoutSamples, type Measured, type MeasuredKind } from '../track/measured.js';
import type { FramedSample } from '../track/track.js';
import type { SpotToTrack } from '../track/track-spots.js';

/** What each kind of tracker follows, and what it measures on a frame. */
export interface TrackerTypes {
  readonly spot: { readonly thing: SpotToTrack; readonly sample: FramedSample };
  readonly surface: { readonly thing: SurfaceToTrack; readonly sample: SurfaceSample };
  readonly soft: { readonly thing: SoftToTrack; readonly sample: SoftSample };
}

export type ToTrack<K extends MeasuredKind> = TrackerTypes[K]['thing'];
export type SampleOf<K extends MeasuredKind> = TrackerTypes[K]['sample'];

/** What is to be followed from one frame to another. */
export interface FollowRequest<K extends MeasuredKind> {
  readonly things: readonly ToTrack<K>[];
  /** Trackers of the same kind that are not followed now, but may hide these or predict where they are. */
  readonly others?: readonly ToTrack<K>[];
  /** The frame that they are followed from; each needs a sample on it, or it is their own. */
  readonly from: number;
  /** The last frame to measure; below `from` to go backwards. */
  readonly to: number;
}

export interface TrackerStop {
  readonly id: string;
  readonly frame: number;
  /** First frame, in the direction of tracking, whose samples are withdrawn. */
  readonly since: number;
  readonly reason: string;
  /** A sentence for the person. */
  readonly message: string;
}

/** What changes what is known of trackers. */
export interface MeasuredStep<K extends MeasuredKind> {
  readonly samples: readonly { readonly id: string; readonly sample: SampleOf<K> }[];
  readonly stopped: readonly Pick<TrackerStop, 'id' | 'since'>[];
}

/** What one more frame has brought. */
export interface FollowStep<K extends MeasuredKind> extends MeasuredStep<K>, Progress {
  readonly stopped: readonly TrackerStop[];
}

/** The stretch between two frames on which a tracker is known. */
export interface Between<K extends MeasuredKind> {
  /** The samples strictly between them. */
  readonly samples: readonly SampleOf<K>[];
  /** Frames on which neither side saw it. */
  readonly unseen: number;
}

/**
 * A kind of tracker: points over time, that are found on pictures and kept in declared columns (`MEASURED_COLUMNS`). What
 * follows, saves, draws or hands over trackers knows this and not the kinds.
 */
export interface TrackerKind<K extends MeasuredKind> {
  readonly kind: K;
  /** Nothing measured: the same each time, so that nothing that heeds it changes. */
  readonly empty: Measured<K>;
  /** The sample on a frame, or null where it is missing. */
  at(measured: Measured<K>, frame: number): SampleOf<K> | null;
  /** With these samples put in place of whatever their frames had. Cost: one copy of the span. */
  withSamples(measured: Measured<K>, samples: readonly SampleOf<K>[]): Measured<K>;
  /**
   * Yields each frame's samples as they are measured. A sample that was pinned on the way is never moved.
   *
   * @throws LurnError `stopped` when the signal is aborted, `no-sample` when there is none to start from; and whatever the
   *         source throws
   */
  follow(
    source: FrameSource,
    request: FollowRequest<K>,
    signal?: AbortSignalLike,
  ): AsyncIterable<FollowStep<K>>;
  /**
   * Follows the picture from two frames, `a` before `b`, towards each other and joins the passes.
   *
   * @throws LurnError `no-pin` when one of the frames has no sample; `stopped`; and whatever the source throws
   */
  between(
    source: FrameSource,
    thing: ToTrack<K>,
    a: number,
    b: number,
    others?: readonly ToTrack<K>[],
    signal?: AbortSignalLike,
    onProgress?: (done: number, total: number) => void,
  ): Promise<Between<K>>;
}

/**
 * What steps have brought, put into what was known: where a tracker stopped, what an earlier run measured from there to the
 * end of this one is withdrawn, except for pins.
 *
 * @param known  what is known of a tracker; null of one that is not there any more
 * @param to     the last frame of the run
 * @returns what has changed, by id
 */
export function foldSteps<K extends MeasuredKind>(
  kind: TrackerKind<K>,
  known: (id: string) => Measured<K> | null,
  steps: readonly MeasuredStep<K>[],
  to: number,
): Map<string, Measured<K>> {
  const changed = new Map<string, Measured<K>>();
  const change = (id: string, by: (now: Measured<K>) => Measured<K>) => {
    const now = changed.get(id) ?? known(id);
    if (now) changed.set(id, by(now));
  };
  const fresh = new Map<string, SampleOf<K>[]>();
  for (const { id, sample } of steps.flatMap((s) => s.samples)) {
    const own = fresh.get(id);
    if (own) own.push(sample);
    else fresh.set(id, [sample]);
  }
  for (const [id, samples] of fresh) change(id, (now) => kind.withSamples(now, samples));
  for (const { id, since } of steps.flatMap((s) => s.stopped))
    change(id, (now) => withoutSamples(now, Math.min(since, to), Math.max(since, to), (s) => s !== 'pinned'));
  return changed;
}
