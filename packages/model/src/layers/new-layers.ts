import type { Corners4 } from '../trackers/index.js';
import type { LayerOutline } from './layer-outline.js';

/** What new layers are until told otherwise. */

export const NEW_LAYER = {
  unknown: 'bridge',
  shown: true,
  range: null,
  opacity: 1,
  keys: [],
  blend: 'normal',
  grain: 0,
  mattes: [],
} as const;

/** A shape as it was drawn on a frame. */
export function drawnOutline(
  frame: number,
  shape: readonly (readonly [number, number])[],
  smooth: boolean,
  soften = 0,
): LayerOutline {
  return { smooth, soften, grow: 0, keys: [{ frame, shape }] };
}

/** A rectangle about a middle. */
export function cornersAbout(x: number, y: number, width: number, height: number): Corners4 {
  const [w, h] = [width / 2, height / 2];
  return [
    [x - w, y - h],
    [x + w, y - h],
    [x + w, y + h],
    [x - w, y + h],
  ];
}
