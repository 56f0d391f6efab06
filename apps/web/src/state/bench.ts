import { create } from 'zustand';
import { useRef } from 'react';
import { orderDoubts, sameDoubt } from '@lurn/core/doubt';
import type { ClipSummary } from '@lurn/model';
import { BLANK_DERIVED, type DerivedSlice } from './slices/derived';
import { BLANK_JOBS, type JobsSlice } from './slices/jobs';
import { BLANK_PLAYHEAD, type PlayheadSlice } from './slices/playhead';
import { BLANK_SELECTION, type SelectionSlice } from './slices/selection';
import { BLANK_SESSION, type SessionSlice } from './slices/session';
import { BLANK_VIEW, type Layout, type ViewSlice } from './slices/view';
import { STATIONS, type StationId } from './stations';
import { showsAt } from './stations';

export type { Tracking } from './slices/jobs';
export type { Brush, CloneSource, DrawnKind, LayerDrawn, ToolInHand } from './slices/selection';
export type { Saving } from './slices/session';
export { GUIDES, LAYOUTS, type Camera, type Guides, type Layout, type Part, type Span } from './slices/view';
export { STATIONS, type StationId } from './stations';

/** Everything about the open Bench that is not part of the shot: not undone, kept per browser where it helps. */
export type BenchState = SessionSlice & PlayheadSlice & ViewSlice & SelectionSlice & DerivedSlice & JobsSlice;

const BLANK = {
  ...BLANK_SESSION,
  ...BLANK_PLAYHEAD,
  ...BLANK_VIEW,
  ...BLANK_SELECTION,
  ...BLANK_DERIVED,
  ...BLANK_JOBS,
};

export const useBench = create<BenchState>()(
  () => ({ ...BLANK, times: new Float64Array(1) }) as unknown as BenchState,
);
/** Some parts of the Bench's state: a component is drawn again when one of them changes, not with every frame. */
export function useBenchParts<K extends keyof BenchState>(...keys: readonly K[]): Pick<BenchState, K> {
  // Asked with every change of the Bench by every component: nothing is made unless one of the parts has changed.
  const last = useRef<Pick<BenchState, K> | null>(null);
  return useBench((s) => {
    const before = last.current;
    if (before && keys.every((key) => Object.is(before[key], s[key]))) return before;
    return (last.current = Object.fromEntries(keys.map((key) => [key, s[key]])) as Pick<BenchState, K>);
  });
}

export const bench = () => useBench.getState();

/** Changes some of the state; what follows from it at once (the layout of a station) goes with it. */
export function setBench(change: Partial<BenchState>): void {
  useBench.setState((before) => {
    // Points are chosen of the mesh that is selected.
    if (change.selected && !change.points && change.selected[0] !== before.selected[0])
      change = { ...change, points: [] };
    const next = { ...before, ...change };
    if (!('station' in change || 'steady' in change || 'layouts' in change)) return change;
    return { ...change, layout: change.layout ?? layoutOf(next) };
  });
}

/**
 * How the pictures are shown at a station: as was chosen there, else the source alone while something is marked or
 * nothing is steadied, and both from then on.
 */
export function layoutOf({
  station,
  layouts,
  steady,
}: Pick<BenchState, 'station' | 'layouts' | 'steady'>): Layout {
  return layouts[station] ?? (showsAt(station).places || !steady ? 'source' : 'both');
}

/** Chooses how the pictures are shown, at this station from now on. */
export function chooseLayout(layout: Layout): void {
  const { layouts, station } = bench();
  setBench({ layouts: { ...layouts, [station]: layout } });
}

/** Puts the doubts of spots or edges in place of their old ones; the one that is looked at stays so if it is there. */
export function setDoubts(change: Partial<Pick<BenchState, 'spotDoubts' | 'edgeDoubts'>>): void {
  const { spotDoubts, edgeDoubts, doubtAt: looked } = { ...bench(), ...change };
  const doubts = orderDoubts([...spotDoubts, ...edgeDoubts]);
  const doubtAt = (looked && doubts.find((d) => sameDoubt(d, looked))) ?? null;
  setBench({ spotDoubts, edgeDoubts, doubts, doubtAt });
}

/** What is remembered of a shot's Bench in this browser. */
const REMEMBERED = [
  'frame',
  'selected',
  'station',
  'layouts',
  'wipe',
  'camera',
  'crosshair',
  'guides',
  'trails',
  'motionCurves',
  'muted',
  'gridCheck',
] as const;
type Remembered = Pick<BenchState, (typeof REMEMBERED)[number]>;
const keyOf = (clipId: string) => `lurn.bench.${clipId}`;

export function openBench(clip: ClipSummary, times: Float64Array, revision: number): () => void {
  const info = clip.info!;
  const kept = remembered(clip.id, info.frames);
  const opened = {
    ...BLANK,
    camera: { scale: null, x: info.width / 2, y: info.height / 2 },
    ...kept,
    shown: kept.frame ?? 0,
    clip,
    info,
    times,
    savedRevision: revision,
  };
  useBench.setState({ ...opened, layout: layoutOf(opened) });
  return useBench.subscribe((now, before) => {
    const moving = now.playing || now.tracking !== null;
    const stopped = (before.playing || before.tracking !== null) && !moving;
    if (moving || (!stopped && REMEMBERED.every((key) => now[key] === before[key]))) return;
    const keep = Object.fromEntries(REMEMBERED.map((key) => [key, now[key]]));
    localStorage.setItem(keyOf(clip.id), JSON.stringify(keep));
  });
}

/** Stations as earlier pages called them. */
const FORMER: Readonly<Record<string, StationId>> = { spots: 'mark', render: 'handOver' };

function remembered(clipId: string, frames: number): Partial<Remembered> {
  try {
    const stored = JSON.parse(localStorage.getItem(keyOf(clipId)) ?? '{}') as Record<string, unknown>;
    const known = REMEMBERED.filter((key) => key in stored).map((key) => [key, stored[key]]);
    const kept = Object.fromEntries(known) as Partial<Remembered>;
    const told = String(kept.station);
    const station = STATIONS.find((s) => s.id === told)?.id ?? FORMER[told] ?? 'mark';
    const valid = Number.isInteger(kept.frame) && kept.frame! >= 0 && kept.frame! < frames;
    return { ...kept, station, ...(!valid && { frame: 0 }) };
  } catch {
    return {};
  }
}

export function goTo(frame: number): void {
  const last = bench().info.frames - 1;
  const next = Math.min(last, Math.max(0, Math.round(frame)));
  if (next !== bench().frame) setBench({ frame: next });
}
