import { boxOfStrokes, paintStrokes, type Raster, type SceneLayer, type Stroke } from '@lurn/core/compose';
import { IDENTITY, matrixWarp, rectangle } from '@lurn/core/geometry';
import { randomNumbers } from '../packages/core/src/testing/footage.js';

/** Three layers as an editor may lay them on a picture: a graphic, something concealed, and 200 strokes of paint. */
export function workThatRides(w: number, h: number): { layers: SceneLayer[]; rasters: Map<string, Raster> } {
  const random = randomNumbers(5);
  const strokes = Array.from({ length: 200 }, (): Stroke => {
    const [x, y] = [w * (0.1 + 0.3 * random()), h * (0.55 + 0.3 * random())];
    return {
      ...{ tool: 'brush', colour: [200, 180, 60], size: 18, hardness: 0.6, flow: 0.8 },
      points: Array.from({ length: 8 }, (_, i) => [x + 9 * i, y + 12 * random(), 1] as const),
    };
  });
  const box = boxOfStrokes(strokes)!;
  const graphic: Raster = { width: 800, height: 400, data: new Uint8Array(800 * 400 * 4).fill(200) };
  const toOwn = matrixWarp(IDENTITY);
  const common = { toOwn, opacity: 1, blend: 'normal', grain: 0, mattes: [] } as const;
  const round = Array.from({ length: 12 }, (_, i) => ({
    x: w * 0.7 + w * 0.06 * Math.cos((i / 6) * Math.PI),
    y: h * 0.6 + w * 0.06 * Math.sin((i / 6) * Math.PI),
  }));
  const matte = {
    kind: 'outline',
    outline: { points: round, grow: 0, soften: 8 },
    toOwn,
    outside: false,
  } as const;
  return {
    layers: [
      {
        ...{ ...common, id: 'graphic' },
        content: { kind: 'raster', raster: 'g', corners: rectangle(w * 0.4, h * 0.2, w * 0.7, h * 0.45) },
      },
      { ...common, id: 'conceal', content: { kind: 'blurred', radius: 14 }, mattes: [[matte]] },
      {
        ...{ ...common, id: 'paint' },
        content: {
          ...{ kind: 'raster', raster: 's' },
          corners: rectangle(box.left, box.top, box.left + box.width, box.top + box.height),
        },
      },
    ],
    rasters: new Map(
      (
        [
          ['g', graphic],
          ['s', paintStrokes(strokes, box, 2)],
        ] as const
      ).map(([key, raster]) => {
        const data = new Uint8Array(new SharedArrayBuffer(raster.data.length));
        data.set(raster.data);
        return [key, { ...raster, data }];
      }),
    ),
  };
}
