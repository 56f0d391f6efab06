import type { Point } from '@lurn/core/geometry';
import type { StationId } from '../stations';

export type Layout = 'both' | 'source' | 'steadied' | 'wipe' | 'blink' | 'difference' | 'onion';
export const LAYOUTS: readonly Layout[] = [
  'both',
  'wipe',
  'blink',
  'difference',
  'onion',
  'source',
  'steadied',
];
export const GUIDES = ['none', 'thirds', 'centre'] as const;
export type Guides = (typeof GUIDES)[number];
/** Components of the motion whose curves can be opened. */
export type Part = 'x' | 'y' | 'rotation' | 'logScale';

/** Zoom and pan of the twin view. */
export interface Camera {
  /** Screen pixels a source pixel; null fits the picture into its pane. */
  readonly scale: number | null;
  /** The source place in the middle of the pane. */
  readonly x: number;
  readonly y: number;
}

/** Frames, both included. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

/** What is looked at, and how. */
export interface ViewSlice {
  readonly station: StationId;
  /** How the two pictures are shown now, and what was chosen for it at stations. */
  readonly layout: Layout;
  readonly layouts: Readonly<Partial<Record<StationId, Layout>>>;
  readonly wipe: number;
  readonly camera: Camera;
  /** Which of the two pictures blinking shows. */
  readonly blinked: boolean;
  /** A cross that stays where it is put, in picture pixels. */
  readonly crosshair: Point | null;
  readonly guides: Guides;
  /** The path of the spots in the steadied picture. */
  readonly trails: boolean;
  /** Components of the motion whose curves are open. */
  readonly motionCurves: boolean;
  /** The spot whose curves are open. */
  readonly curvesOf: string | null;
  /** The part of the time axis that is shown; null for all of it. */
  readonly timeView: Span | null;
  /** Shows the picture as the tracker sees it. */
  readonly eyeView: boolean;
  readonly showMap: boolean;
  /** Lays dots over soft surfaces: what swims is seen between them. */
  readonly dots: boolean;
  /** Lays the grid of the selected surface over the picture. */
  readonly gridCheck: boolean;
  /** Shows how well each part of the selected surface fits. */
  readonly misfits: boolean;
  /** Tints the picture by what moves as one. */
  readonly tint: boolean;
  /** Shows the pictures without their layers. */
  readonly bare: boolean;
  /** Shows where a layer's tint, or one of its mattes, takes hold; null for the picture itself. */
  readonly masked: { readonly layer: string; readonly matte: string | null } | null;
  /** Keeps the selected spot in the middle of the view. */
  readonly follow: boolean;
  /** Where the magnifier looks, while something is dragged. */
  readonly magnifier: { readonly x: number; readonly y: number; readonly spot: string } | null;
}

export const BLANK_VIEW = {
  station: 'mark',
  layout: 'source',
  layouts: {},
  wipe: 0.5,
  camera: { scale: null, x: 0, y: 0 },
  blinked: false,
  crosshair: null,
  guides: 'none',
  trails: true,
  motionCurves: false,
  curvesOf: null,
  timeView: null,
  eyeView: false,
  showMap: false,
  gridCheck: true,
  dots: false,
  misfits: false,
  tint: false,
  bare: false,
  masked: null,
  follow: false,
  magnifier: null,
} as const satisfies ViewSlice;
