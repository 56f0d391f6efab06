import {
  before,
  between,
  codedToUpright,
  invert,
  type Matrix3,
  type Scene,
  type Size,
  type Warp,
} from '@lurn/core';
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
  const turned = (warp: Warp) => between(toCoded, warp, toUpright);
  return {
    sourceSize: coded(width, height),
    outputSize,
    scene: ({ base, layers }) => ({
      size: { width: outputSize[0], height: outputSize[1] },
      base: {
        ...base,
        toSource: turned(base.toSource),
        donors: base.donors.map((d) => ({ ...d, toSource: turned(d.toSource) })),
      },
      layers: layers.map((layer) => ({
        ...layer,
        // A layer's own places stay upright ones.
        toOwn: before(layer.toOwn, toUpright),
        content:
          layer.content.kind === 'picture'
            ? { ...layer.content, toPicture: turned(layer.content.toPicture) }
            : layer.content,
        mattes: layer.mattes.map((list) =>
          list.map((m) => (m.kind === 'outline' ? { ...m, toOwn: before(m.toOwn, toUpright) } : m)),
        ),
      })),
    }),
  };
}
