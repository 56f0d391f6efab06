import type { AreaKind, Doubt, Point, Suggestion, Track } from '@lurn/core';
import type { Span } from './view';

/** What a drawn shape is to be: an area, features that go together, a surface, or one more outline of one. */
export type DrawnKind = AreaKind | 'regroup' | 'surface' | 'more' | 'less';

/** The tool in the hand: which, and what it has been told. */
export type ToolInHand =
  | { readonly id: 'mark' }
  | { readonly id: 'rectangle' }
  | { readonly id: 'hold' }
  | { readonly id: 'area'; readonly kind: DrawnKind; readonly box?: boolean }
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
  /** Tracks the selected spots alone instead of all that have a sample. */
  readonly onlySelected: boolean;
  /** Frames chosen on the ribbons. */
  readonly span: Span | null;
  /** The doubt that is being looked at. */
  readonly doubtAt: Doubt | null;
  /** The id of an area. */
  readonly area: string | null;
  /** Corners of an area that is being drawn, in picture pixels. */
  readonly drawing: readonly Point[];
  /** What was drawn waits for a word of what it goes with. */
  readonly drawn: boolean;
  readonly tool: ToolInHand;
  readonly suggestions: readonly (Suggestion & Partial<Followed>)[];
  /** A rectangle being drawn: left, top, right, bottom in picture pixels. */
  readonly rectangle: readonly [number, number, number, number] | null;
  /** A change of a track that is shown before it is applied. */
  readonly preview: { readonly spot: string; readonly track: Track } | null;
}

export const BLANK_SELECTION = {
  selected: [],
  onlySelected: false,
  span: null,
  doubtAt: null,
  area: null,
  drawing: [],
  drawn: false,
  tool: { id: 'mark' },
  suggestions: [],
  rectangle: null,
  preview: null,
} as const satisfies SelectionSlice;
