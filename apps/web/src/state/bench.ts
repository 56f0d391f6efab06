import { create } from 'zustand';
import { useShallow } from 'zustand/react/shallow';
import type { Doubt, Grip, GripMap, Point, Steady, Suggestion, Track, Trade } from '@lurn/core';
import type { Measured } from '../workers/measure.worker';
import type { ClipInfo, ClipSummary } from '@lurn/model';

export const STATIONS = ['spots', 'track', 'repair', 'steady', 'frame', 'render'] as const;
export type Station = (typeof STATIONS)[number];
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

export interface Tracking {
  readonly from: number;
  readonly to: number;
  readonly frame: number;
  readonly done: number;
  readonly total: number;
  readonly startedAt: number;
}

/** Frames, both included. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

/** What a press on the picture does instead of placing a spot. */
export type PictureTool =
  | { readonly kind: 'rectangle' }
  | { readonly kind: 'byHand'; readonly step: number }
  | { readonly kind: 'carryOn'; readonly spot: string };

export type Saving = 'saved' | 'saving' | 'unsaved' | 'failed';

/** Everything about the open Bench that is not part of the shot: not undone, kept per browser where it helps. */
export interface BenchState {
  readonly clip: ClipSummary;
  readonly info: ClipInfo;
  readonly times: Float64Array;
  readonly frame: number;
  /** The frame that the picture shows; it may lag behind `frame`. */
  readonly shown: number;
  /** Other frames that the picture is made of are still being read. */
  readonly waiting: boolean;
  readonly playing: boolean;
  readonly selected: readonly string[];
  /** Tracks the selected spots alone instead of all that have a sample. */
  readonly onlySelected: boolean;
  readonly station: Station;
  readonly layout: Layout;
  readonly wipe: number;
  readonly camera: Camera;
  readonly tracking: Tracking | null;
  readonly steady: Steady | null;
  /** A plan is being worked out, and takes a while. */
  readonly planning: boolean;
  /** What less smoothing, or smaller amounts, would save in zoom; null while it is not known. */
  readonly trade: Trade | null;
  /** With borrowed edges: frames of which some part was never seen, and how large a share of the picture. */
  readonly unseen: readonly { readonly frame: number; readonly share: number }[];
  /** What is left of the shake, measured on the pictures; null until it is asked for, or once it is out of date. */
  readonly measured: Measured | null;
  readonly measuring: { readonly done: number; readonly total: number } | null;
  /** Which of the two pictures blinking shows. */
  readonly blinked: boolean;
  /** A cross that stays where it is put, in picture pixels. */
  readonly crosshair: Point | null;
  readonly guides: Guides;
  /** The path of the spots in the steadied picture. */
  readonly trails: boolean;
  /** Components of the motion whose curves are open. */
  readonly motionCurves: boolean;
  readonly numbers: boolean;
  readonly saving: Saving;
  readonly savedRevision: number;
  readonly problem: { readonly code: string; readonly message: string } | null;
  /** Where the magnifier looks, while something is dragged. */
  readonly magnifier: { readonly x: number; readonly y: number; readonly spot: string } | null;
  readonly keySheet: boolean;
  /** Doubts of the spots, and of the edges; `doubts` has all of them, worst first. */
  readonly spotDoubts: readonly Doubt[];
  readonly edgeDoubts: readonly Doubt[];
  /** All doubts, worst first, and which of them is being looked at (its place in the list). */
  readonly doubts: readonly Doubt[];
  readonly doubtAt: number | null;
  /** How far spots lie from where the others put them, in pixels RMS, by id. */
  readonly residuals: Readonly<Record<string, number>>;
  /** Grip by spot id, read where the spot is on the present frame, else on its first pin. */
  readonly grips: Readonly<Record<string, Grip>>;
  readonly suggestions: readonly Suggestion[];
  /** A rectangle being drawn: left, top, right, bottom in picture pixels. */
  readonly rectangle: readonly [number, number, number, number] | null;
  readonly tool: PictureTool | null;
  /** Shows the picture as the tracker sees it. */
  readonly eyeView: boolean;
  readonly showMap: boolean;
  readonly map: GripMap | null;
  /** Keeps the selected spot in the middle of the view. */
  readonly follow: boolean;
  /** Frames chosen on the ribbons. */
  readonly span: Span | null;
  /** The part of the time axis that is shown; null for all of it. */
  readonly timeView: Span | null;
  /** The spot whose curves are open. */
  readonly curvesOf: string | null;
  /** A change of a track that is shown before it is applied. */
  readonly preview: { readonly spot: string; readonly track: Track } | null;
  readonly importing: boolean;
}

const BLANK = {
  frame: 0,
  shown: 0,
  waiting: false,
  playing: false,
  selected: [],
  onlySelected: false,
  station: 'spots',
  layout: 'both',
  wipe: 0.5,
  camera: { scale: null, x: 0, y: 0 },
  tracking: null,
  steady: null,
  planning: false,
  trade: null,
  unseen: [],
  measured: null,
  measuring: null,
  blinked: false,
  crosshair: null,
  guides: 'none',
  trails: true,
  motionCurves: false,
  numbers: false,
  saving: 'saved',
  savedRevision: 0,
  problem: null,
  magnifier: null,
  keySheet: false,
  spotDoubts: [],
  edgeDoubts: [],
  doubts: [],
  doubtAt: null,
  residuals: {},
  grips: {},
  suggestions: [],
  rectangle: null,
  tool: null,
  eyeView: false,
  showMap: false,
  map: null,
  follow: false,
  span: null,
  timeView: null,
  curvesOf: null,
  preview: null,
  importing: false,
} as const satisfies Partial<BenchState>;

export const useBench = create<BenchState>()(
  () => ({ ...BLANK, times: new Float64Array(1) }) as unknown as BenchState,
);
/** Some parts of the Bench's state: a component is drawn again when one of them changes, not with every frame. */
export function useBenchParts<K extends keyof BenchState>(...keys: readonly K[]): Pick<BenchState, K> {
  return useBench(
    useShallow((s) => Object.fromEntries(keys.map((key) => [key, s[key]])) as Pick<BenchState, K>),
  );
}

export const bench = () => useBench.getState();
export const setBench = (change: Partial<BenchState>) => useBench.setState(change);

/** Puts the doubts of spots or edges in place of their old ones; the one that is looked at stays so if it is there. */
export function setDoubts(change: Partial<Pick<BenchState, 'spotDoubts' | 'edgeDoubts'>>): void {
  const { spotDoubts, edgeDoubts, doubts: before, doubtAt } = { ...bench(), ...change };
  const doubts = [...spotDoubts, ...edgeDoubts].sort((a, b) => b.severity - a.severity || a.from - b.from);
  const looked = doubtAt === null ? undefined : before[doubtAt];
  const at = doubts.findIndex(
    (d) =>
      looked &&
      d.spot === looked.spot &&
      d.reason === looked.reason &&
      d.from <= looked.to &&
      looked.from <= d.to,
  );
  setBench({ spotDoubts, edgeDoubts, doubts, doubtAt: at < 0 ? null : at });
}

/** What is remembered of a shot's Bench in this browser. */
const REMEMBERED = [
  'frame',
  'selected',
  'station',
  'layout',
  'wipe',
  'camera',
  'crosshair',
  'guides',
  'trails',
  'motionCurves',
] as const;
type Remembered = Pick<BenchState, (typeof REMEMBERED)[number]>;
const keyOf = (clipId: string) => `lurn.bench.${clipId}`;

export function openBench(clip: ClipSummary, times: Float64Array, revision: number): () => void {
  const info = clip.info!;
  const kept = remembered(clip.id, info.frames);
  useBench.setState({
    ...BLANK,
    camera: { scale: null, x: info.width / 2, y: info.height / 2 },
    ...kept,
    shown: kept.frame ?? 0,
    clip,
    info,
    times,
    savedRevision: revision,
  });
  return useBench.subscribe((now, before) => {
    const stopped = before.playing && !now.playing;
    if (now.playing || (!stopped && REMEMBERED.every((key) => now[key] === before[key]))) return;
    const keep = Object.fromEntries(REMEMBERED.map((key) => [key, now[key]]));
    localStorage.setItem(keyOf(clip.id), JSON.stringify(keep));
  });
}

function remembered(clipId: string, frames: number): Partial<Remembered> {
  try {
    const kept = JSON.parse(localStorage.getItem(keyOf(clipId)) ?? '{}') as Partial<Remembered>;
    const valid = Number.isInteger(kept.frame) && kept.frame! >= 0 && kept.frame! < frames;
    return valid ? kept : { ...kept, frame: 0 };
  } catch {
    return {};
  }
}

export function goTo(frame: number): void {
  const last = bench().info.frames - 1;
  const next = Math.min(last, Math.max(0, Math.round(frame)));
  if (next !== bench().frame) setBench({ frame: next });
}
