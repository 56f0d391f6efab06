import { Comlink } from './comlink';
import { kernelsMissing, toWire } from '@lurn/core';
import type { Area, Matrix3, Mesh, Quad } from '@lurn/core/geometry';
import {
  closedBy,
  makeMesh,
  trackerKind,
  type Between,
  type FollowRequest,
  type FollowStep,
  type MeasuredKind,
  type MeshPlan,
  type SurfaceToTrack,
  type ToTrack,
} from '@lurn/core/track';
import { SurfaceLooker, type SurfaceLook } from '@lurn/core/warp';
import { FrameReader, type ClipFile } from '@lurn/media';
import type { ClipInfo } from '@lurn/model';
import { faceLeads, keptFor } from './soft/face-leads';
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
export type BetweenOutcome<K extends MeasuredKind> = ({ readonly ended: 'done' } & Between<K>) | Broken;

function brokenOff(error: unknown): Broken {
  const { code, message } = toWire(error);
  return code === 'stopped' ? { ended: 'stopped' } : { ended: 'failed', code, message };
}

/** A model of faces to be asked on every frame, and the meshes that are led by it. */
export interface Faces {
  readonly port: MessagePort;
  readonly ids: readonly string[];
}

function led<K extends MeasuredKind>(
  things: readonly ToTrack<K>[],
  faces: Faces | null,
): readonly ToTrack<K>[] {
  if (!faces) return things;
  const api = Comlink.wrap<FacesApi>(faces.port);
  const landmarks = keptFor((frame) => api.landmarks(frame));
  return things.map((one) =>
    faces.ids.includes(one.id) && 'vertices' in one ? { ...one, hints: faceLeads(landmarks, one) } : one,
  );
}

/** Follows trackers off the main thread, with a decoder of its own. */
class TrackWorker {
  private reader: FrameReader | null = null;
  private signal = { aborted: false };
  private viewer: MessagePort | null = null;
  private flat: { readonly key: string; readonly looker: SurfaceLooker } | null = null;

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

  /** Follows trackers of one kind. @param faces  a model of faces, where some are led by it */
  follow<K extends MeasuredKind>(
    kind: K,
    request: FollowRequest<K>,
    areas: readonly Area[],
    onSteps: (steps: FollowStep<K>[]) => Promise<void> | void,
    faces: Faces | null,
  ): Promise<TrackOutcome> {
    this.signal = { aborted: false };
    const things = led(request.things, faces);
    const source = closedBy(this.reader!, areas);
    return this.handOver(trackerKind(kind).follow(source, { ...request, things }, this.signal), onSteps);
  }

  /** Follows one between two frames on which it is known, told of now and then. */
  async between<K extends MeasuredKind>(
    kind: K,
    thing: ToTrack<K>,
    [a, b]: readonly [number, number],
    others: readonly ToTrack<K>[],
    areas: readonly Area[],
    onProgress: (done: number) => void,
    faces: Faces | null,
  ): Promise<BetweenOutcome<K>> {
    this.signal = { aborted: false };
    const source = closedBy(this.reader!, areas);
    const [one] = led([thing], faces);
    let told = performance.now();
    try {
      const result = await trackerKind(kind).between(source, one, a, b, others, this.signal, (done) => {
        if (performance.now() - told < BATCH_MS) return;
        told = performance.now();
        onProgress(done);
      });
      return { ended: 'done', ...result };
    } catch (error) {
      return brokenOff(error);
    }
  }

  /** A mesh by the texture of a frame. @throws LurnError when it cannot be made */
  async mesh(frame: number, plan: MeshPlan): Promise<{ mesh: Mesh } | { why: string }> {
    try {
      return { mesh: makeMesh(plan, await this.reader!.plane(frame, 'luma')) };
    } catch (error) {
      return { why: toWire(error).message };
    }
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
    if (this.flat?.key !== key)
      this.flat = { key, looker: new SurfaceLooker(closedBy(this.reader!, areas), surface) };
    return this.flat.looker.look(frame, motion, quad, size);
  }

  /** Hands the steps over in batches. */
  private async handOver<S extends { readonly frame: number }>(
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

  stop(): void {
    this.signal.aborted = true;
  }
}

/** What the page calls; every answer is a promise there. */
export type TrackApi = Pick<TrackWorker, keyof TrackWorker>;
Comlink.expose(new TrackWorker());
