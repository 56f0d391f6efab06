import { Comlink } from './comlink';
import {
  between,
  chain,
  decomposeSimilarity,
  invert,
  multiply,
  scaling,
  type Matrix3,
  type Point,
  type SimilarityParts,
  type Warp,
} from '@lurn/core/geometry';
import { gridOver, PathMeter } from '@lurn/core/measure';
import { createPlane, halvedPlane } from '@lurn/core/picture';
import { warpPlane } from '@lurn/core/warp';
import { FrameReader, type ClipFile } from '@lurn/media';

/** What is left of the shake, measured on the pictures themselves. */
export interface PictureMeasure {
  readonly from: number;
  /** The courses of the picture as shot and as steadied: pixels, radians, log of scale, about its middle. */
  readonly before: PartsPath;
  readonly after: PartsPath;
  /** What they stray from the wanted course by. */
  readonly strayBefore: PartsPath;
  readonly strayAfter: PartsPath;
}

/** Null where the thing was hidden. */
type PartsPath = readonly (SimilarityParts | null)[];

export interface MeasureRequest {
  readonly from: number;
  readonly to: number;
  /** Steadied picture to source pixels of each frame of the range. */
  readonly toSource: readonly Warp[];
  /** Where the wanted motion takes the picture of the reference frame, as shot and as steadied. */
  readonly wanted: readonly (readonly [Matrix3, Matrix3])[];
  /** Where the solved motion takes it: where to look. */
  readonly expected: readonly (readonly [Matrix3, Matrix3])[];
  /** False for frames on which the thing was hidden. */
  readonly seen: readonly boolean[];
  /** Where the held thing is looked at, in each frame as shot and as steadied. */
  readonly places: readonly (readonly [readonly Point[], readonly Point[]])[];
}

/** Pictures are measured at half the size, or half of that, until they are no wider: a few hundredths of a pixel. */
const WIDEST = 960;
/** Fewer places than this in a picture tell nothing: then the whole of it is looked at. */
const FEWEST = 8;

class MeasureWorker {
  private reader: FrameReader | null = null;

  async open(file: ClipFile): Promise<void> {
    this.reader = await FrameReader.open(file, { cacheBytes: 60e6, readAhead: 6 });
  }

  /** To stop it, end the worker. */
  async measure(
    request: MeasureRequest,
    onProgress: (done: number, total: number) => void,
  ): Promise<PictureMeasure> {
    const { from, to, toSource, wanted, expected, seen, places } = request;
    const [before, after] = [new PathMeter(), new PathMeter()];
    let level = 0;
    let middle: Point = { x: 0, y: 0 };
    for (let frame = from; frame <= to; frame++) {
      onProgress(frame - from, to - from + 1);
      const i = frame - from;
      if (!seen[i]) {
        before.skip();
        after.skip();
        continue;
      }
      const luma = await this.reader!.luma(frame);
      while (luma.width / 2 ** level > WIDEST) level++;
      const small = halvedPlane(luma, level);
      middle = { x: small.width / 2, y: small.height / 2 };
      const shrunk = (m: Matrix3) => chain(scaling(0.5 ** level), m, scaling(2 ** level));
      const steadied = createPlane(small.width, small.height);
      const size = 2 ** level;
      warpPlane(small, steadied, between(scaling(1 / size), toSource[i], scaling(size)), 'stretched');
      const inside = (points: readonly Point[]) => {
        const { width, height } = small;
        const near = points
          .map((p) => ({ x: p.x / 2 ** level, y: p.y / 2 ** level }))
          .filter((p) => p.x > MARGIN && p.y > MARGIN && p.x < width - MARGIN && p.y < height - MARGIN);
        return near.length >= FEWEST ? near : gridOver(0, 0, width, height);
      };
      before.add(small, inside(places[i][0]), shrunk(expected[i][0]));
      after.add(steadied, inside(places[i][1]), shrunk(expected[i][1]));
    }
    const size = 2 ** level;
    const told = (m: Matrix3 | null) => {
      if (!m) return null;
      const p = decomposeSimilarity(m, middle);
      return { ...p, x: p.x * size, y: p.y * size };
    };
    const stray = ({ matrices }: PathMeter, side: 0 | 1) => {
      const first = Math.max(
        0,
        matrices.findIndex((m) => m !== null),
      );
      return matrices.map((m, i) => {
        const course = multiply(wanted[i][side], invert(wanted[first][side]));
        return told(m && multiply(m, invert(chain(scaling(1 / size), course, scaling(size)))));
      });
    };
    return {
      from,
      before: before.matrices.map(told),
      after: after.matrices.map(told),
      strayBefore: stray(before, 0),
      strayAfter: stray(after, 1),
    };
  }
}

/** A patch has to lie in the picture, at the measured size. */
const MARGIN = 12;

export type MeasureApi = MeasureWorker;
Comlink.expose(new MeasureWorker());
