import { innerOf, paintStrokes, withEdge, type Raster, type RasterEdge } from '@lurn/core';
import type { RasterSource } from '@lurn/model';
import { readPicture } from './picture-file.js';
import { drawText } from './text.js';

/** Where the file of an asset is, by its hash; null where it has gone. */
export type AssetPath = (hash: string) => string | null | Promise<string | null>;

/** Makes what a layer shows; null where its file has gone. @throws LurnError `bad-picture` */
export async function makeRaster(source: RasterSource, assets: AssetPath): Promise<Raster | null> {
  switch (source.kind) {
    case 'strokes':
      return paintStrokes(source.strokes, source.box, source.scale);
    // Each of its frames is one, which is made when it is drawn.
    case 'film':
      return null;
    case 'text':
      return edged(drawText(source.text, source.style), source);
    case 'asset': {
      const path = await assets(source.hash);
      return path === null ? null : edged(await readPicture(path), source);
    }
  }
}

function edged(raster: Raster, { edge, side }: { readonly edge: RasterEdge; readonly side: number }): Raster {
  if (side === 0) return raster;
  const { width, height } = innerOf(raster);
  // What was told in pixels of the frame, in those of the raster.
  const scale = Math.sqrt(width * height) / side;
  return withEdge(raster, { grow: edge.grow * scale, soften: edge.soften * scale, blur: edge.blur * scale });
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
