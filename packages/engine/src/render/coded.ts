import { sceneThrough, type Scene } from '@lurn/core/compose';
import { codedToUpright, invert, type Matrix3 } from '@lurn/core/geometry';
import type { Size } from '@lurn/core/plan';
import type { ClipInfo } from '@lurn/model';

/** Sizes and turns between upright pictures, in which everything is told, and coded ones, which are drawn. */
export interface Coded {
  readonly sourceSize: [number, number];
  readonly outputSize: [number, number];
  /** A scene of upright pictures as one of coded ones. */
  readonly scene: (upright: Scene) => Scene;
}

export function codedFor({ width, height, turns }: ClipInfo, delivery: Size): Coded {
  const coded = (w: number, h: number): [number, number] => (turns % 2 ? [h, w] : [w, h]);
  // H.264 with 4:2:0 has even sizes only: an odd last row or column is cut off.
  const outputSize = coded(delivery.width & ~1, delivery.height & ~1);
  const [ow, oh] = coded(...outputSize);
  const toCoded: Matrix3 = invert(codedToUpright(turns, width, height));
  const toUpright = codedToUpright(turns, ow, oh);
  const size = { width: outputSize[0], height: outputSize[1] };
  return {
    sourceSize: coded(width, height),
    outputSize,
    scene: (upright) => sceneThrough(upright, size, toUpright, toCoded),
  };
}
