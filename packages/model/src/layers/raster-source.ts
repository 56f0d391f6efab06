import { filmKey, type RasterEdge, type Stroke, StrokeBox } from '@lurn/core/compose';
import type { Asset } from './asset.js';
import type { TextStyle } from './text-style.js';

/** What a raster that layers show is made from. */
export type RasterSource =
  | {
      readonly kind: 'asset';
      readonly key: string;
      readonly hash: string;
      /** How its edge runs, in pixels of the frame, where it takes up so many a side. */
      readonly edge: RasterEdge;
      readonly side: number;
    }
  | {
      /** A film: each of its frames is a raster by itself (`filmKey`). */
      readonly kind: 'film';
      readonly key: string;
      readonly hash: string;
      readonly width: number;
      readonly height: number;
      readonly frames: number;
    }
  | {
      readonly kind: 'text';
      readonly key: string;
      readonly text: string;
      readonly style: TextStyle;
      readonly edge: RasterEdge;
      readonly side: number;
    }
  | {
      readonly kind: 'strokes';
      readonly key: string;
      readonly strokes: readonly Stroke[];
      readonly box: StrokeBox;
      /** Pixels of the raster for one of the frame. */
      readonly scale: number;
    };

/** A film, of which every frame is asked for by itself. */
export function filmSource({ hash, width, height, frames }: Asset): RasterSource & { kind: 'film' } {
  return { kind: 'film', key: filmKey(hash), hash, width, height, frames };
}

/** A file as it is. */
export function plainAsset(hash: string): RasterSource {
  return { kind: 'asset', key: `asset ${hash}`, hash, edge: { grow: 0, soften: 0, blur: 0 }, side: 0 };
}
