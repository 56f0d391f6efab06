import type { Doubt } from '@lurn/core/doubt';
import type { AreaKind, Point } from '@lurn/core/geometry';
import type { Suggestion, Track } from '@lurn/core/track';
import type { Span } from './view';

/** What a drawn shape is to be: an area, features that go together, a surface, or one more outline of one. */
export type DrawnKind = AreaKind | 'regroup' | 'surface' | 'soft' | 'hole' | 'more' | 'less' | LayerDrawn;

/** ... or what a layer is limited to. */
export type LayerDrawn = 'shape' | 'conceal' | 'tint' | 'inside' | 'in-front';

/** How strokes are painted. */
export interface Brush {
  readonly tool: 'brush' | 'clone' | 'eraser';
  readonly colour: string;
  readonly size: number;
  readonly hardness: number;
  readonly flow: number;
  readonly on: 'all' | 'onwards' | 'one';
}

/** Where cloned strokes take their picture from: a place of the layer's own frame, and the frame it is looked at on. */
export interface CloneSource {
  readonly x: number;
  readonly y: number;
  readonly frame: number;
}

/** The tool in the hand: which, and what it has been told. */
export type ToolInHand =
  | { readonly id: 'mark' }
  | { readonly id: 'rectangle' }
  | { readonly id: 'hold' }
  | { readonly id: 'area'; readonly kind: DrawnKind; readonly box?: boolean }
  | { readonly id: 'paint' }
  /** Points of a mesh: put, chosen, moved, cut. */
  | { readonly id: 'points' }
  /** Makes a mesh of what hangs together by its colour. */
  | { readonly id: 'by-colour' }
  /** Takes a colour for a matte, by its id, for the tint that the layer is (null), or for the brush. */
  | { readonly id: 'pick'; readonly layer: string; readonly matte: string | null }
  | { readonly id: 'by-hand'; readonly step: number }
  | { readonly id: 'carry-on'; readonly spot: string };

/** A suggestion that has been followed already: on so many frames of the range. */
export interface Followed extends Suggestion {
  readonly life: number;
  readonly of: number;
}

/** What is chosen, and what is done with it. */
export interface SelectionSlice {
  /** Ids of spots and surfaces. */
  readonly selected: readonly string[];
  /** Points of the selected mesh that are chosen, by their numbers. */
  readonly points: readonly number[];
  /** How far, in pixels, those about a point that is moved move with it. */
  readonly meshBrush: number;
  /** Tracks the selected spots alone instead of all that have a sample. */
  readonly onlySelected: boolean;
  /** Frames chosen on the ribbons. */
  readonly span: Span | null;
  /** The doubt that is being looked at. */
  readonly doubtAt: Doubt | null;
  /** The id of an area. */
  readonly area: string | null;
  /** The id of a layer. */
  readonly layer: string | null;
  /** A layer's shape that is changed on a frame is keyed there, instead of changing everywhere. */
  readonly keying: boolean;
  readonly cloneFrom: CloneSource | null;
  /** The layer, a graphic, that strokes are cloned from in the picture's place; null for the picture. */
  readonly clonePlate: string | null;
  readonly brush: Brush;
  /** A stroke that is being painted, in picture pixels as shot. */
  readonly stroke: readonly (readonly [number, number, number])[];
  /** Corners of an area that is being drawn, in picture pixels. */
  readonly drawing: readonly Point[];
  /** What was drawn waits for a word of what it goes with. */
  readonly drawn: boolean;
  readonly tool: ToolInHand;
  readonly suggestions: readonly (Suggestion & Partial<Followed> & { readonly frame: number })[];
  /** A rectangle being drawn: left, top, right, bottom in picture pixels. */
  readonly rectangle: readonly [number, number, number, number] | null;
  /** A change of a track that is shown before it is applied. */
  readonly preview: { readonly spot: string; readonly track: Track } | null;
}

export const BLANK_SELECTION = {
  selected: [],
  points: [],
  meshBrush: 0,
  onlySelected: false,
  span: null,
  doubtAt: null,
  area: null,
  layer: null,
  keying: false,
  cloneFrom: null,
  clonePlate: null,
  brush: { tool: 'brush', colour: '#ffffff', size: 24, hardness: 0.6, flow: 1, on: 'all' },
  stroke: [],
  drawing: [],
  drawn: false,
  tool: { id: 'mark' },
  suggestions: [],
  rectangle: null,
  preview: null,
} as const satisfies SelectionSlice;
