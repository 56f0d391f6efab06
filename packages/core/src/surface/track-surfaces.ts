import { LurnError, type AbortSignalLike } from '../errors.js';
import { closedOn, cornersAt, movedBy, outlineOf, type Area, type Closed } from '../geometry/area.js';
import { coverOf } from '../geometry/covers.js';
import { quadToQuad, type Quad } from '../geometry/homography.js';
import { IDENTITY, type Matrix3, type Point } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import type { Pyramid } from '../picture/pyramid.js';
import { FrameRun, type FrameSource, type Progress } from '../track/frame-run.js';
import { SurfaceFollower, type SurfaceOutcome, type SurfaceStopReason } from './surface-follower.js';
import { SURFACE_LEVELS } from './surface-template.js';
import { SurfaceTracker, type FoundSurface, type SurfaceSettings } from './surface-tracker.js';
import { surfaceAt, surfaceSamples, type SurfaceSample, type SurfaceTrack } from './surface-track.js';

/** A flat surface to be followed. */
export interface SurfaceToTrack {
  readonly id: string;
  readonly name: string;
  /** The frame on which it was drawn: its own. */
  readonly frame: number;
  /** The corners, on its own frame, that samples tell of. */
  readonly base: Quad;
  /**
   * What adds up to it (`focus`), and what is left out of it (`ignore`), in pixels of its own frame; keyed where what is
   * measured of it changes over time.
   */
  readonly shapes: readonly Area[];
  readonly settings: SurfaceSettings;
  /** What is known so far. */
  readonly track: SurfaceTrack;
  /** Ids of surfaces that pass in front of it: where they are it is not measured. */
  readonly behind: readonly string[];
}

export interface SurfaceRequest {
  readonly surfaces: readonly SurfaceToTrack[];
  /** Surfaces that are not tracked now, but may be in front. */
  readonly others?: readonly SurfaceToTrack[];
  /** The frame they are followed from; each needs a sample on it, or it is their own. */
  readonly from: number;
  /** The last frame to measure; below `from` to go backwards. */
  readonly to: number;
}

export interface SurfaceStop {
  readonly id: string;
  readonly frame: number;
  /** First frame, in the direction of tracking, whose samples are withdrawn. */
  readonly since: number;
  readonly reason:
    | SurfaceStopReason
    | 'surface-outside'
    | 'surface-small'
    | 'surface-closed'
    | 'surface-flat';
  /** A sentence for the person. */
  readonly message: string;
}

/** What one more frame has brought. */
export interface SurfaceStep extends Progress {
  readonly samples: readonly { readonly id: string; readonly sample: SurfaceSample }[];
  /** How each block of a surface fits on this frame, where it was found. */
  readonly fits: readonly { readonly id: string; readonly found: FoundSurface }[];
  readonly stopped: readonly SurfaceStop[];
}

interface Runner {
  readonly surface: SurfaceToTrack;
  readonly follower: SurfaceFollower;
  /** The surface's own frame to that of its template. */
  readonly before: Matrix3;
}

/** Whether a surface was hidden on the frame before a start: places before it tell how it was moving. */
const LOOK_BACK = 12;

/**
 * Follows flat surfaces from one frame to another and yields each frame's samples as they are measured. A pin on the way
 * is never moved: the surface goes on from it, with the template taken there.
 *
 * @throws LurnError `stopped` when the signal is aborted, `no-sample` when a surface has none to start from; and whatever
 *         the source throws.
 */
export async function* trackSurfaces(
  source: FrameSource,
  request: SurfaceRequest,
  signal?: AbortSignalLike,
): AsyncGenerator<SurfaceStep> {
  yield* new Run(source, request, signal).steps();
}

interface StepResult {
  samples: { id: string; sample: SurfaceSample }[];
  fits: { id: string; found: FoundSurface }[];
  stopped: SurfaceStop[];
}

/** The state of one run over the frames. */
class Run extends FrameRun<Runner, SurfaceStop, StepResult> {
  /** Where surfaces that were followed are on the present frame. */
  private readonly places = new Map<string, Quad>();
  private readonly all: ReadonlyMap<string, SurfaceToTrack>;

  constructor(
    source: FrameSource,
    private readonly request: SurfaceRequest,
    signal?: AbortSignalLike,
  ) {
    super(source, SURFACE_LEVELS, request, signal);
    this.all = new Map([...(request.others ?? []), ...request.surfaces].map((s) => [s.id, s]));
  }

  protected async begin(): Promise<SurfaceStop[]> {
    const { surfaces, from, to } = this.request;
    const ahead = Math.sign(to - from) || 1;
    const stopped: SurfaceStop[] = [];
    for (const surface of frontFirst(surfaces)) {
      const corners = cornersOn(surface, from);
      if (!corners)
        throw new LurnError(
          'no-sample',
          `"${surface.name}" is not known on frame ${from}. Go to a frame on which it was tracked, or to its own, ${surface.frame}.`,
          { surface: surface.id, frame: from },
        );
      const past = [];
      for (let k = LOOK_BACK; k >= 1; k--) {
        const sample = surfaceAt(surface.track, from - ahead * k);
        if (sample && (sample.state === 'tracked' || sample.state === 'pinned')) past.push(sample);
      }
      const template = templateFrame(surface, from);
      const begun = await this.start(surface, template, { frame: from, corners }, past);
      if ('reason' in begun) stopped.push(begun);
      else {
        this.runners.push(begun);
        this.places.set(surface.id, corners);
      }
    }
    return stopped;
  }

  protected nothing(): StepResult {
    return { samples: [], fits: [], stopped: [] };
  }

  protected override enter(): void {
    super.enter();
    this.places.clear();
  }

  protected withdrawn({ surface, follower }: Runner, frame: number): SurfaceStop | null {
    const since = follower.hiddenSince;
    return since === null ? null : stopOf(surface, frame, 'not-found-again', 0, since);
  }

  protected async advance(runner: Runner, frame: number, result: StepResult): Promise<Runner | null> {
    const { surface, follower } = runner;
    const pin = pinOn(surface, frame);
    if (pin) {
      const fresh = await this.start(surface, frame, { frame, corners: pin }, []);
      this.places.set(surface.id, pin);
      if (!('reason' in fresh)) return fresh;
      result.stopped.push(fresh);
      return null;
    }
    const picture = await this.picture(frame, surface);
    const only = isKeyed(surface) ? movedBy(runner.before, closedOn(surface.shapes, frame)) : undefined;
    const outcome: SurfaceOutcome = follower.follow(frame, picture, only);
    if (!outcome.going) {
      result.stopped.push(stopOf(surface, frame, outcome.reason, outcome.confidence, outcome.since));
      return null;
    }
    for (const sample of outcome.samples) result.samples.push({ id: surface.id, sample });
    if (outcome.found) result.fits.push({ id: surface.id, found: outcome.found });
    this.places.set(surface.id, outcome.samples[outcome.samples.length - 1].corners);
    return runner;
  }

  /** A surface ready to be followed from `at`, with its looks on `frame`; or why that cannot be. */
  private async start(
    surface: SurfaceToTrack,
    frame: number,
    at: { readonly frame: number; readonly corners: Quad },
    past: readonly SurfaceSample[],
  ): Promise<Runner | SurfaceStop> {
    const before = frame === surface.frame ? IDENTITY : quadToQuad(surface.base, cornersOn(surface, frame)!);
    try {
      if (!before) throw new LurnError('turned-over', 'Its corners are no view of a plane.');
      const picture = await this.picture(frame, surface);
      const tracker = new SurfaceTracker(surface.settings, picture, movedBy(before, everDrawn(surface)));
      return { surface, before, follower: new SurfaceFollower(tracker, surface.base, before, at, past) };
    } catch (error) {
      if (!(error instanceof LurnError) || error.code === 'stopped') throw error;
      const reason = error.code as SurfaceStop['reason'];
      return { id: surface.id, frame, since: frame, reason, message: `"${surface.name}": ${error.message}` };
    }
  }

  /** A frame's picture as a surface sees it: without what is in front of it. */
  private picture(frame: number, { settings, behind }: SurfaceToTrack): Promise<Pyramid> {
    const front = behind.flatMap((id) => this.outlinesOf(id, frame));
    const closed = front.length > 0 ? (plane: Plane) => withCover(plane, front) : undefined;
    return this.pictures.of(frame, settings.eye, behind.join(' '), closed);
  }

  /** Where another surface is on a frame, as far as that is known. */
  private outlinesOf(id: string, frame: number): Closed['focus'] {
    const other = this.all.get(id);
    const corners = other && (this.places.get(id) ?? cornersOn(other, frame));
    const m: Matrix3 | null = corners ? quadToQuad(other.base, corners) : null;
    return m ? movedBy(m, closedOn(other!.shapes, frame)).focus : [];
  }
}

const isKeyed = ({ shapes }: SurfaceToTrack) => shapes.some((s) => s.keys.length > 1);

/** All that is ever drawn of a surface, and what is always left out of it. */
export function everDrawn({ shapes, frame }: Pick<SurfaceToTrack, 'shapes' | 'frame'>): Closed {
  const of = ({ keys, smooth }: Area) =>
    keys.map((key) => outlineOf(cornersAt({ keys: [key] }, frame), smooth));
  return {
    focus: shapes.filter((s) => s.kind === 'focus').flatMap(of),
    ignored: shapes.filter((s) => s.kind === 'ignore' && s.keys.length === 1).flatMap(of),
  };
}

function withCover<P extends { width: number; height: number; covered?: Uint8Array }>(
  plane: P,
  ignored: readonly (readonly Point[])[],
): P {
  const cover = coverOf({ ignored, focus: [] }, plane.width, plane.height);
  const { covered } = plane;
  if (covered) for (let i = 0; i < cover.length; i++) cover[i] |= covered[i];
  return { ...plane, covered: cover };
}

/** Those that others are behind come first: where they are has to be known by then. */
export function frontFirst(surfaces: readonly SurfaceToTrack[]): SurfaceToTrack[] {
  const out: SurfaceToTrack[] = [];
  const left = new Set(surfaces);
  const put = (surface: SurfaceToTrack) => {
    if (!left.delete(surface)) return;
    for (const id of surface.behind) surfaces.filter((s) => s.id === id).forEach(put);
    out.push(surface);
  };
  surfaces.forEach(put);
  return out;
}

/** Where the base is on a frame: as it was drawn on its own, measured elsewhere. */
function cornersOn(surface: SurfaceToTrack, frame: number): Quad | null {
  const sample = surfaceAt(surface.track, frame);
  return sample?.corners ?? (frame === surface.frame ? surface.base : null);
}

function pinOn({ track }: SurfaceToTrack, frame: number): Quad | null {
  const sample = surfaceAt(track, frame);
  return sample?.state === 'pinned' ? sample.corners : null;
}

/** The frame whose looks a surface is followed by from a frame on: the nearest of its own and its pins. */
function templateFrame(surface: SurfaceToTrack, from: number): number {
  let best = surface.frame;
  for (const { frame, state } of surfaceSamples(surface.track))
    if (state === 'pinned' && Math.abs(frame - from) < Math.abs(best - from)) best = frame;
  return best;
}

function stopOf(
  { id, name }: SurfaceToTrack,
  frame: number,
  reason: SurfaceStopReason,
  confidence: number,
  since: number,
): SurfaceStop {
  const message = {
    'left-picture': `"${name}" left the picture at frame ${since}.`,
    'not-found-again': `"${name}" was hidden from frame ${since} on and not found again by frame ${frame}.`,
    'turned-over': `"${name}" turned over at frame ${frame}: it is seen edge-on, or from behind.`,
    'match-failed': `"${name}" was lost at frame ${frame}: the best match has a confidence of only ${confidence.toFixed(2)}.`,
  }[reason];
  return { id, frame, since, reason, message };
}
