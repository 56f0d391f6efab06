import { apply } from '../geometry/matrix.js';
import type { Correspondence } from '../geometry/similarity.js';
import type { Size } from '../framing/framing.js';
import { robustSimilarity } from '../measure/shakiness.js';
import { solveMotion } from '../solve/solve-motion.js';
import { sampleAt, trackEnd, withoutSamples, type SampleState, type Track } from './track.js';

export const DOUBT_REASONS = [
  'disagrees',
  'jump',
  'passes-disagree',
  'weak-match',
  'coasted',
  'near-edge',
  'edge-shows',
] as const;
/** Why a place is not trusted. */
export type DoubtReason = (typeof DOUBT_REASONS)[number];

/** A stretch of a spot's path that is not to be trusted, with its reason. */
export interface Doubt {
  /** Empty for a doubt about the picture as a whole. */
  readonly spot: string;
  readonly reason: DoubtReason;
  /** First and last frame, both included. */
  readonly from: number;
  readonly to: number;
  /** The frame on which it is worst. */
  readonly worst: number;
  /** 0 (a trifle) to 1. */
  readonly severity: number;
  /** What was measured, in words. */
  readonly sentence: string;
}

export interface DoubtedSpot {
  readonly id: string;
  readonly name: string;
  readonly group: string;
  readonly patch: readonly [number, number];
  readonly track: Track;
}

/** A doubt that the editor has looked at and found to be fine. */
export type AcceptedDoubt = Pick<Doubt, 'spot' | 'reason' | 'from' | 'to'>;

/** Matches below this confidence are weak. */
export const WEAK = 0.75;
/** A jump is this many times the usual unsteadiness of the path ... */
const JUMP_RATIO = 6;
/** ... and at least so many pixels. */
const LEAST_JUMP = 2.5;
/** A spot disagrees when it lies this many pixels from where the others of its group put it ... */
const LEAST_DISAGREEMENT = 1;
/** ... and so many times farther than they do from each other. */
const DISAGREEMENT_RATIO = 4;
/** Doubtful frames with no more than this between them are one stretch. */
const SAME_STRETCH = 3;

/**
 * The places that are not to be trusted, worst first: found by falling match, by a jump against the motion before
 * and after, by disagreement with the other spots of the group (residual of a robust similarity), by tracking from
 * the other side, by coasting and by nearness to the picture's edge.
 */
export function findDoubts(
  spots: readonly DoubtedSpot[],
  picture: Size,
  accepted: readonly AcceptedDoubt[] = [],
): Doubt[] {
  const residuals = groupResiduals(spots);
  const doubts = spots.flatMap((spot) => [
    ...weakMatches(spot),
    ...coastedStretches(spot),
    ...jumps(spot),
    ...disagreements(spot, residuals.get(spot.id)),
    ...passesApart(spot),
    ...nearEdge(spot, picture),
  ]);
  return doubts
    .filter((d) => !accepted.some((a) => covers(a, d)))
    .sort((a, b) => b.severity - a.severity || a.from - b.from);
}

function covers(a: AcceptedDoubt, d: Doubt): boolean {
  const common = Math.min(a.to, d.to) - Math.max(a.from, d.from) + 1;
  return a.spot === d.spot && a.reason === d.reason && common >= 0.5 * (d.to - d.from + 1);
}

/**
 * Frames on which an edge shows, as doubts, stretch by stretch.
 *
 * @param frames  in order
 * @param badness  how bad a frame is: a share of the picture's size
 * @param tell  what is said of a stretch, given its worst frame
 */
export function edgeDoubts(
  frames: readonly number[],
  badness: (frame: number) => number,
  tell: (worst: number, where: string) => string,
  accepted: readonly AcceptedDoubt[] = [],
): Doubt[] {
  const out: Doubt[] = [];
  for (let i = 0; i < frames.length;) {
    let end = i;
    while (end + 1 < frames.length && frames[end + 1] - frames[end] <= SAME_STRETCH) end++;
    const stretch = frames.slice(i, end + 1);
    const worst = stretch.reduce((a, b) => (badness(b) > badness(a) ? b : a));
    const [from, to] = [stretch[0], stretch[stretch.length - 1]];
    out.push({
      spot: '',
      reason: 'edge-shows',
      from,
      to,
      worst,
      severity: Math.min(1, 0.45 + 5 * badness(worst)),
      sentence: tell(worst, spanWords(from, to)),
    });
    i = end + 1;
  }
  return out.filter((d) => !accepted.some((a) => covers(a, d)));
}

/** How doubtful each frame of a span is: 0 where it is not. */
type Measure = (frame: number) => number;

function stretches(
  { id, track }: DoubtedSpot,
  reason: DoubtReason,
  measure: Measure,
  tell: (worst: number, from: number, to: number) => { severity: number; sentence: string },
): Doubt[] {
  const out: Doubt[] = [];
  let open: { from: number; to: number; worst: number; most: number } | null = null;
  const close = () => {
    if (!open) return;
    const { from, to, worst } = open;
    out.push({ spot: id, reason, from, to, worst, ...tell(worst, from, to) });
    open = null;
  };
  for (let f = track.start; f < trackEnd(track); f++) {
    const value = measure(f);
    if (!(value > 0)) continue;
    if (open && f - open.to > SAME_STRETCH) close();
    open ??= { from: f, to: f, worst: f, most: value };
    open.to = f;
    if (value > open.most) Object.assign(open, { worst: f, most: value });
  }
  close();
  return out;
}

const spanWords = (from: number, to: number) => (from === to ? `frame ${from}` : `frames ${from} to ${to}`);

function weakMatches(spot: DoubtedSpot): Doubt[] {
  const { track } = spot;
  const confidence = (f: number) => track.confidence[f - track.start];
  const measure: Measure = (f) => (sampleAt(track, f)?.state === 'tracked' ? WEAK - confidence(f) : 0);
  return stretches(spot, 'weak-match', measure, (worst, from, to) => ({
    severity: Math.min(1, 0.25 + 0.75 * (1 - confidence(worst) / WEAK)),
    sentence: `The match falls to ${confidence(worst).toFixed(2)} on ${spanWords(from, to)}.`,
  }));
}

function coastedStretches(spot: DoubtedSpot): Doubt[] {
  const measure: Measure = (f) => (sampleAt(spot.track, f)?.state === 'coasted' ? f + 1 : 0);
  return stretches(spot, 'coasted', measure, (_, from, to) => ({
    severity: Math.min(0.9, 0.35 + 0.015 * (to - from + 1)),
    sentence: `Hidden, and predicted, on ${spanWords(from, to)}.`,
  })).map((d) => ({ ...d, worst: Math.round((d.from + d.to) / 2) }));
}

function jumps(spot: DoubtedSpot): Doubt[] {
  const off = unsteadiness(spot.track);
  const usual = median([...off.values()].filter((v) => v > 0)) || 0;
  const limit = Math.max(LEAST_JUMP, JUMP_RATIO * usual);
  const measure: Measure = (f) => Math.max(0, (off.get(f) ?? 0) - limit);
  return stretches(spot, 'jump', measure, (worst) => ({
    severity: Math.min(1, 0.5 + 0.1 * (off.get(worst)! / limit)),
    sentence: `It jumps by ${off.get(worst)!.toFixed(1)} px at frame ${worst}, against the motion before and after.`,
  }));
}

/** How far each sample lies from the middle between its neighbours' courses: half the second difference. */
function unsteadiness(track: Track): Map<number, number> {
  const out = new Map<number, number>();
  for (let f = track.start + 1; f < trackEnd(track) - 1; f++) {
    const [a, b, c] = [sampleAt(track, f - 1), sampleAt(track, f), sampleAt(track, f + 1)];
    if (!a || !b || !c) continue;
    out.set(f, Math.hypot(b.x - (a.x + c.x) / 2, b.y - (a.y + c.y) / 2));
  }
  return out;
}

function disagreements(spot: DoubtedSpot, residual: ReadonlyMap<number, GroupResidual> | undefined): Doubt[] {
  if (!residual) return [];
  const measure: Measure = (f) => {
    const r = residual.get(f);
    return r ? Math.max(0, r.own - Math.max(LEAST_DISAGREEMENT, DISAGREEMENT_RATIO * r.usual)) : 0;
  };
  return stretches(spot, 'disagrees', measure, (worst, from, to) => ({
    severity: Math.min(1, 0.6 + 0.05 * residual.get(worst)!.own),
    sentence: `It lies ${residual.get(worst)!.own.toFixed(1)} px from where the others put it on ${spanWords(from, to)}.`,
  }));
}

function passesApart(spot: DoubtedSpot): Doubt[] {
  const apart: Measure = (f) => spot.track.mismatch[f - spot.track.start] ?? 0;
  return stretches(spot, 'passes-disagree', apart, (worst, from, to) => ({
    severity: Math.min(1, 0.4 + 0.1 * apart(worst)),
    sentence: `Tracked forwards and backwards it differs by ${apart(worst).toFixed(1)} px on ${spanWords(from, to)}.`,
  }));
}

function nearEdge(spot: DoubtedSpot, { width, height }: Size): Doubt[] {
  const [hw, hh] = spot.patch;
  const measure: Measure = (f) => {
    const s = sampleAt(spot.track, f);
    if (!s) return 0;
    return Math.max(0, hw - s.x, s.x + hw - width, hh - s.y, s.y + hh - height);
  };
  return stretches(spot, 'near-edge', measure, (worst, from, to) => ({
    severity: Math.min(0.6, 0.15 + (0.3 * measure(worst)) / Math.max(hw, hh)),
    sentence: `The patch reaches ${measure(worst).toFixed(0)} px beyond the picture on ${spanWords(from, to)}.`,
  }));
}

export interface GroupResidual {
  /** Distance in pixels from where the others put the spot. */
  readonly own: number;
  /** The median of such distances within the group on that frame. */
  readonly usual: number;
}

/**
 * How far each spot lies, frame by frame, from where the others of its group put it: rest positions from a joint
 * solve, then on each frame the similarity that most spots agree on. Groups of fewer than three cannot tell.
 */
export function groupResiduals(spots: readonly DoubtedSpot[]): Map<string, Map<number, GroupResidual>> {
  const out = new Map<string, Map<number, GroupResidual>>();
  for (const name of new Set(spots.map((s) => s.group))) {
    // What was predicted or interpolated is told of as such, and no witness against the others.
    const group = spots
      .filter((s) => s.group === name)
      .map((s) => ({ ...s, track: firmSamples(s.track) }))
      .filter((s) => s.track.state.length > 0);
    if (group.length < 3) continue;
    const end = Math.max(...group.map((s) => trackEnd(s.track)));
    const motion = solveMotion({ frames: end, ref: 0, tracks: group.map((s) => s.track) });
    if (!motion) continue;
    for (const s of group) out.set(s.id, new Map());
    for (let f = 0; f < end; f++) {
      const here = group.flatMap((s, i) => {
        const at = sampleAt(s.track, f);
        const rest = motion.rest[i];
        const pair: Correspondence | null = rest &&
          at && { fromX: rest.x, fromY: rest.y, toX: at.x, toY: at.y, weight: 1 };
        return pair ? [{ id: s.id, pair }] : [];
      });
      const agreed = robustSimilarity(here.map((h) => h.pair));
      if (!agreed) continue;
      const distances = here.map(({ pair }) => {
        const p = apply(agreed, pair.fromX, pair.fromY);
        return Math.hypot(p.x - pair.toX, p.y - pair.toY);
      });
      const usual = median(distances);
      here.forEach(({ id }, k) => out.get(id)!.set(f, { own: distances[k], usual }));
    }
  }
  return out;
}

function firmSamples(track: Track): Track {
  const guessed = (state: SampleState) => state === 'coasted' || state === 'bridged';
  return withoutSamples(track, track.start, trackEnd(track), guessed);
}

function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[sorted.length >> 1] ?? 0;
}
