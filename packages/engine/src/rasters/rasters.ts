import { paintStrokes, withEdge, type Raster, type RasterEdge } from '@lurn/core/compose';
import type { RasterSource } from '@lurn/model';
import { pictureOf } from './picture-process.js';
import { drawText } from './text.js';

/** Where the file of an asset is, by its hash; null where it has gone. */
export type AssetPath = (hash: string) => string | null | Promise<string | null>;

/** Makes what a layer shows; null where its file has gone. @throws LurnError `bad-picture` */
export async function makeRaster(source: RasterSource, assets: AssetPath): Promise<Raster | null> {
  const make = MAKERS[source.kind] as (source: RasterSource, assets: AssetPath) => Promise<Raster | null>;
  return make(source, assets);
}

const MAKERS: {
  readonly [K in RasterSource['kind']]: (
    source: Extract<RasterSource, { kind: K }>,
    assets: AssetPath,
  ) => Raster | null | Promise<Raster | null>;
} = {
  strokes: ({ strokes, box, scale }) => paintStrokes(strokes, box, scale),
  // Each of its frames is one, which is made when it is drawn.
  film: () => null,
  text: (source) => edged(drawText(source.text, source.style), source),
  asset: async (source, assets) => {
    const path = await assets(source.hash);
    return path === null ? null : edged(await pictureOf(path), source);
  },
};

function edged(raster: Raster, { edge, side }: { readonly edge: RasterEdge; readonly side: number }): Raster {
  if (side === 0) return raster;
  // What was told in pixels of the frame, in those of the raster.
  const scaleOf = ({ width, height }: Raster) => Math.sqrt(width * height) / side;
  const widest = Math.max(Math.abs(edge.grow), edge.soften, edge.blur);
  // Where it is shown so small that its edge is wider than itself, fewer samples show the same.
  const excess = (widest * scaleOf(raster)) / WIDEST_EDGE;
  const small = excess > 1 ? shrunk(raster, excess) : raster;
  const scale = widest > 0 ? Math.min(scaleOf(small), WIDEST_EDGE / widest) : 0;
  return withEdge(small, { grow: edge.grow * scale, soften: edge.soften * scale, blur: edge.blur * scale });
}

/** Samples that an edge is wide at the most. */
const WIDEST_EDGE = 128;

/** A raster with fewer samples a side, each the mean of those that it stands for. @param by  more than 1 */
function shrunk(raster: Raster, by: number): Raster {
  const [width, height] = [raster.width, raster.height].map((n) => Math.max(1, Math.floor(n / by)));
  const data = new Uint8Array(4 * width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [x0, x1] = [x, x + 1].map((n) => Math.floor((n * raster.width) / width));
      const [y0, y1] = [y, y + 1].map((n) => Math.floor((n * raster.height) / height));
      for (let c = 0; c < 4; c++) {
        let sum = 0;
        for (let v = y0; v < y1; v++)
          for (let u = x0; u < x1; u++) sum += raster.data[4 * (v * raster.width + u) + c];
        data[4 * (y * width + x) + c] = Math.round(sum / ((x1 - x0) * (y1 - y0)));
      }
    }
  return { width, height, data };
}

/** All that a document's layers show, by key, in memory that threads share; what has gone is left out. */
export async function makeRasters(
  sources: readonly RasterSource[],
  assets: AssetPath,
): Promise<Map<string, Raster>> {
  const out = new Map<string, Raster>();
  for (const source of sources) {
    if (out.has(source.key)) continue;
    const raster = await makeRaster(source, assets);
    if (raster) out.set(source.key, shared(raster));
  }
  return out;
}

function shared(raster: Raster): Raster {
  const data = new Uint8Array(new SharedArrayBuffer(raster.data.length));
  data.set(raster.data);
  return { ...raster, data };
}
