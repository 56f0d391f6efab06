import { LurnError, type AbortSignalLike } from '../errors.js';
import { closedOn, type Area, type Closed } from '../geometry/area.js';
import type { Point } from '../geometry/matrix.js';
import { FrameRun, type FrameSource, type Progress } from '../track/frame-run.js';
import { SURFACE_LEVELS } from '../surface/surface-template.js';
import { leadsByJoined, type JoinedTrack, type LeadsOn, type SoftLeads } from './leads.js';
import type { SoftPin } from './soft-equations.js';
import { SoftFollower, type SoftStopReason } from './soft-follower.js';
import { SoftTracker, type SoftSettings } from './soft-tracker.js';
import { softAt, type SoftSample, type SoftTrack } from './soft-track.js';

/** A soft surface to be followed. */
export interface SoftToTrack {
  readonly id: string;
  readonly name: string;
  /** Its own frame: on which it was drawn, and its looks are taken. */
  readonly frame: number;
  /** The vertices of its mesh on its own frame. */
  readonly vertices: readonly Point[];
  /** What adds up to it (`focus`), and what is left out of it (`ignore`), in pixels of its own frame. */
  readonly shapes: readonly Area[];
  readonly settings: SoftSettings;
  /** What is known so far; vertices that were pinned on a frame stay there. */
  readonly track: SoftTrack;
  /** Spots and corners that have joined: it goes with them. */
  readonly joined?: readonly JoinedTrack[];
  /** Asked on every frame what else tells where its vertices are; left out where nothing does. */
  readonly hints?: LeadsOn;
}

export interface SoftRequest {
  readonly soft: readonly SoftToTrack[];
  /** The frame they are followed from; each needs a sample on it, or it is their own. */
  readonly from: number;
  /** The last frame to measure; below `from` to go backwards. */
  readonly to: number;
}

export interface SoftStop {
  readonly id: string;
  readonly frame: number;
  /** First frame, in the direction of tracking, whose samples are withdrawn. */
  readonly since: number;
  readonly reason: SoftStopReason | 'soft-outside' | 'soft-flat' | 'soft-closed';
  /** A sentence for the person. */
  readonly message: string;
}

/** What one more frame has brought. */
export interface SoftStep extends Progress {
  readonly samples: readonly { readonly id: string; readonly sample: SoftSample }[];
  readonly stopped: readonly SoftStop[];
}

interface Runner {
  readonly soft: SoftToTrack;
  readonly follower: SoftFollower;
}

interface StepResult {
  samples: { id: string; sample: SoftSample }[];
  stopped: SoftStop[];
}

/**
 * Follows soft surfaces from one frame to another and yields each frame's samples as they are measured. A vertex that was
 * pinned on a frame on the way is never moved: the others go with it, as far as the picture lets them.
 *
 * @throws LurnError `stopped` when the signal is aborted, `no-sample` when a surface has none to start from; and whatever
 *         the source throws.
 */
export async function* trackSoft(
  source: FrameSource,
  request: SoftRequest,
  signal?: AbortSignalLike,
): AsyncGenerator<SoftStep> {
  yield* new Run(source, request, signal).steps();
}

class Run extends FrameRun<Runner, SoftStop, StepResult> {
  private readonly mendedFirst: StepResult['samples'] = [];

  constructor(
    source: FrameSource,
    private readonly request: SoftRequest,
    signal?: AbortSignalLike,
  ) {
    super(source, SURFACE_LEVELS, request, signal);
  }

  protected async begin(): Promise<SoftStop[]> {
    const { soft, from, to } = this.request;
    const ahead = Math.sign(to - from) || 1;
    const stopped: SoftStop[] = [];
    for (const one of soft) {
      const at = placesOn(one, from);
      if (!at)
        throw new LurnError(
          'no-sample',
          `"${one.name}" is not known on frame ${from}. Go to a frame on which it was tracked, or to its own, ${one.frame}.`,
          { soft: one.id, frame: from },
        );
      try {
        const picture = await this.pictures.of(one.frame, one.settings.eye);
        const tracker = new SoftTracker(one.settings, picture, drawnOn(one), one.vertices);
        const past = placesOn(one, from - ahead);
        const follower = new SoftFollower(tracker, at, past);
        this.runners.push({ soft: one, follower });
        await this.mend(one, follower);
      } catch (error) {
        if (!(error instanceof LurnError) || error.code === 'stopped') throw error;
        const reason = error.code as SoftStop['reason'];
        stopped.push({
          id: one.id,
          frame: from,
          since: from,
          reason,
          message: `"${one.name}": ${error.message}`,
        });
      }
    }
    return stopped;
  }

  /** Where some of its vertices were put by hand on the first frame, the others are brought there first. */
  private async mend(one: SoftToTrack, follower: SoftFollower): Promise<void> {
    const { from } = this.request;
    const pins = pinsOn(one, from);
    if (pins.size === 0 || pins.size === one.vertices.length) return;
    const picture = await this.pictures.of(from, one.settings.eye);
    const outcome = follower.follow(from, picture, pins, joinedOn(one, from));
    if (outcome.going) this.mendedFirst.push({ id: one.id, sample: outcome.sample });
  }

  /** What the first frame has brought goes out with the next one's. */
  protected nothing(): StepResult {
    return { samples: this.mendedFirst.splice(0), stopped: [] };
  }

  protected withdrawn({ soft, follower }: Runner, frame: number): SoftStop | null {
    const since = follower.hiddenSince;
    return since === null ? null : stopOf(soft, frame, 'not-found-again', since);
  }

  protected async advance(runner: Runner, frame: number, result: StepResult): Promise<Runner | null> {
    const { soft, follower } = runner;
    const picture = await this.pictures.of(frame, soft.settings.eye);
    const hints = await soft.hints?.(frame, follower.places());
    const outcome = follower.follow(frame, picture, pinsOn(soft, frame), joinedOn(soft, frame), hints);
    if (!outcome.going) {
      result.stopped.push(stopOf(soft, frame, outcome.reason, outcome.since));
      return null;
    }
    result.samples.push({ id: soft.id, sample: outcome.sample });
    return runner;
  }
}

/** What is drawn of a soft surface on its own frame. */
export function drawnOn({ shapes, frame }: Pick<SoftToTrack, 'shapes' | 'frame'>): Closed {
  return closedOn(shapes, frame);
}

/** Where the vertices are on a frame: as they were drawn on its own, measured elsewhere. */
function placesOn(
  { track, frame: own, vertices }: SoftToTrack,
  frame: number,
): readonly (Point | null)[] | null {
  return softAt(track, frame)?.vertices ?? (frame === own ? vertices : null);
}

const joinedOn = ({ joined = [], vertices }: SoftToTrack, frame: number): SoftLeads =>
  leadsByJoined(joined, vertices, frame);

function pinsOn({ track, vertices }: SoftToTrack, frame: number): Map<number, SoftPin> {
  const out = new Map<number, SoftPin>();
  softAt(track, frame)?.vertices.forEach((v, i) => {
    if (v?.state === 'pinned') out.set(i, { at: vertices[i], to: { x: v.x, y: v.y } });
  });
  return out;
}

function stopOf({ id, name }: SoftToTrack, frame: number, reason: SoftStopReason, since: number): SoftStop {
  const message = {
    'left-picture': `"${name}" left the picture at frame ${since}.`,
    'not-found-again': `"${name}" was hidden from frame ${since} on and not found again by frame ${frame}.`,
    'match-failed': `"${name}" was lost at frame ${frame}: nothing there looks like it.`,
  }[reason];
  return { id, frame, since, reason, message };
}
