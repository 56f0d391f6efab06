import { Comlink } from '../workers/comlink';
import { toast } from 'sonner';
import {
  mismatches,
  measuredEnd,
  withSamples,
  withSoftSamples,
  withSurfaceSamples,
  type FramedSample,
  type Matrix3,
  type Quad,
  type SoftStep,
  type SurfaceLook,
  type SurfaceStep,
  type SurfaceToTrack,
  type TrackStep,
  LurnError,
} from '@lurn/core';
import {
  setMeasured,
  softToTrack,
  softTrackOf,
  spotsOf,
  surfacesOf,
  surfaceToTrack,
  surfaceTrackOf,
  trackOf,
  type SoftSurface,
  type Spot,
  type Surface,
  type Tracker as Tracked,
} from '@lurn/model';
import type { ClipFile } from '@lurn/media';
import type { FaceModel } from '../workers/open-faces';
import type { Faces, TrackApi } from '../workers/track.worker';
import { areasNow } from './areas';
import { bench, setBench } from './bench';
import { beginRun, edit, type Run, shotDocument, shotState } from './shot';
import { spotsToTrack } from './acts';
import { meshesMadeBy, softToFollow } from './soft';
import { surfacesToTrack } from './surfaces';
import { holdTracked, takeBetween, takeSteps } from './taking-over';
import { othersThan, toTrack } from './to-track';
import { NOWHERE, pinsRound, targetsOf, type TrackWay } from './track-targets';

/** Runs the tracker's worker for the open Bench. */
export class Tracker {
  private readonly worker = new Worker(new URL('../workers/track.worker.ts', import.meta.url), {
    type: 'module',
  });
  private readonly api = Comlink.wrap<TrackApi>(this.worker);
  private readonly ready: Promise<void>;
  private end!: () => void;
  /** A worker that is ended answers nobody: what waits for it goes on by this. */
  private readonly ended = new Promise<void>((resolve) => (this.end = resolve));

  /** The model of faces, while meshes are followed that are led by it. */
  private faces: FaceModel | null = null;

  /** @param openFaces  opens a model of faces for the clip */
  constructor(
    file: ClipFile,
    private readonly openFaces: () => FaceModel,
  ) {
    this.ready = this.api.open(file, bench().info.colour).then((slower) => setBench({ slower }));
    this.ready.catch(() => undefined);
    meshesMadeBy(async (frame, plan) => {
      await this.ready;
      const made = await this.api.mesh(frame, plan);
      if ('why' in made) throw new LurnError('no-mesh', made.why);
      return made.mesh;
    });
  }

  /** Lends the pictures that are measured to the view. */
  readonly lendTo = (viewer: MessagePort): void => {
    void this.api.lendTo(Comlink.transfer(viewer, [viewer]));
  };

  /** Tracks from the present frame; what was measured before a stop is kept. One step of undo. */
  async run(way: TrackWay): Promise<void> {
    if (bench().tracking) return;
    const from = bench().frame;
    const spots = spotsToTrack();
    const surfaces = surfacesToTrack();
    const soft = softToFollow();
    if (spots.length + surfaces.length + soft.length === 0) {
      toast.warning(
        shotDocument().trackers.length === 0
          ? 'There is no spot yet. Press on the picture to place one.'
          : `Nothing has a sample on frame ${from}. Go to a frame where a spot or surface has one, or place it here.`,
        { id: 'track' },
      );
      return;
    }
    const ends = targetsOf(way, from, [...spots, ...surfaces, ...soft]);
    if (ends.length === 0) {
      toast.info(NOWHERE[way], { id: 'track' });
      return;
    }
    await this.asOneStep(async (run) => {
      const stops: { readonly message: string }[] = [];
      const runs = [
        ...(spots.length > 0 ? [(to: number) => this.followSpots(spots, from, to, stops, run)] : []),
        ...(surfaces.length > 0 ? [(to: number) => this.followSurfaces(surfaces, from, to, stops, run)] : []),
        ...(soft.length > 0 ? [(to: number) => this.followSoft(soft, from, to, stops, run)] : []),
      ];
      let all = true;
      each: for (const to of ends) {
        const total = Math.abs(to - from);
        for (const follow of runs) {
          setBench({
            frame: from,
            tracking: { from, to, frame: from, done: 0, total, startedAt: Date.now() },
          });
          const outcome = await follow(to);
          if (outcome.ended === 'failed') toast.error(`Tracking failed: ${outcome.message}`, { id: 'track' });
          if (run.over) return;
          all = outcome.ended === 'done';
          if (!all) break each;
        }
      }
      // Both ways from the middle, the middle is what was looked at.
      if (all && ends.length > 1) setBench({ frame: from });
      holdTracked([...surfaces, ...soft]);
      if (stops.length > 0) tell(stops.map((s) => s.message).join('\n'));
    });
  }

  private followSpots(
    spots: readonly Spot[],
    from: number,
    to: number,
    stops: { message: string }[],
    run: Run,
  ) {
    return this.api.track(
      { from, to, spots: spots.map(toTrack), others: othersThan(spots) },
      areasNow(),
      Comlink.proxy(async (steps: TrackStep[]) => {
        if (run.over) return;
        stops.push(...steps.flatMap((s) => s.stopped));
        takeSteps(steps, to, trackOf, withSamples);
        // What follows from it, and drawing it, counts as taking it over.
        await drawn();
      }),
    );
  }

  private followSurfaces(
    surfaces: readonly Surface[],
    from: number,
    to: number,
    stops: { message: string }[],
    run: Run,
  ) {
    const state = shotState();
    const ready = (s: Surface) => surfaceToTrack(s, surfaceTrackOf(state, s.id));
    const others = surfacesOf(state.document).filter((s) => !surfaces.includes(s));
    return this.api.trackSurfaces(
      { from, to, surfaces: surfaces.map(ready), others: others.map(ready) },
      areasNow(),
      Comlink.proxy(async (steps: SurfaceStep[]) => {
        if (run.over) return;
        stops.push(...steps.flatMap((s) => s.stopped));
        takeSteps(steps, to, surfaceTrackOf, withSurfaceSamples);
        await drawn();
      }),
    );
  }

  /** The model of faces for those meshes that are led by it; null where none is, or it cannot be had here. */
  private async facesOf(soft: readonly SoftSurface[]): Promise<Faces | null> {
    const ids = soft.filter((s) => s.leads === 'face').map((s) => s.id);
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

  private async followSoft(
    soft: readonly SoftSurface[],
    from: number,
    to: number,
    stops: { message: string }[],
    run: Run,
  ) {
    const state = shotState();
    const faces = await this.facesOf(soft);
    return this.api.trackSoft(
      { from, to, soft: soft.map((s) => softToTrack(s, state)) },
      areasNow(),
      Comlink.proxy(async (steps: SoftStep[]) => {
        if (run.over) return;
        stops.push(...steps.flatMap((s) => s.stopped));
        takeSteps(steps, to, softTrackOf, withSoftSamples);
        await drawn();
      }),
      faces,
    );
  }

  /** A surface laid flat on a frame, and how its parts fit there. */
  async look(
    surface: SurfaceToTrack,
    frame: number,
    motion: Matrix3,
    quad: Quad,
    size: { width: number; height: number },
  ): Promise<SurfaceLook> {
    await this.ready;
    return this.api.look(surface, areasNow(), frame, motion, quad, size);
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
        const outcome = await this.betweenOf(tracker, a, b, progress);
        if (outcome.ended === 'failed') toast.error(`Tracking failed: ${outcome.message}`, { id: 'track' });
        if (run.over || outcome.ended !== 'done') break;
        takeBetween(tracker, a, b, outcome.samples, outcome.unseen);
      }
    });
  }

  private async betweenOf(tracker: Tracked, a: number, b: number, progress: (done: number) => void) {
    const state = shotState();
    switch (tracker.kind) {
      case 'spot':
        return this.api.between(toTrack(tracker), a, b, othersThan([tracker]), areasNow(), progress);
      case 'surface': {
        const surface = surfaceToTrack(tracker, surfaceTrackOf(state, tracker.id));
        return this.api.betweenSurface(surface, a, b, [], areasNow(), progress);
      }
      case 'soft': {
        const soft = softToTrack(tracker, state);
        return this.api.betweenSoft(soft, a, b, areasNow(), progress, await this.facesOf([tracker]));
      }
    }
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
        const outcome = await this.api.track(
          { from: last, to: first, spots: [toTrack(spot)], others: othersThan([spot]) },
          areasNow(),
          Comlink.proxy((steps: TrackStep[]) => {
            back.push(...steps.flatMap((s) => s.samples.map((t) => t.sample)));
            const { tracking } = bench();
            if (tracking) setBench({ tracking: { ...tracking, done: steps[steps.length - 1].done } });
          }),
        );
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
      await Promise.race([this.ready.then(() => work(run)), this.ended]);
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
    void this.api.stop();
  }

  close(): void {
    this.worker.terminate();
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
