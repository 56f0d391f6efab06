import type { Size } from '../framing/framing.js';
import { medianSorted } from '../numbers.js';
import { solveMotion } from '../solve/solve-motion.js';
import type { SurfaceTrack } from '../surface/surface-track.js';
import {
  hasSample,
  measuredEnd,
  STATES,
  withoutSamples,
  type Measured,
  type SampleState,
} from '../track/measured.js';
import type { Track } from '../track/track.js';

/** Why a place is not trusted. */
export type DoubtReason =
  | 'disagrees'
  | 'jump'
  | 'passes-disagree'
  | 'weak-match'
  | 'coasted'
  | 'near-edge'
  | 'edge-shows'
  | 'held-unseen'
  | 'ride-unknown'
  | 'may-slip'
  | 'turned-over'
  | 'stretched';

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
  /** The id of what it is on. */
  readonly mover: string;
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

/** What is known of the spots' agreement. */
export interface Judgement {
  /** The worst first. */
  readonly doubts: readonly Doubt[];
  /** Root mean square distance in pixels from where the others of its mover put a spot, by id. */
  readonly residuals: Readonly<Record<string, number>>;
}

/**
 * The places that are not to be trusted, worst first: found by falling match, by a jump against the motion before
 * and after, by disagreement with the other spots of the mover (residual of a robust solve), by tracking from
 * the other side, by coasting and by nearness to the picture's edge.
 *
 * Cost: linear in samples; about a second for 500 spots on 3000 frames.
 */
export function judgeSpots(
  spots: readonly DoubtedSpot[],
  picture: Size,
  accepted: readonly AcceptedDoubt[] = [],
): Judgement {
  const agreement = agreementOf(spots);
  const doubts = spots.flatMap((spot) => [
    ...weakMatches(spot),
    ...coastedStretches(spot),
    ...jumps(spot, [spot.track.values]),
    ...disagreements(spot, agreement.get(spot.id)).map((d) => blamed(d, spot, spots)),
    ...passesApart(spot, spot.track.values.mismatch),
    ...nearEdge(spot, picture),
  ]);
  const residuals: Record<string, number> = {};
  for (const [id, { own }] of agreement) {
    const rms = rmsOf(own);
    if (rms !== null) residuals[id] = rms;
  }
  return {
    doubts: doubts
      .filter((d) => !accepted.some((a) => covers(a, d)))
      .sort((a, b) => b.severity - a.severity || a.from - b.from),
    residuals,
  };
}

/** The same of flat surfaces: falling match, coasting, jumps of a corner, and passes that disagree. */
export function judgeSurfaces(
  surfaces: readonly { readonly id: string; readonly track: SurfaceTrack }[],
  accepted: readonly AcceptedDoubt[] = [],
): Doubt[] {
  return surfaces
    .flatMap((surface) => {
      const { x1, y1, x2, y2, x3, y3, x4, y4, mismatch } = surface.track.values;
      const corners = [
        { x: x1, y: y1 },
        { x: x2, y: y2 },
        { x: x3, y: y3 },
        { x: x4, y: y4 },
      ];
      return [
        ...weakMatches(surface),
        ...coastedStretches(surface),
        ...jumps(surface, corners),
        ...passesApart(surface, mismatch),
      ];
    })
    .filter((d) => !accepted.some((a) => covers(a, d)))
    .sort((a, b) => b.severity - a.severity || a.from - b.from);
}

function rmsOf(values: Float32Array): number | null {
  let [sum, n] = [0, 0];
  for (const v of values) {
    if (Number.isNaN(v)) continue;
    sum += v * v;
    n++;
  }
  return n > 0 ? Math.sqrt(sum / n) : null;
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
  return stretchesOf(
    frames,
    { spot: '', reason: 'edge-shows' },
    badness,
    (worst) => Math.min(1, 0.45 + 5 * badness(worst)),
    (worst, from, to) => tell(worst, spanWords(from, to)),
    accepted,
  );
}

/** Doubtful frames, in order, as doubts of one kind, stretch by stretch. */
export function stretchesOf(
  frames: readonly number[],
  of: Pick<Doubt, 'spot' | 'reason'>,
  badness: (frame: number) => number,
  severity: (worst: number) => number,
  tell: (worst: number, from: number, to: number) => string,
  accepted: readonly AcceptedDoubt[],
): Doubt[] {
  const out: Doubt[] = [];
  for (let i = 0; i < frames.length;) {
    let end = i;
    while (end + 1 < frames.length && frames[end + 1] - frames[end] <= SAME_STRETCH) end++;
    const stretch = frames.slice(i, end + 1);
    const worst = stretch.reduce((a, b) => (badness(b) > badness(a) ? b : a));
    const [from, to] = [stretch[0], stretch[stretch.length - 1]];
    out.push({ ...of, from, to, worst, severity: severity(worst), sentence: tell(worst, from, to) });
    i = end + 1;
  }
  return out.filter((d) => !accepted.some((a) => covers(a, d)));
}

/** How doubtful each frame of a span is: 0 where it is not. */
type Measure = (frame: number) => number;

/** What was measured of a tracker of any kind. */
interface DoubtedTracker {
  readonly id: string;
  readonly track: Pick<Measured, 'start' | 'state' | 'confidence'>;
}

function stretches(
  { id, track }: DoubtedTracker,
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
  for (let f = track.start; f < measuredEnd(track); f++) {
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

export const spanWords = (from: number, to: number) =>
  from === to ? `frame ${from}` : `frames ${from} to ${to}`;

const TRACKED = STATES.indexOf('tracked');
const COASTED = STATES.indexOf('coasted');

function weakMatches(spot: DoubtedTracker): Doubt[] {
  const { start, state, confidence: column } = spot.track;
  const confidence = (f: number) => column[f - start];
  const measure: Measure = (f) => (state[f - start] === TRACKED ? WEAK - confidence(f) : 0);
  return stretches(spot, 'weak-match', measure, (worst, from, to) => ({
    severity: Math.min(1, 0.25 + 0.75 * (1 - confidence(worst) / WEAK)),
    sentence: `The match falls to ${confidence(worst).toFixed(2)} on ${spanWords(from, to)}.`,
  }));
}

function coastedStretches(spot: DoubtedTracker): Doubt[] {
  const { start, state } = spot.track;
  const measure: Measure = (f) => (state[f - start] === COASTED ? f + 1 : 0);
  return stretches(spot, 'coasted', measure, (_, from, to) => ({
    severity: Math.min(0.9, 0.35 + 0.015 * (to - from + 1)),
    sentence: `Hidden, and predicted, on ${spanWords(from, to)}.`,
  })).map((d) => ({ ...d, worst: Math.round((d.from + d.to) / 2) }));
}

function jumps(spot: DoubtedTracker, places: readonly Places[]): Doubt[] {
  const { start } = spot.track;
  const off = unsteadiness(spot.track, places);
  if (!off.some((v) => v > LEAST_JUMP)) return [];
  const usual = medianSorted(off.filter((v) => v > 0).sort());
  const limit = Math.max(LEAST_JUMP, JUMP_RATIO * usual);
  const measure: Measure = (f) => Math.max(0, off[f - start] - limit);
  return stretches(spot, 'jump', measure, (worst) => ({
    severity: Math.min(1, 0.5 + 0.1 * (off[worst - start] / limit)),
    sentence: `It jumps by ${off[worst - start].toFixed(1)} px at frame ${worst}, against the motion before and after.`,
  }));
}

/** Places, frame by frame. */
interface Places {
  readonly x: Float64Array;
  readonly y: Float64Array;
}

/** How far each sample lies from the middle between its neighbours' courses: half the second difference, of the worst place. */
function unsteadiness({ state }: DoubtedTracker['track'], places: readonly Places[]): Float64Array {
  const out = new Float64Array(state.length);
  for (let i = 1; i < state.length - 1; i++) {
    if (!state[i - 1] || !state[i] || !state[i + 1]) continue;
    for (const { x, y } of places) {
      const dx = x[i] - (x[i - 1] + x[i + 1]) / 2;
      const dy = y[i] - (y[i - 1] + y[i + 1]) / 2;
      out[i] = Math.max(out[i], Math.sqrt(dx * dx + dy * dy));
    }
  }
  return out;
}

function disagreements(spot: DoubtedSpot, agreement: Agreement | undefined): Doubt[] {
  if (!agreement) return [];
  const { own, usual } = agreement;
  const measure: Measure = (f) => {
    const off = own[f] - Math.max(LEAST_DISAGREEMENT, DISAGREEMENT_RATIO * usual[f]);
    return off > 0 ? off : 0;
  };
  return stretches(spot, 'disagrees', measure, (worst, from, to) => ({
    severity: Math.min(1, 0.6 + 0.05 * own[worst]),
    sentence: `It lies ${own[worst].toFixed(1)} px from where the others put it on ${spanWords(from, to)}.`,
  }));
}

/** The spot whose path bends so many times more than the others' is the one that is off: theirs bend half as much against it. */
const CLEARLY = 1.5;

/**
 * Where only three spots are seen, each lies where it is against some two: which of them is off is told by whose path
 * leaves the others' at either end of the stretch; by nothing where none does.
 */
function blamed(doubt: Doubt, spot: DoubtedSpot, spots: readonly DoubtedSpot[]): Doubt {
  const here = spots.filter((s) => s.mover === spot.mover && hasSample(firmSamples(s.track), doubt.worst));
  if (here.length !== LEAST_WITNESSES) return doubt;
  const { from, to } = doubt;
  const bends = here.map((s) => {
    const others = here.filter((o) => o !== s).map((o) => o.track);
    return Math.max(...[from - 1, from, to, to + 1].map((f) => bendAgainst(s.track, others, f)));
  });
  const [most, next] = [...bends].sort((a, b) => b - a);
  const on = spanWords(from, to);
  if (most < LEAST_DISAGREEMENT || most < CLEARLY * next) {
    const names = here.map((s) => s.name);
    return { ...doubt, sentence: `One of ${names.slice(0, 2).join(', ')} and ${names[2]} is off on ${on}: a fourth spot would tell which.` }; // prettier-ignore
  }
  const sentence = `It leaves the path of the two others by ${most.toFixed(1)} px from one frame to the next: it is off on ${on}.`;
  return { ...doubt, spot: here[bends.indexOf(most)].id, sentence };
}

/** How far a sample lies from the middle between its neighbours', against how far those of others do; 0 where not known. */
function bendAgainst(track: Track, others: readonly Track[], frame: number): number {
  const bend = ({ start, state, values: { x, y } }: Track) => {
    const i = frame - start;
    if (!state[i - 1] || !state[i] || !state[i + 1]) return null;
    return { x: x[i] - (x[i - 1] + x[i + 1]) / 2, y: y[i] - (y[i - 1] + y[i + 1]) / 2 };
  };
  const own = bend(track);
  const [a, b] = others.map(bend);
  return own && a && b ? Math.hypot(own.x - (a.x + b.x) / 2, own.y - (a.y + b.y) / 2) : 0;
}

function passesApart(spot: DoubtedTracker, mismatch: Float64Array): Doubt[] {
  const apart: Measure = (f) => mismatch[f - spot.track.start] ?? 0;
  return stretches(spot, 'passes-disagree', apart, (worst, from, to) => ({
    severity: Math.min(1, 0.4 + 0.1 * apart(worst)),
    sentence: `Tracked forwards and backwards it differs by ${apart(worst).toFixed(1)} px on ${spanWords(from, to)}.`,
  }));
}

function nearEdge(spot: DoubtedSpot, { width, height }: Size): Doubt[] {
  const [hw, hh] = spot.patch;
  const { start, state, values } = spot.track;
  const measure: Measure = (f) => {
    const i = f - start;
    if (!state[i]) return 0;
    const [x, y] = [values.x[i], values.y[i]];
    return Math.max(0, hw - x, x + hw - width, hh - y, y + hh - height);
  };
  return stretches(spot, 'near-edge', measure, (worst, from, to) => ({
    severity: Math.min(0.6, 0.15 + (0.3 * measure(worst)) / Math.max(hw, hh)),
    sentence: `The patch reaches ${measure(worst).toFixed(0)} px beyond the picture on ${spanWords(from, to)}.`,
  }));
}

interface Agreement {
  /** Distance in pixels from where the others put the spot, by frame; NaN where that is not known. */
  readonly own: Float32Array;
  /** The median of such distances within the mover on each frame. */
  readonly usual: Float32Array;
}

/** Fewer spots of one mover than this cannot tell which of them is off. */
const LEAST_WITNESSES = 3;

/** How far each spot lies, frame by frame, from where the others of its mover put it: the residuals of a robust solve. */
function agreementOf(spots: readonly DoubtedSpot[]): Map<string, Agreement> {
  const out = new Map<string, Agreement>();
  for (const mover of new Set(spots.map((s) => s.mover))) {
    // What was predicted or interpolated is told of as such, and no witness against the others.
    const witnesses = spots
      .filter((s) => s.mover === mover)
      .map(({ id, track }) => ({ id, track: firmSamples(track) }))
      .filter((s) => s.track.state.length > 0);
    if (witnesses.length < LEAST_WITNESSES) continue;
    const frames = Math.max(...witnesses.map((s) => measuredEnd(s.track)));
    const motion = solveMotion({ frames, ref: 0, spots: witnesses });
    if (!motion) continue;
    const all = witnesses.map((s) => motion.byId[s.id].residuals);
    const usual = mediansByFrame(all, frames);
    witnesses.forEach((s, k) => out.set(s.id, { own: all[k], usual }));
  }
  return out;
}

/** The median over the columns, frame by frame; NaN where fewer than {@link LEAST_WITNESSES} know of one. */
function mediansByFrame(columns: readonly Float32Array[], frames: number): Float32Array {
  const out = new Float32Array(frames).fill(NaN);
  const here = new Float32Array(columns.length);
  for (let f = 0; f < frames; f++) {
    let n = 0;
    for (const column of columns) if (!Number.isNaN(column[f])) here[n++] = column[f];
    if (n < LEAST_WITNESSES) continue;
    const sorted = here.subarray(0, n).sort();
    out[f] = sorted[n >> 1];
  }
  return out;
}

function firmSamples(track: Track): Track {
  if (!track.state.some((s) => s >= COASTED)) return track;
  const guessed = (state: SampleState) => state === 'coasted' || state === 'bridged';
  return withoutSamples(track, track.start, measuredEnd(track), guessed);
}
