import type { Quad } from '../geometry/homography.js';
import type { Warp } from '../geometry/warp.js';
import type { Rgb } from '../picture/rgb.js';
import type { Blend } from './blend.js';
import type { ColourRange } from './colour-range.js';
import type { SceneMatte } from './matte.js';

/** What a tint does to a colour. */
export interface Tint {
  /** Radians about the grey axis, in the plane of the two colour differences. */
  readonly hue: number;
  /** A ratio: 0 takes the colour out. */
  readonly saturation: number;
  /** A share of the way from black to white that is added. */
  readonly lightness: number;
  /** Stops: 1 is twice as much light. */
  readonly exposure: number;
  /** The colours that are changed; null for all. */
  readonly range: ColourRange | null;
}

/** What a layer shows, in places of its own frame. */
export type SceneContent =
  /** A raster: a graphic, a text, painted strokes. */
  | {
      readonly kind: 'raster';
      /** By which the raster is asked for. */
      readonly raster: string;
      /** Where the raster's corners lie on the layer's own frame. */
      readonly corners: Quad;
      /** As much of it as another raster covers; all of it when left out. */
      readonly stencil?: { readonly raster: string; readonly corners: Quad };
      /** True where its colours are codes of the clip itself; a screen's when left out. */
      readonly ofClip?: boolean;
    }
  /** One colour, as far as the mattes reach. */
  | { readonly kind: 'plain'; readonly colour: Rgb }
  /** The picture of a frame, moved: as much of it as the raster covers. */
  | {
      readonly kind: 'picture';
      readonly frame: number;
      /** Pixels of the scene to source pixels of that frame. */
      readonly toPicture: Warp;
      readonly raster: string;
      readonly corners: Quad;
    }
  /** What lies under it, blurred (standard deviation in pixels of its own frame), or in squares of so many pixels. */
  | { readonly kind: 'blurred'; readonly radius: number }
  | { readonly kind: 'squares'; readonly size: number }
  /** What lies under it in other colours. */
  | { readonly kind: 'tinted'; readonly tint: Tint };

/** Work that rides on a picture, where it is on one frame. */
export interface SceneLayer {
  readonly id: string;
  readonly content: SceneContent;
  /** Pixels of the scene to those of the layer's own frame. */
  readonly toOwn: Warp;
  /** 0 to 1. */
  readonly opacity: number;
  readonly blend: Blend;
  /** How grainy it is: standard deviation in grey levels of 255. */
  readonly grain: number;
  /** All of them have to let it through; those that are added to one another stand in one list. */
  readonly mattes: readonly (readonly SceneMatte[])[];
}
