import Human from '@vladmandic/human';
import { CleanPlate, codedToUpright, invert, LurnError, plateWarp, type ChromaSiting, type Point, type Size } from '@lurn/core'; // prettier-ignore
import { FrameReader, type ClipFile, type ColourCoding } from '@lurn/media';
import { Comlink } from './comlink';

export interface FacesRequest {
  readonly size: Size;
  readonly coding: ColourCoding & { readonly siting: ChromaSiting; readonly height: number };
  readonly frame: number;
  /** Where the models lie; they come with the application. */
  readonly models: string;
}

/** A face in source pixels: its rim in turn, and what is in it, the features first. */
export interface FoundFace {
  readonly outline: readonly Point[];
  readonly points: readonly Point[];
  readonly score: number;
}

/** Faces that are looked for at the most, and how sure they have to be. */
const [MOST, LEAST_SCORE] = [8, 0.4];
/** What is to be kept of a face before anything else, as the model names it. */
const FEATURES = /^(?!.*Iris)(leftEye|rightEye|lips|nose|leftEyebrow|rightEyebrow|midwayBetweenEyes)/;

class FacesWorker {
  /** The faces on a frame, the largest first. @throws LurnError where the clip or the models cannot be read */
  async find(file: ClipFile, { size, coding, frame, models }: FacesRequest): Promise<FoundFace[]> {
    const reader = await FrameReader.open(file, { cacheBytes: 40e6, readAhead: 0 });
    const plate = new CleanPlate(size, coding.siting);
    const fromUpright = invert(codedToUpright(reader.clip.turns, file.width, file.height));
    plate.add({ ...(await reader.get(frame)), toLuma: plateWarp([1, 0, 0, 0, 1, 0, 0, 0, 1], fromUpright) });
    reader.close();
    const picture = new OffscreenCanvas(size.width, size.height);
    const pixels = new ImageData(plate.median(coding, coding.height), size.width);
    picture.getContext('2d')!.putImageData(pixels, 0, 0);
    const off = { enabled: false };
    const human = new Human({
      ...{ backend: 'webgl', debug: false, modelBasePath: models, cacheModels: false, filter: off },
      ...{ body: off, hand: off, object: off, gesture: off, segmentation: off },
      face: {
        enabled: true,
        detector: { maxDetected: MOST, minConfidence: LEAST_SCORE, rotation: false, return: false },
        mesh: { enabled: true },
        ...{ attention: off, iris: off, description: off, emotion: off, antispoof: off, liveness: off },
      },
    });
    const { face, error } = await human.detect(picture);
    if (error) throw new LurnError('no-faces', `Faces cannot be looked for here: ${error}.`);
    const at = (p: readonly (number | undefined)[]): Point => ({ x: p[0] ?? 0, y: p[1] ?? 0 });
    return face
      .filter((f) => f.mesh.length > 0)
      .sort((a, b) => b.box[2] * b.box[3] - a.box[2] * a.box[3])
      .map(({ mesh, annotations, score }) => ({
        outline: annotations.silhouette.map(at),
        points: [
          ...Object.entries(annotations).flatMap(([name, list]) => (FEATURES.test(name) ? list.map(at) : [])),
          ...mesh.map(at),
        ],
        score,
      }));
  }
}

export type FacesApi = FacesWorker;
Comlink.expose(new FacesWorker());
