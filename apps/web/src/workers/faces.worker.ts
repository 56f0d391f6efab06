import Human from '@vladmandic/human';
import { LurnError } from '@lurn/core';
import {
  before,
  codedToUpright,
  invert,
  matrixWarp,
  type Matrix3,
  type Point,
  type Warp,
} from '@lurn/core/geometry';
import type { ChromaSiting } from '@lurn/core/picture';
import type { Size } from '@lurn/core/plan'; // prettier-ignore
import { ProcessorDrawer, FrameReader, type ClipFile, type ColourCoding } from '@lurn/media';
import { Comlink } from './comlink';

export interface FacesRequest {
  readonly size: Size;
  readonly coding: ColourCoding & { readonly siting: ChromaSiting; readonly height: number };
  /** Where the models lie; they come with the application. */
  readonly models: string;
}

/** A face in source pixels. */
export interface FoundFace {
  /** Its rim in turn. */
  readonly outline: readonly Point[];
  /** What is in it, the features first. */
  readonly points: readonly Point[];
  /** All that the model finds, always in the same order. */
  readonly landmarks: readonly Point[];
  readonly score: number;
}

/** Faces that are looked for at the most, and how sure they have to be. */
const [MOST, LEAST_SCORE] = [8, 0.4];
/** What is to be kept of a face before anything else, as the model names it. */
const FEATURES = /^(?!.*Iris)(leftEye|rightEye|lips|nose|leftEyebrow|rightEyebrow|midwayBetweenEyes)/;
/** Faces are looked for in pictures of so many pixels along the longer side at the most. */
const LARGEST = 1280;

/** Of the package's untyped library, what is used here. */
interface Flags {
  env(): { set(name: string, value: boolean): void };
}

interface Opened {
  readonly reader: FrameReader;
  readonly human: Human;
  readonly canvas: OffscreenCanvas;
  readonly drawer: ProcessorDrawer;
  /** Pixels of the canvas to luma samples of the coded picture. */
  readonly toLuma: Warp;
  readonly size: Size;
}

/** A model of faces, and a clip that it looks at. */
class FacesWorker {
  private opened: Opened | null = null;

  /** @throws LurnError where the clip or the models cannot be read */
  async open(file: ClipFile, request: FacesRequest): Promise<void> {
    const reader = await FrameReader.open(file, { cacheBytes: 40e6, readAhead: 2 });
    const off = { enabled: false };
    const human = new Human({
      ...{ backend: 'wasm', wasmPath: request.models, modelBasePath: request.models },
      ...{ debug: false, cacheModels: false, cacheSensitivity: 0, filter: off },
      ...{ body: off, hand: off, object: off, gesture: off, segmentation: off },
      face: {
        enabled: true,
        detector: { maxDetected: MOST, minConfidence: LEAST_SCORE, rotation: false, return: false, skipFrames: 0, skipTime: 0 }, // prettier-ignore
        mesh: { enabled: true },
        ...{ attention: off, iris: off, description: off, emotion: off, antispoof: off, liveness: off },
      },
    });
    // Its own threads load their code in a way that isolated pages refuse.
    (human.tf as Flags).env().set('WASM_HAS_MULTITHREAD_SUPPORT', false);
    const { size, coding } = request;
    const shrink = Math.max(1, Math.max(size.width, size.height) / LARGEST);
    const canvas = new OffscreenCanvas(Math.round(size.width / shrink), Math.round(size.height / shrink));
    const drawer = new ProcessorDrawer(canvas.getContext('2d', { willReadFrequently: true })!, coding);
    const fromUpright = invert(codedToUpright(reader.clip.turns, file.width, file.height));
    const toLuma = before(matrixWarp(fromUpright), scaling(size.width / canvas.width));
    this.opened = { reader, human, canvas, drawer, toLuma, size };
  }

  /** Others may ask through this from now on. */
  lendTo(port: MessagePort): void {
    Comlink.expose(this, port);
  }

  /** The faces on a frame, the largest first. @throws LurnError where they cannot be looked for */
  async find(frame: number): Promise<FoundFace[]> {
    const { human, size, canvas } = this.opened!;
    const grow = size.width / canvas.width;
    const { face, error } = await human.detect(await this.picture(frame));
    if (error) throw new LurnError('no-faces', `Faces cannot be looked for here: ${error}.`);
    const at = (p: readonly (number | undefined)[]): Point => ({
      x: grow * (p[0] ?? 0),
      y: grow * (p[1] ?? 0),
    });
    return face
      .filter((f) => f.mesh.length > 0)
      .sort((a, b) => b.box[2] * b.box[3] - a.box[2] * a.box[3])
      .map(({ mesh, annotations, score }) => {
        const landmarks = mesh.map(at);
        const features = Object.entries(annotations).flatMap(([name, list]) =>
          FEATURES.test(name) ? list.map(at) : [],
        );
        return { outline: annotations.silhouette.map(at), points: [...features, ...landmarks], landmarks, score }; // prettier-ignore
      });
  }

  /** The landmarks of all faces on a frame. */
  async landmarks(frame: number): Promise<(readonly Point[])[]> {
    return (await this.find(frame)).map((f) => f.landmarks);
  }

  /** A frame as it is shown, no larger than faces are found well in. */
  private async picture(frame: number): Promise<OffscreenCanvas> {
    const { reader, canvas, drawer, toLuma, size } = this.opened!;
    drawer.clear();
    drawer.drawPane(await reader.get(frame), {
      ...{ x: 0, y: 0, width: canvas.width, height: canvas.height, quality: 'linear', toLuma },
      ...{ toFrame: scaling(size.width / canvas.width), frameSize: [size.width, size.height] },
    });
    drawer.finish();
    return canvas;
  }
}

const scaling = (by: number): Matrix3 => [by, 0, 0, 0, by, 0, 0, 0, 1];

export type FacesApi = FacesWorker;
Comlink.expose(new FacesWorker());
