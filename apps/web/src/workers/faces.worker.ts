import Human from '@vladmandic/human';
import { CleanPlate, codedToUpright, invert, LurnError, plateWarp, type ChromaSiting, type Matrix3, type Point, type Size } from '@lurn/core'; // prettier-ignore
import { FrameReader, type ClipFile, type ColourCoding } from '@lurn/media';
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
const STILL: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** A model of faces, and a clip that it looks at. */
class FacesWorker {
  private opened: { readonly reader: FrameReader; readonly fromUpright: Matrix3; readonly human: Human; readonly request: FacesRequest } | null = null; // prettier-ignore

  /** @throws LurnError where the clip or the models cannot be read */
  async open(file: ClipFile, request: FacesRequest): Promise<void> {
    const reader = await FrameReader.open(file, { cacheBytes: 40e6, readAhead: 2 });
    const off = { enabled: false };
    const human = new Human({
      ...{ backend: 'webgl', debug: false, modelBasePath: request.models, cacheModels: false, filter: off },
      ...{ body: off, hand: off, object: off, gesture: off, segmentation: off },
      face: {
        enabled: true,
        detector: { maxDetected: MOST, minConfidence: LEAST_SCORE, rotation: false, return: false, skipFrames: 0, skipTime: 0 }, // prettier-ignore
        mesh: { enabled: true },
        ...{ attention: off, iris: off, description: off, emotion: off, antispoof: off, liveness: off },
      },
    });
    const fromUpright = invert(codedToUpright(reader.clip.turns, file.width, file.height));
    this.opened = { reader, fromUpright, human, request };
  }

  /** Others may ask through this from now on. */
  lendTo(port: MessagePort): void {
    Comlink.expose(this, port);
  }

  /** The faces on a frame, the largest first. @throws LurnError where they cannot be looked for */
  async find(frame: number): Promise<FoundFace[]> {
    const { human } = this.opened!;
    const { face, error } = await human.detect(await this.picture(frame));
    if (error) throw new LurnError('no-faces', `Faces cannot be looked for here: ${error}.`);
    const at = (p: readonly (number | undefined)[]): Point => ({ x: p[0] ?? 0, y: p[1] ?? 0 });
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

  private async picture(frame: number): Promise<OffscreenCanvas> {
    const { reader, fromUpright, request } = this.opened!;
    const { size, coding } = request;
    const plate = new CleanPlate(size, coding.siting);
    plate.add({ ...(await reader.get(frame)), toLuma: plateWarp(STILL, fromUpright) });
    const picture = new OffscreenCanvas(size.width, size.height);
    const pixels = new ImageData(plate.median(coding, coding.height), size.width);
    picture.getContext('2d')!.putImageData(pixels, 0, 0);
    return picture;
  }
}

export type FacesApi = FacesWorker;
Comlink.expose(new FacesWorker());
