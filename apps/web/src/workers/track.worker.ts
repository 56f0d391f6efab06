import { Comlink } from './comlink';
import {
  closedBy,
  kernelsMissing,
  toWire,
  SurfaceLooker,
  trackBetween,
  trackSurfaceBetween,
  trackSpots,
  trackSurfaces,
  makeMesh,
  trackSoft,
  trackSoftBetween,
  type Area,
  type Mesh,
  type MeshPlan,
  type SoftRequest,
  type SoftSample,
  type SoftStep,
  type SoftToTrack,
  type BetweenResult,
  type KnownSpot,
  type Matrix3,
  type Quad,
  type SpotToTrack,
  type SurfaceLook,
  type SurfaceRequest,
  type SurfaceStep,
  type SurfaceToTrack,
  type TrackRequest,
  type TrackStep,
} from '@lurn/core';
import { FrameReader, type ClipFile } from '@lurn/media';
import type { ClipInfo } from '@lurn/model';
import { faceLeads, keptFor } from './face-leads';
import type { FacesApi } from './faces.worker';

const READER = { cacheBytes: 250e6, readAhead: 2, shared: typeof SharedArrayBuffer !== 'undefined' };
/** Steps are handed over in batches, about this often ... */
const BATCH_MS = 150;
/** ... and so seldom that taking them over is at most this part of what the page does. */
const SHARE = 1 / 3;

type Broken =
  | { readonly ended: 'stopped' }
  | { readonly ended: 'failed'; readonly code: string; readonly message: string };
export type TrackOutcome = { readonly ended: 'done' } | Broken;
export type SurfaceBetweenOutcome =
  ({ readonly ended: 'done' } & Awaited<ReturnType<typeof trackSurfaceBetween>>) | Broken;
export type SoftBetweenOutcome =
  { readonly ended: 'done'; readonly samples: readonly SoftSample[]; readonly unseen: number } | Broken;
export type BetweenOutcome = ({ readonly ended: 'done' } & BetweenResult) | Broken;

function brokenOff(error: unknown): Broken {
  const { code, message } = toWire(error);
  return code === 'stopped' ? { ended: 'stopped' } : { ended: 'failed', code, message };
}

/** A model of faces to be asked on every frame, and the meshes that are led by it. */
export interface Faces {
  readonly port: MessagePort;
  readonly ids: readonly string[];
}

function led(soft: readonly SoftToTrack[], faces: Faces | null): readonly SoftToTrack[] {
  if (!faces) return soft;
  const api = Comlink.wrap<FacesApi>(faces.port);
  const landmarks = keptFor((frame) => api.landmarks(frame));
  return soft.map((one) => (faces.ids.includes(one.id) ? { ...one, hints: faceLeads(landmarks, one) } : one));
}

/** How each block fits is asked for where it is looked at. */
async function* withoutFits(steps: AsyncIterable<SurfaceStep>): AsyncGenerator<SurfaceStep> {
  for await (const step of steps) yield { ...step, fits: [] };
}

/** Follows spots and surfaces off the main thread, with a decoder of its own. */
class TrackWorker {
  private reader: FrameReader | null = null;
  private signal = { aborted: false };
  private viewer: MessagePort | null = null;
  private looker: { readonly key: string; readonly looker: SurfaceLooker } | null = null;

  /** Lends every picture that is measured to whoever shows it: else it would be decoded twice. */
  lendTo(viewer: MessagePort): void {
    this.viewer = viewer;
  }

  private lend(frame: number): void {
    const picture = READER.shared ? this.reader?.peek(frame) : undefined;
    if (picture) this.viewer?.postMessage(picture);
  }

  /** @returns why it is slower here than it could be; null where it is not */
  async open(file: ClipFile, colour: ClipInfo['colour']): Promise<string | null> {
    this.reader = await FrameReader.open(file, { ...READER, colour });
    return kernelsMissing();
  }

  track(
    request: TrackRequest,
    areas: readonly Area[],
    onSteps: (steps: TrackStep[]) => Promise<void> | void,
  ): Promise<TrackOutcome> {
    this.signal = { aborted: false };
    return this.follow(trackSpots(closedBy(this.reader!, areas), request, this.signal), onSteps);
  }

  trackSurfaces(
    request: SurfaceRequest,
    areas: readonly Area[],
    onSteps: (steps: SurfaceStep[]) => Promise<void> | void,
  ): Promise<TrackOutcome> {
    this.signal = { aborted: false };
    const steps = trackSurfaces(closedBy(this.reader!, areas), request, this.signal);
    return this.follow(withoutFits(steps), onSteps);
  }

  trackSoft(
    request: SoftRequest,
    areas: readonly Area[],
    onSteps: (steps: SoftStep[]) => Promise<void> | void,
    faces: Faces | null,
  ): Promise<TrackOutcome> {
    this.signal = { aborted: false };
    const soft = led(request.soft, faces);
    const steps = trackSoft(closedBy(this.reader!, areas), { ...request, soft }, this.signal);
    return this.follow(steps, onSteps);
  }

  betweenSoft(
    soft: SoftToTrack,
    a: number,
    b: number,
    areas: readonly Area[],
    onProgress: (done: number) => void,
    faces: Faces | null,
  ): Promise<SoftBetweenOutcome> {
    return this.joining(onProgress, async (signal, progress) => {
      const [one] = led([soft], faces);
      const samples = await trackSoftBetween(closedBy(this.reader!, areas), one, a, b, signal, progress);
      return { samples, unseen: samples.filter((s) => s.state === 'coasted').length };
    });
  }

  /** A mesh by the texture of a frame. @throws LurnError when it cannot be made */
  async mesh(frame: number, plan: MeshPlan): Promise<{ mesh: Mesh } | { why: string }> {
    try {
      return { mesh: makeMesh(plan, await this.reader!.plane(frame, 'luma')) };
    } catch (error) {
      return { why: toWire(error).message };
    }
  }

  betweenSurface(
    surface: SurfaceToTrack,
    a: number,
    b: number,
    others: readonly SurfaceToTrack[],
    areas: readonly Area[],
    onProgress: (done: number) => void,
  ): Promise<SurfaceBetweenOutcome> {
    return this.joining(onProgress, (signal, progress) =>
      trackSurfaceBetween(closedBy(this.reader!, areas), surface, a, b, others, signal, progress),
    );
  }

  /** A surface laid flat on a frame, and how its parts fit there. */
  async look(
    surface: SurfaceToTrack,
    areas: readonly Area[],
    frame: number,
    motion: Matrix3,
    quad: Quad,
    size: { width: number; height: number },
  ): Promise<SurfaceLook> {
    const { id, shapes, settings, behind } = surface;
    const key = JSON.stringify([id, surface.frame, shapes, settings.eye, behind, areas]);
    if (this.looker?.key !== key)
      this.looker = { key, looker: new SurfaceLooker(closedBy(this.reader!, areas), surface) };
    return this.looker.looker.look(frame, motion, quad, size);
  }

  /** Hands the steps over in batches. */
  private async follow<S extends { readonly frame: number }>(
    steps: AsyncIterable<S>,
    onSteps: (steps: S[]) => Promise<void> | void,
  ): Promise<TrackOutcome> {
    let batch: S[] = [];
    let handed = performance.now();
    let taking: Promise<void> | null = null;
    let pause = BATCH_MS;
    const hand = (): Promise<void> | null => {
      if (batch.length > 0) {
        const start = performance.now();
        const before = taking;
        taking = Promise.all([before, onSteps(batch)]).then(() => {
          taking = null;
          pause = Math.max(BATCH_MS, (performance.now() - start) / SHARE);
        });
      }
      batch = [];
      handed = performance.now();
      return taking;
    };
    try {
      for await (const step of steps) {
        batch.push(step);
        this.lend(step.frame);
        if (!taking && performance.now() - handed > pause) {
          hand();
          await new Promise((resume) => setTimeout(resume)); // lets a stop come through
        }
      }
      // What was measured last has been taken over, too, before the run ends.
      await hand();
      return { ended: 'done' };
    } catch (error) {
      await hand();
      return brokenOff(error);
    }
  }

  async between(
    spot: SpotToTrack,
    a: number,
    b: number,
    others: readonly KnownSpot[],
    areas: readonly Area[],
    onProgress: (done: number) => void,
  ): Promise<BetweenOutcome> {
    return this.joining(onProgress, (signal, progress) =>
      trackBetween(closedBy(this.reader!, areas), spot, a, b, others, signal, progress),
    );
  }

  /** Two passes that are joined, told of now and then. */
  private async joining<R extends object>(
    onProgress: (done: number) => void,
    work: (signal: { aborted: boolean }, progress: (done: number) => void) => Promise<R>,
  ): Promise<({ readonly ended: 'done' } & R) | Broken> {
    this.signal = { aborted: false };
    let told = performance.now();
    try {
      const result = await work(this.signal, (done) => {
        if (performance.now() - told < BATCH_MS) return;
        told = performance.now();
        onProgress(done);
      });
      return { ended: 'done', ...result };
    } catch (error) {
      return brokenOff(error);
    }
  }

  stop(): void {
    this.signal.aborted = true;
  }
}

export type TrackApi = TrackWorker;
Comlink.expose(new TrackWorker());
