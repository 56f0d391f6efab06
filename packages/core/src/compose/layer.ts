import { quadToQuad, rectangle, type Quad } from '../geometry/homography.js';
import type { Matrix3, Point } from '../geometry/matrix.js';
import type { Warp } from '../geometry/warp.js';
import type { Rgb } from '../picture/rgb.js';
import type { Blend } from './blend.js';

/** A closed outline in pixels of the frame that it was drawn on, and how its edge runs. */
export interface Outline {
  readonly points: readonly Point[];
  /** Pixels that it is made larger by; smaller where negative. */
  readonly grow: number;
  /** Pixels over which it fades. */
  readonly soften: number;
}

/** A range of colours: near one, as far as `reach`, and fading out over `soften`; both 0 to 1 of the way from black to white. */
export interface ColourRange {
  readonly colour: Rgb;
  readonly reach: number;
  readonly soften: number;
  /** True: how bright it is counts alone. */
  readonly brightness: boolean;
}

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

/** What a layer is limited to. */
export type SceneMatte =
  | {
      readonly kind: 'outline';
      readonly outline: Outline;
      /** Pixels of the scene to those of the frame that the outline was drawn on. */
      readonly toOwn: Warp;
      /** True: the layer is shown beyond it, and not inside. */
      readonly outside: boolean;
    }
  | { readonly kind: 'key'; readonly range: ColourRange; readonly outside: boolean }
  | {
      /** What differs from a frame on which nothing is in the way: what passes in front. */
      readonly kind: 'difference';
      readonly frame: number;
      /** Pixels of the scene to source pixels of that frame. */
      readonly toPicture: Warp;
      /** From which difference on something is in front, and over how much more it comes to be so; of the way to white. */
      readonly reach: number;
      readonly soften: number;
      readonly outside: boolean;
    };

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

/** A raster in red, green, blue and alpha, eight bits each, multiplied by alpha, row by row. */
export interface Raster {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array;
  /** The rectangle of its samples that its corners stand for, where it reaches beyond; all of it when left out. */
  readonly inner?: {
    readonly left: number;
    readonly top: number;
    readonly width: number;
    readonly height: number;
  };
}

/** By which a film is asked for, or one of its frames. @param hash  of its file, or what this gave for it */
export function filmKey(hash: string, frame?: number): string {
  const film = hash.startsWith(FILM) ? hash : FILM + hash;
  return frame === undefined ? film : `${film}#${frame}`;
}

const FILM = 'film ';

/** The film's key and the frame that a raster's key stands for; null for any other raster. */
export function filmOf(key: string): { readonly film: string; readonly frame: number } | null {
  if (!key.startsWith(FILM)) return null;
  const [film, frame] = key.split('#');
  return frame === undefined ? null : { film, frame: Number(frame) };
}

/** What of a raster its corners stand for. */
export function innerOf({ width, height, inner }: Raster): NonNullable<Raster['inner']> {
  return inner ?? { left: 0, top: 0, width, height };
}

/** Places of a layer's own frame to those of a raster whose corners lie there; null where they are no view of a plane. */
export function toRaster(raster: Raster, corners: Quad): Matrix3 | null {
  const { left, top, width, height } = innerOf(raster);
  return quadToQuad(corners, rectangle(left, top, left + width, top + height));
}
