import type { ColourRange, LookContent, LookOutline } from '@lurn/core/compose';
import type { Point } from '@lurn/core/geometry';
import type { Fault } from '../trackers/tracker-rules.js';
import type { Asset } from './asset.js';
import type { LayerBase } from './base.js';
import type { LayerOutline } from './layer-outline.js';
import type { RasterSource } from './raster-source.js';

type Pair = readonly [number, number];

/** What is drawn of a layer on some of its frames. */
export interface ShownContent {
  readonly content: LookContent;
  readonly span: { readonly from: number; readonly to: number };
  /** Of this part alone. */
  readonly middle?: Point;
}

/** What shows a layer. */
export interface ShownLayer {
  readonly content: readonly ShownContent[];
  readonly rasters: readonly RasterSource[];
  readonly outline: LookOutline | null;
  /** What it turns and grows about. */
  readonly middle: Point;
  /** Pixels by which it grows at most where its ride is less sure. */
  readonly margin: number;
}

/** What a document asks of each kind of layer, besides what its class says of its fields. */
export interface LayerRules<L> {
  /** What one that is drawn as a closed shape begins as, and over how many pixels its edge fades then. */
  readonly drawn?: { readonly soften: number; layer(common: LayerBase, outline: LayerOutline): L };
  /** False where it works on the pictures below it itself: there is nothing to blend. */
  readonly blends: boolean;
  show(layer: L, assets: readonly Asset[]): ShownLayer;
  /** With each place of it, in pixels of its own frame, moved. */
  moved(layer: L, move: (place: Pair) => Pair): Partial<L>;
  /** The hashes of the files that it shows, and the paths of the fields that name them. */
  files(layer: L): readonly (readonly [path: string, hash: string])[];
  /** The frames that it names, and the paths of the fields that do. */
  frames?(layer: L): readonly (readonly [path: string, frame: number])[];
  /** What else is wrong with it. */
  fault?(layer: L): Fault | null;
  /** The colours that it takes hold of alone; null for all. */
  colours?(layer: L): ColourRange | null;
}

export const ALWAYS = { from: 0, to: Infinity };
