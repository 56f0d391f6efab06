import type { Corners4 } from '../trackers/index.js';
import type { LayerOutline, PickedRange, Rides } from './base.js';
import type { TextStyle } from './kinds.js';

/** What new layers are until told otherwise. */

export const ON_FRAME: Rides = { on: 'frame', id: '', rotation: true, scale: true };

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

export const NEW_EDGE = { grow: 0, soften: 0, blur: 0 } as const;

export const NEW_TEXT_STYLE: TextStyle = {
  font: 'Hanken Grotesk',
  weight: 700,
  colour: '#ffffff',
  align: 'middle',
  outline: 0,
  outlineColour: '#000000',
};

export const NEW_CONCEAL = { kind: 'conceal', how: 'blur', size: 12, colour: '#000000', margin: 8 } as const;

export const NEW_TINT = {
  kind: 'tint',
  hue: 0,
  saturation: 1,
  lightness: 0,
  exposure: 0,
  colours: null,
} as const;

/** A range of colours about one that nobody has picked yet. */
export const NEW_RANGE: PickedRange = { colour: '#808080', reach: 0.15, soften: 0.1, brightness: false };

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
