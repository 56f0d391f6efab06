import * as Comlink from 'comlink';
import {
  chain,
  createPlane,
  decomposeSimilarity,
  gridOver,
  PathMeter,
  scaling,
  warpPlane,
  type Matrix3,
  type Plane,
  type Point,
  type SimilarityParts,
} from '@lurn/core';
import { FrameReader, type ClipFile } from '@lurn/media';

/** What is left of the shake, measured on the pictures themselves. */
export interface Measured {
  readonly from: number;
  /** The courses of the picture as shot and as steadied: pixels, radians, log of scale, about its middle. */
  readonly before: readonly SimilarityParts[];
  readonly after: readonly SimilarityParts[];
}

export interface MeasureRequest {
  readonly from: number;
  readonly to: number;
  /** Steadied picture to source pixels of each frame of the range. */
  readonly toSource: readonly Matrix3[];
  /** What is looked at, in each frame as shot and as steadied: left, top, width, height; null for the whole frame. */
  readonly subject: readonly (readonly [Box, Box])[] | null;
}

export type Box = readonly [number, number, number, number];

/** Pictures are measured at this width: a few hundredths of a pixel, and quick enough. */
const WIDTH = 640;

class MeasureWorker {
  private reader: FrameReader | null = null;
  private stopped = false;

  async open(file: ClipFile): Promise<void> {
    this.reader = await FrameReader.open(file, { cacheBytes: 60e6, readAhead: 6 });
  }

  stop(): void {
    this.stopped = true;
  }

  /** @returns null when it was stopped */
  async measure(
    request: MeasureRequest,
    onProgress: (done: number, total: number) => void,
  ): Promise<Measured | null> {
    this.stopped = false;
    const { from, to, toSource, subject } = request;
    const meters = [new PathMeter(), new PathMeter()];
    let scale = 1;
    let middle: Point = { x: 0, y: 0 };
    for (let frame = from; frame <= to; frame++) {
      const luma = await this.reader!.luma(frame);
      if (this.stopped) return null;
      scale = Math.min(1, WIDTH / luma.width);
      const small = { width: Math.round(luma.width * scale), height: Math.round(luma.height * scale) };
      middle = { x: small.width / 2, y: small.height / 2 };
      const grow = scaling(luma.width / small.width, luma.height / small.height);
      [grow, chain(toSource[frame - from], grow)].forEach((matrix, k) => {
        const box = subject?.[frame - from][k] ?? [0, 0, luma.width, luma.height];
        const [x, y, w, h] = box.map((v) => v * scale);
        meters[k].add(drawn(luma, small, matrix), gridOver(x, y, w, h));
      });
      onProgress(frame - from + 1, to - from + 1);
    }
    const told = (meter: PathMeter) =>
      meter.matrices.map((m) => {
        const p = decomposeSimilarity(m, middle);
        return { ...p, x: p.x / scale, y: p.y / scale };
      });
    return { from, before: told(meters[0]), after: told(meters[1]) };
  }
}

function drawn(luma: Plane, { width, height }: { width: number; height: number }, matrix: Matrix3): Plane {
  const out = createPlane(width, height);
  warpPlane(luma, out, matrix, 'stretched');
  return out;
}

export type MeasureApi = MeasureWorker;
Comlink.expose(new MeasureWorker());
