import { Comlink } from './comlink';
import { judgeSpots, type AcceptedDoubt, type DoubtedSpot, type Judgement } from '@lurn/core/doubt';
import type { Area, Point } from '@lurn/core/geometry';
import { measureNoise, Pyramid, type Eye, type Plane } from '@lurn/core/picture';
import { framesForMasks, moverMasks, type AnalysedScene, type MoverMasks } from '@lurn/core/solve';
import {
  closedBy,
  gripMap,
  readGrip,
  SEARCH_LEVELS,
  suggestSpots,
  type Grip,
  type GripMap,
  type SuggestRequest,
  type Suggestion,
  type Track,
} from '@lurn/core/track';
import { FrameReader, type ClipFile } from '@lurn/media';
import type { ClipInfo } from '@lurn/model';

const READER = { cacheBytes: 120e6, readAhead: 0 };

export interface Thumb {
  readonly frame: number;
  readonly x: number;
  readonly y: number;
}

/** Looks at pictures for grip, suggestions and doubts, off the main thread and apart from tracking. */
class LookWorker {
  private reader: FrameReader | null = null;
  private noise = new Map<string, number>();
  private readonly tracks = new Map<string, Track>();
  private scene: AnalysedScene | null = null;
  private last: { key: string; picture: Pyramid } | null = null;

  async open(file: ClipFile, colour: ClipInfo['colour']): Promise<void> {
    this.reader = await FrameReader.open(file, { ...READER, colour });
  }

  async grip(
    frame: number,
    eye: Eye,
    at: Point,
    patch: readonly [number, number],
    reach: readonly [number, number],
  ): Promise<Grip> {
    const picture = await this.picture(frame, eye);
    return readGrip(picture, at, patch, reach, this.noiseOf(eye, picture));
  }

  /** @param areas  what is never measured */
  async suggest(
    frame: number,
    eye: Eye,
    request: SuggestRequest,
    areas: readonly Area[],
  ): Promise<Suggestion[]> {
    const picture = await this.picture(frame, eye, areas);
    return suggestSpots(picture, request, this.noiseOf(eye, picture));
  }

  async map(frame: number, eye: Eye, patch: readonly [number, number]): Promise<GripMap> {
    const picture = await this.picture(frame, eye);
    const plane = picture.levels[0];
    picture.need(0, 0, 0, plane.width, plane.height);
    const step = Math.max(4, Math.round(plane.width / 160));
    return gripMap(plane, patch, this.noiseOf(eye, picture), step);
  }

  /** Small pictures round places, `size` pixels square at `scale` times their size, as opaque RGBA. */
  async thumbs(
    places: readonly Thumb[],
    eye: Eye,
    size: number,
    scale: number,
  ): Promise<Uint8ClampedArray[]> {
    const out: Uint8ClampedArray[] = [];
    for (const { frame, x, y } of places) {
      const plane = await this.reader!.plane(frame, eye.channel);
      out.push(cut(plane, x, y, size, scale));
    }
    return out;
  }

  /** To which mover each part of a frame belongs. @param scene  null where it is that of the last time */
  async masks(scene: AnalysedScene | null, frame: number): Promise<MoverMasks> {
    this.scene = scene ?? this.scene!;
    const pictures = [];
    for (const f of framesForMasks(this.scene, frame))
      pictures.push({ frame: f, ...(await this.reader!.planes(f)) });
    return moverMasks(this.scene, pictures);
  }

  /** @param fresh  tracks that have changed since the last time; those of other spots are kept from then */
  judge(
    spots: readonly Omit<DoubtedSpot, 'track'>[],
    fresh: Readonly<Record<string, Track>>,
    size: { readonly width: number; readonly height: number },
    accepted: readonly AcceptedDoubt[],
  ): Judgement {
    const ids = new Set(spots.map((s) => s.id));
    for (const id of this.tracks.keys()) if (!ids.has(id)) this.tracks.delete(id);
    for (const [id, track] of Object.entries(fresh)) this.tracks.set(id, track);
    return judgeSpots(
      spots.map((s) => ({ ...s, track: this.tracks.get(s.id)! })),
      size,
      accepted,
    );
  }

  private async picture(frame: number, eye: Eye, areas: readonly Area[] = []): Promise<Pyramid> {
    const key = JSON.stringify([frame, eye, areas]);
    if (this.last?.key !== key) {
      const plane = await closedBy(this.reader!, areas).plane(frame, eye.channel);
      this.last = { key, picture: new Pyramid(plane, SEARCH_LEVELS, undefined, eye) };
    }
    return this.last.picture;
  }

  /** Noise is told from the whole picture once a shot and eye: it hardly changes from frame to frame. */
  private noiseOf(eye: Eye, picture: Pyramid): number {
    const key = JSON.stringify(eye);
    let noise = this.noise.get(key);
    if (noise === undefined) {
      const { width, height } = picture.levels[0];
      picture.need(0, 0, 0, width, height);
      noise = measureNoise(picture.levels[0]);
      this.noise.set(key, noise);
    }
    return noise;
  }
}

function cut(plane: Plane, x: number, y: number, size: number, scale: number): Uint8ClampedArray {
  const out = new Uint8ClampedArray(4 * size * size);
  for (let j = 0, q = 0; j < size; j++) {
    const sy = Math.min(plane.height - 1, Math.max(0, Math.floor(y + (j + 0.5 - size / 2) / scale)));
    for (let i = 0; i < size; i++, q += 4) {
      const sx = Math.min(plane.width - 1, Math.max(0, Math.floor(x + (i + 0.5 - size / 2) / scale)));
      out[q] = out[q + 1] = out[q + 2] = plane.data[sy * plane.stride + sx];
      out[q + 3] = 255;
    }
  }
  return out;
}

export type SpotQualityApi = LookWorker;
Comlink.expose(new LookWorker());
