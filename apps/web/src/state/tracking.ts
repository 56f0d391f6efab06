import { Comlink } from '../workers/comlink';
import { LateWorker } from '../workers/late-worker';
import { toast } from 'sonner';
import { LurnError } from '@lurn/core';
import type { Matrix3, Quad } from '@lurn/core/geometry';
import {
  mismatches,
  measuredEnd,
  withSamples,
  type FollowStep,
  type FramedSample,
  type MeasuredKind,
  type SurfaceToTrack,
} from '@lurn/core/track';
import type { SurfaceLook } from '@lurn/core/warp';
import {
  othersThan,
  setMeasured,
  spotsOf,
  toTrack,
  trackOf,
  type Tracker as Tracked,
  type TrackerOf,
} from '@lurn/model';
import type { ClipFile } from '@lurn/media';
import type { FaceModel } from '../workers/open-faces';
import type { BetweenOutcome, Faces, TrackApi, TrackOutcome } from '../workers/track.worker';
import { areasNow } from './areas';
import { bench, setBench } from './bench';
import { beginRun, edit, type Run, shotDocument, shotState } from './shot';
import { meshesMadeBy } from './soft/soft';
import { holdTracked, takeBetween, takeSteps } from './apply-tracking';
import { NOWHERE, pinsRound, targetsOf, trackersToFollow, type TrackWay } from './track-targets';

/** Runs the tracker's worker for the open Bench. */
export class Tracker {
  private readonly worker: LateWorker<TrackApi>;
  private end!: () => void;
  /** A worker that is ended answers nobody: what waits for it goes on by this. */
  private readonly ended = new Promise<void>((resolve) => (this.end = resolve));

  /** The model of faces, while meshes are followed that are led by it. */
  private faces: FaceModel | null = null;
  /** Whoever shows the pictures that are measured. */
  private viewer: MessagePort | null = null;

  /** @param openFaces  opens a model of faces for the clip */
  constructor(
    file: ClipFile,
    private readonly openFaces: () => FaceModel,
  ) {
    this.worker = new LateWorker(
      () => new Worker(new URL('../workers/track.worker.ts', import.meta.url), { type: 'module' }),
      async (api) => {
        if (this.viewer) void api.lendTo(Comlink.transfer(this.viewer, [this.viewer]));
        setBench({ slower: await api.open(file, bench().info.colour) });
      },
    );
    meshesMadeBy(async (frame, plan) => {
      const made = await (await this.api()).mesh(frame, plan);
      if ('why' in made) throw new LurnError('no-mesh', made.why);
      return made.mesh;
    });
  }

  /** Comlink's own type of it would lose which kind of thing goes with which kind of sample. */
  private api(): Promise<TrackApi> {
    return this.worker.api() as Promise<unknown> as Promise<TrackApi>;
  }

  /** Lends the pictures that are measured to the view. */
  readonly lendTo = (viewer: MessagePort): void => {
    this.viewer = viewer;
    if (this.worker.begun) void this.api().then((api) => api.lendTo(Comlink.transfer(viewer, [viewer])));
  };

  /** Tracks from the present frame; what was measured before a stop is kept. One step of undo. */
  async run(way: TrackWay): Promise<void> {
    if (bench().tracking) return;
    const from = bench().frame;
    const chosen = trackersToFollow();
    if (chosen.length === 0) {
      toast.warning(
        shotDocument().trackers.length === 0
          ? 'There is no spot yet. Press on the picture to place one.'
          : `Nothing has a sample on frame ${from}. Go to a frame where a spot or surface has one, or place it here.`,
        { id: 'track' },
      );
      return;
    }
    const ends = targetsOf(way, from, chosen.flat());
    if (ends.length === 0) {
      toast.info(NOWHERE[way], { id: 'track' });
      return;
    }
    await this.asOneStep(async (run) => {
      const stops: { readonly message: string }[] = [];
      let all = true;
      each: for (const to of ends) {
        const total = Math.abs(to - from);
        for (const trackers of chosen) {
          setBench({
            frame: from,
            tracking: { from, to, frame: from, done: 0, total, startedAt: Date.now() },
          });
          const outcome = await this.follow(trackers, from, to, stops, run);
          if (outcome.ended === 'failed') toast.error(`Tracking failed: ${outcome.message}`, { id: 'track' });
          if (run.over) return;
          all = outcome.ended === 'done';
          if (!all) break each;
        }
      }
      // Both ways from the middle, the middle is what was looked at.
      if (all && ends.length > 1) setBench({ frame: from });
      holdTracked(chosen.flat());
      if (stops.length > 0) tell(stops.map((s) => s.message).join('\n'));
    });
  }

  /** Follows trackers of one kind. */
  private async follow<K extends MeasuredKind>(
    trackers: readonly TrackerOf<K>[],
    from: number,
    to: number,
    stops: { message: string }[],
    run: Run,
  ): Promise<TrackOutcome> {
    const state = shotState();
    const kind: K = trackers[0].kind;
    const things = trackers.map((t) => toTrack(kind, t, state));
    const faces = await this.facesOf(trackers);
    const onSteps = Comlink.proxy(async (steps: FollowStep<K>[]) => {
      if (run.over) return;
      stops.push(...steps.flatMap((s) => s.stopped));
      takeSteps(kind, steps, to);
      // What follows from it, and drawing it, counts as taking it over.
      await drawn();
    });
    const request = { from, to, things, others: othersThan(kind, trackers, state) };
    return (await this.api()).follow(kind, request, areasNow(), onSteps, faces);
  }

  /** The model of faces for those meshes that are led by it; null where none is, or it cannot be had here. */
  private async facesOf(trackers: readonly Tracked[]): Promise<Faces | null> {
    const ids = trackers.filter((t) => 'leads' in t && t.leads === 'face').map((t) => t.id);
    if (ids.length === 0) return null;
    this.faces ??= this.openFaces();
    try {
      const port = await this.faces.port();
      return Comlink.transfer({ port, ids }, [port]);
    } catch (error) {
      tell(`Faces are followed by their texture alone. ${(error as Error).message}`);
      return null;
    }
  }

  /** A surface laid flat on a frame, and how its parts fit there. */
  async look(
    surface: SurfaceToTrack,
    frame: number,
    motion: Matrix3,
    quad: Quad,
    size: { width: number; height: number },
  ): Promise<SurfaceLook> {
    return (await this.api()).look(surface, areasNow(), frame, motion, quad, size);
  }

  /** Follows the picture from the pins round the present frame towards each other, for the selected spots. */
  async between(): Promise<void> {
    if (bench().tracking) return;
    const { frame, selected } = bench();
    const { document, measured } = shotState();
    const chosen = document.trackers.filter((t) => selected.includes(t.id));
    if (chosen.length === 0) {
      toast.warning('Select a spot or surface first: tracking between pins needs one.', { id: 'track' });
      return;
    }
    await this.asOneStep(async (run) => {
      for (const tracker of chosen) {
        const track = measured[tracker.id];
        const pins = track ? pinsRound(track, frame) : null;
        if (!pins) {
          tell(
            `"${tracker.name}" needs a pin on both sides of frame ${frame}. Pin it where it is right (drag or nudge it).`,
          );
          continue;
        }
        const [a, b] = pins;
        const total = 2 * (b - a - 1);
        setBench({ tracking: { from: a, to: b, frame: a, done: 0, total, startedAt: Date.now() } });
        const progress = Comlink.proxy((done: number) => {
          const { tracking } = bench();
          if (tracking) setBench({ tracking: { ...tracking, done } });
        });
        const outcome = await this.betweenOf(tracker, pins, progress);
        if (outcome.ended === 'failed') toast.error(`Tracking failed: ${outcome.message}`, { id: 'track' });
        if (run.over || outcome.ended !== 'done') break;
        takeBetween(tracker, a, b, outcome.samples, outcome.unseen);
      }
    });
  }

  private async betweenOf<K extends MeasuredKind>(
    tracker: TrackerOf<K>,
    pins: readonly [number, number],
    progress: (done: number) => void,
  ): Promise<BetweenOutcome<K>> {
    const state = shotState();
    const kind: K = tracker.kind;
    const thing = toTrack(kind, tracker, state);
    const others = othersThan(kind, [tracker], state);
    const faces = await this.facesOf([tracker]);
    return (await this.api()).between(kind, thing, pins, others, areasNow(), progress, faces);
  }

  /**
   * Tracks the selected spots back from their last sample to their first and notes by how much the way back differs
   * from the way there. No sample is moved; what differs becomes a doubt.
   */
  async checkBack(): Promise<void> {
    if (bench().tracking) return;
    const { selected } = bench();
    const { document, measured } = shotState();
    const spots = spotsOf(document).filter(
      (s) => (selected.length === 0 || selected.includes(s.id)) && (measured[s.id]?.state.length ?? 0) > 1,
    );
    if (spots.length === 0) {
      toast.warning('Track a spot first: the check goes back over its samples.', { id: 'track' });
      return;
    }
    await this.asOneStep(async (run) => {
      let apart = 0;
      for (const spot of spots) {
        const track = trackOf({ measured }, spot.id);
        const [first, last] = [track.start, measuredEnd(track) - 1];
        const total = last - first;
        setBench({ tracking: { from: last, to: first, frame: last, done: 0, total, startedAt: Date.now() } });
        const back: FramedSample[] = [];
        const state = shotState();
        const things = [toTrack('spot', spot, state)];
        const request = { from: last, to: first, things, others: othersThan('spot', [spot], state) };
        const onSteps = Comlink.proxy((steps: FollowStep<'spot'>[]) => {
          back.push(...steps.flatMap((s) => s.samples.map((t) => t.sample)));
          const { tracking } = bench();
          if (tracking) setBench({ tracking: { ...tracking, done: steps[steps.length - 1].done } });
        });
        const api = await this.api();
        const outcome = await api.follow('spot', request, areasNow(), onSteps, null);
        if (outcome.ended === 'failed') toast.error(`Checking failed: ${outcome.message}`, { id: 'track' });
        if (run.over || outcome.ended !== 'done') return;
        const noted = mismatches(track, back);
        apart += noted.filter((s) => s.mismatch).length;
        edit((state) => setMeasured(state, { [spot.id]: withSamples(trackOf(state, spot.id), noted) }));
      }
      toast.info(
        apart > 0
          ? `Tracked back, ${apart === 1 ? 'one sample differs' : `${apart} samples differ`}: see Doubts.`
          : 'Tracked back, every sample is where it was on the way there.',
        { id: 'track' },
      );
    });
  }

  /** Runs work that edits the shot many times, as one step of undo; where it is undone meanwhile, it ends. */
  private async asOneStep(work: (run: Run) => Promise<void>): Promise<void> {
    setBench({ playing: false, tool: { id: 'mark' }, suggestions: [] });
    const run = beginRun(() => this.stop());
    try {
      await Promise.race([this.api().then(() => work(run)), this.ended]);
    } catch (error) {
      toast.error(`Tracking failed: ${(error as Error).message}`, { id: 'track' });
    } finally {
      run.end();
      setBench({ tracking: null });
      this.faces?.close();
      this.faces = null;
    }
  }

  stop(): void {
    if (this.worker.begun) void this.api().then((api) => api.stop());
  }

  close(): void {
    this.worker.end();
    this.end();
    this.faces?.close();
  }
}

/** The next time the page is drawn; soon where it is not, since nobody looks at it. */
const drawn = () =>
  new Promise((resume) => {
    requestAnimationFrame(resume);
    setTimeout(resume, 200);
  });

function tell(message: string): void {
  toast.warning(message, { id: 'track', duration: 8000, style: { whiteSpace: 'pre-line' } });
}
