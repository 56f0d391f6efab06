import { LurnError, type AbortSignalLike } from '../errors.js';
import { withoutSamples } from './measured.js';
import { sampleAt, withSamples, EMPTY_TRACK, type FramedSample, type Track } from './track.js';
import type { FrameSource } from './frame-run.js';
import { trackSpots, type KnownSpot, type SpotToTrack } from './track-spots.js';
import { bridge } from './repair.js';

/** Passes that lie farther apart than this, in pixels, after their pins have been made to agree, disagree. */
export const DISAGREEMENT = 0.6;
/** A pass that ends farther than this from the far pin, in pixels, has slipped ... */
const SLIPPED = 2;
/** ... at the latest where its confidence first fell below this. */
const FIRM = 0.7;
/** A predicted place counts this much beside a measured one. */
const COASTED_WEIGHT = 0.001;

export interface BetweenResult {
  /** The samples strictly between the pins. */
  readonly samples: readonly FramedSample[];
  /** Frames on which neither side saw the feature. */
  readonly unseen: number;
}

/**
 * Follows the picture from two pins towards each other and joins the passes: exact at both pins, and in between the
 * mean of what each measured, weighted by its confidence and its nearness to its own pin. Where only one side saw
 * the feature it alone counts; where neither did, a smooth curve fills in. What the passes disagree about is kept
 * with each sample as its mismatch.
 *
 * @param a, b  frames of the pins, a before b
 * @throws LurnError `no-pin` when one of the frames has no sample; `stopped`; and what the source throws.
 */
export async function trackBetween(
  source: FrameSource,
  spot: SpotToTrack,
  a: number,
  b: number,
  others: readonly KnownSpot[] = [],
  signal?: AbortSignalLike,
  onProgress: (done: number, total: number) => void = () => undefined,
): Promise<BetweenResult> {
  const total = 2 * (b - a - 1);
  const [first, last] = [sampleAt(spot.track, a), sampleAt(spot.track, b)];
  if (!first || !last || b <= a) {
    throw new LurnError('no-pin', `"${spot.name}" needs a pin on both sides of the stretch to be tracked.`);
  }
  const bare = withoutSamples(spot.track, a + 1, b - 1);
  const pass = async (from: number, to: number, before: number) => {
    // The far pin belongs to the other pass: this one must not start anew from it.
    const own = withoutSamples(bare, to, to);
    let track: Track = EMPTY_TRACK;
    const coasting = { ...spot, track: own, settings: { ...spot.settings, lowMatch: 'coast' as const } };
    const request = { spots: [coasting], others, from, to };
    for await (const step of trackSpots(source, request, signal)) {
      track = withSamples(
        track,
        step.samples.map((s) => s.sample),
      );
      for (const { since } of step.stopped) {
        track = withoutSamples(track, Math.min(since, step.frame), Math.max(since, step.frame));
      }
      onProgress(before + step.done, total);
    }
    return track;
  };
  const forth = await pass(a, b, 0);
  const back = await pass(b, a, b - a - 1);
  const ends = { a: { ...first, frame: a }, b: { ...last, frame: b } };
  return { samples: joinPasses(forth, back, ends.a, ends.b), unseen: countUnseen(forth, back, a, b) };
}

/**
 * Joins a forward and a backward pass between two samples. Each is bent by a share of its own miss at the far pin
 * that grows along the way, so that both are exact at both pins before they are averaged.
 */
export function joinPasses(there: Track, andBack: Track, a: FramedSample, b: FramedSample): FramedSample[] {
  const span = b.frame - a.frame;
  const forth = beforeSlip(there, a.frame, b);
  const back = beforeSlip(andBack, b.frame, a);
  const miss = (track: Track, pin: FramedSample) => {
    const end = sampleAt(track, pin.frame);
    return end?.state === 'tracked' ? { x: pin.x - end.x, y: pin.y - end.y } : null;
  };
  const [missB, missA] = [miss(forth, b), miss(back, a)];
  const out: FramedSample[] = [];
  const gaps: number[] = [];
  for (let f = a.frame + 1; f < b.frame; f++) {
    const t = (f - a.frame) / span;
    const [p, q] = [sampleAt(forth, f), sampleAt(back, f)];
    const seen = (s: typeof p) => (s?.state === 'tracked' ? s.confidence : 0);
    if (!seen(p) && !seen(q)) {
      gaps.push(f);
      continue;
    }
    const fx = p && { x: p.x + t * (missB?.x ?? 0), y: p.y + t * (missB?.y ?? 0) };
    const bx = q && { x: q.x + (1 - t) * (missA?.x ?? 0), y: q.y + (1 - t) * (missA?.y ?? 0) };
    const wf = fx ? (1 - t) * (seen(p) || COASTED_WEIGHT) : 0;
    const wb = bx ? t * (seen(q) || COASTED_WEIGHT) : 0;
    const w = wf + wb;
    const x = ((fx ? wf * fx.x : 0) + (bx ? wb * bx.x : 0)) / w;
    const y = ((fx ? wf * fx.y : 0) + (bx ? wb * bx.y : 0)) / w;
    const both = seen(p) > 0 && seen(q) > 0 && fx && bx;
    const apart = both ? Math.hypot(fx.x - bx.x, fx.y - bx.y) : 0;
    const confidence = Math.max(seen(p), seen(q)) * (apart > DISAGREEMENT ? 0.5 : 1);
    const mismatch = apart > DISAGREEMENT ? apart : 0;
    out.push({ frame: f, x, y, confidence, state: 'tracked', ...(mismatch > 0 && { mismatch }) });
  }
  if (gaps.length === 0) return out;
  const seenTrack = withSamples(EMPTY_TRACK, [a, ...out, b]);
  const filled = bridge(seenTrack, a.frame, b.frame);
  const coasted = gaps.map((f): FramedSample => ({
    ...sampleAt(filled, f)!,
    frame: f,
    state: 'coasted',
    confidence: 0.3,
  }));
  return [...out, ...coasted].sort((s, t) => s.frame - t.frame);
}

/**
 * A pass that misses the far pin widely has slipped to something else on its way: it is believed only until it first
 * hid or weakened.
 */
function beforeSlip(pass: Track, start: number, far: FramedSample): Track {
  const end = sampleAt(pass, far.frame);
  if (!end || Math.hypot(end.x - far.x, end.y - far.y) <= SLIPPED) return pass;
  const step = Math.sign(far.frame - start);
  for (let f = start + step; f !== far.frame; f += step) {
    const s = sampleAt(pass, f);
    if (s?.state === 'tracked' && s.confidence >= FIRM) continue;
    return withoutSamples(pass, Math.min(f, far.frame), Math.max(f, far.frame));
  }
  return pass;
}

/**
 * A track's measured samples again, each with how far the way back lies from it; 0 where they agree.
 *
 * @param back  samples of tracking in the other direction; coasted ones tell nothing
 */
export function mismatches(track: Track, back: readonly FramedSample[]): FramedSample[] {
  return back.flatMap((b) => {
    const own = sampleAt(track, b.frame);
    if (own?.state !== 'tracked' || b.state !== 'tracked') return [];
    const apart = Math.hypot(own.x - b.x, own.y - b.y);
    return [{ ...own, frame: b.frame, mismatch: apart > DISAGREEMENT ? apart : 0 }];
  });
}

function countUnseen(forth: Track, back: Track, a: number, b: number): number {
  let count = 0;
  for (let f = a + 1; f < b; f++) {
    if (sampleAt(forth, f)?.state !== 'tracked' && sampleAt(back, f)?.state !== 'tracked') count++;
  }
  return count;
}
