import type { Quad } from '../geometry/homography.js';
import { translation, type Point } from '../geometry/matrix.js';
import { thenMatrix, type Warp } from '../geometry/warp.js';
import type { Rgb } from '../picture/rgb.js';
import { betweenKeys, type Easing } from '../plan/goals.js';
import type { Blend } from './blend.js';
import type { SceneContent, SceneLayer, Tint } from './layer.js';
import { shownMatte, type LookMatte } from './matte.js';
import { outlineOn, type LookOutline } from './outline.js';
import { filmKey } from './raster.js';
import { carriedTo, onTo, toOwnOf, type Riding, type Seen } from './seen.js';

/** What a layer shows, in places of its own frame. */
export type LookContent =
  | (SceneContent & { readonly kind: 'raster' })
  | { readonly kind: 'plain'; readonly colour: Rgb }
  | {
      readonly kind: 'picture';
      /** The frame that it is taken from, and how far from the painted place, on the layer's own frame. */
      readonly frame: number;
      readonly shift: Point;
      readonly raster: string;
      readonly corners: Quad;
    }
  | {
      readonly kind: 'film';
      /** What its frames are asked for by ({@link filmKey}). */
      readonly film: string;
      readonly corners: Quad;
      /** The frame of it that is seen on the layer's own frame, and how many of it pass for one of the shot. */
      readonly first: number;
      readonly rate: number;
      readonly frames: number;
      /** In step as long as it lasts, round and round, or standing. */
      readonly play: 'step' | 'loop' | 'frozen';
    }
  | { readonly kind: 'blurred'; readonly radius: number }
  | { readonly kind: 'squares'; readonly size: number }
  | { readonly kind: 'tinted'; readonly tint: Tint };

/** How opaque a layer is, and how far it is moved, from a frame on. */
export interface LayerKey {
  readonly frame: number;
  readonly opacity: number;
  /** Pixels of its own frame. */
  readonly x: number;
  readonly y: number;
  readonly easing: Easing;
}

/** Work that rides, as a document tells of it. */
export interface LookLayer extends Riding {
  readonly id: string;
  /** First and last frame on which it is shown, both included. */
  readonly from: number;
  readonly to: number;
  readonly content: LookContent;
  /** What it is limited to by its own shape; null for none. */
  readonly outline: LookOutline | null;
  /** Pixels by which the outline grows at most where the track is not sure. */
  readonly margin: number;
  readonly opacity: number;
  /** In the order of their frames; none: as it is throughout. */
  readonly keys: readonly LayerKey[];
  readonly blend: Blend;
  readonly grain: number;
  readonly mattes: readonly (readonly LookMatte[])[];
}

/** How opaque a layer is on a frame, and how far it is moved. */
export function keyedAt(
  { keys, opacity }: Pick<LookLayer, 'keys' | 'opacity'>,
  frame: number,
): Omit<LayerKey, 'frame' | 'easing'> {
  if (keys.length === 0) return { opacity, x: 0, y: 0 };
  const { a, b, share } = betweenKeys(keys, frame);
  const mixed = (key: 'opacity' | 'x' | 'y') => a[key] + share * (b[key] - a[key]);
  return { opacity: mixed('opacity'), x: mixed('x'), y: mixed('y') };
}

/** A layer as it is seen on a frame; null where it is not. */
export function layerOn(layer: LookLayer, seen: Seen): SceneLayer | null {
  const { frame } = seen;
  if (frame < layer.from || frame > layer.to) return null;
  const { opacity, x, y } = keyedAt(layer, frame);
  const carried = carriedTo(layer, seen);
  const shown = opacity * carried.share;
  if (!(shown > 0)) return null;
  const toOwn = toOwnOf(layer, carried, seen, { x, y });
  if (!toOwn) return null;
  const content = contentOn(layer, toOwn, seen);
  if (!content) return null;
  const mattes = layer.mattes.map((list) => list.flatMap((m) => shownMatte(m, layer, seen) ?? []));
  if (layer.outline) {
    const grow = layer.outline.grow + layer.margin * (1 - carried.confidence);
    const outline = { ...outlineOn(layer.outline, frame), grow };
    mattes.unshift([{ kind: 'outline', outline, toOwn, outside: false }]);
  }
  return {
    id: layer.id,
    content,
    toOwn,
    opacity: shown,
    blend: layer.blend,
    grain: layer.grain,
    mattes,
  };
}

/** What a layer shows on a frame; null where its film is over, or has not begun. */
function contentOn(layer: LookLayer, toOwn: Warp, seen: Seen): SceneContent | null {
  const { content } = layer;
  if (content.kind === 'film') {
    const { film, corners } = content;
    const frame = filmFrame(content, seen.frame - layer.frame);
    return frame === null ? null : { kind: 'raster', raster: filmKey(film, frame), corners };
  }
  if (content.kind !== 'picture') return content;
  const { frame, shift, raster, corners } = content;
  // From the layer's own frame to the lent one, by what it rides on.
  const there = carriedTo(layer, { ...seen, frame });
  const moved = thenMatrix(toOwn, translation(shift.x, shift.y), seen.size);
  return { kind: 'picture', frame, raster, corners, toPicture: onTo(moved, there, seen.size) };
}

/** Which frame of a film is seen so many frames after the layer's own; null for none. */
export function filmFrame(
  { first, rate, frames, play }: Pick<LookContent & { kind: 'film' }, 'first' | 'rate' | 'frames' | 'play'>,
  after: number,
): number | null {
  if (play === 'frozen') return Math.min(first, frames - 1);
  // A hair more, so that a rate that is no whole number never rounds down to the frame before.
  const frame = first + Math.floor(after * rate + 1e-6);
  if (play === 'loop') return ((frame % frames) + frames) % frames;
  return frame >= 0 && frame < frames ? frame : null;
}
