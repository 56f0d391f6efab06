import { quadToQuad, rectangle, type Quad } from '../geometry/homography.js';
import type { Matrix3 } from '../geometry/matrix.js';

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
