import { STATES, measuredEnd } from '../track/measured.js';
import { type Track } from '../track/track.js';

/** All samples that a motion is solved from, frame after frame, in columns. Lengths are in square pixels. */
export interface Observations {
  readonly frames: number;
  readonly spots: number;
  /** Those of frame f are at `first[f]` to `first[f + 1] - 1`. */
  readonly first: Int32Array;
  readonly spot: Int32Array;
  readonly x: Float64Array;
  readonly y: Float64Array;
  /** 1 where coasted samples, which do not count, stand in for what would tell position, or rotation and scale. */
  readonly guessed: Uint8Array;
  /** Trust from the samples alone: confidence, less where a spot comes or goes. */
  readonly weight: Float64Array;
  /** Taken off every place, so that sums of squares stay small. */
  readonly originX: number;
  readonly originY: number;
  readonly pixelAspect: number;
}

/** A sample counts for at least this much, so that a weak one is still better than none. */
const LEAST_WEIGHT = 0.05;
/** A spot gains its full say within this many frames of coming, and loses it so before it goes. */
const RAMP = 8;

const COASTED = STATES.indexOf('coasted');

/** Frames that are filled in together: what is written then stays in the processor's cache. */
const BLOCK = 64;

/**
 * Gathers the samples of tracks, those within the clip. Coasted ones are guesses: they count only before the first
 * frame and after the last on which something was seen. Cost: linear in samples.
 */
export function observe(tracks: readonly Track[], frames: number, pixelAspect: number): Observations {
  const [from, to] = seenSpan(tracks, frames);
  const shares = tracks.map((track) => sharesOf(track, frames, from, to));
  const first = new Int32Array(frames + 1);
  const present = new Int32Array(frames);
  let sumX = 0;
  let sumY = 0;
  tracks.forEach((track, s) => {
    const { start, state } = track;
    const { x, y } = track.values;
    const share = shares[s];
    const end = Math.min(state.length, frames - start);
    for (let i = Math.max(0, -start); i < end; i++) {
      if (state[i] > 0) present[start + i]++;
      if (share[i] === 0) continue;
      first[start + i + 1]++;
      sumX += x[i];
      sumY += y[i];
    }
  });
  const guessed = new Uint8Array(frames);
  for (let f = 0; f < frames; f++) {
    guessed[f] = first[f + 1] < Math.min(2, present[f]) ? 1 : 0;
    first[f + 1] += first[f];
  }
  const count = first[frames];
  const originX = count ? sumX / count : 0;
  const originY = count ? sumY / count : 0;
  const next = first.slice();
  const spot = new Int32Array(count);
  const x = new Float64Array(count);
  const y = new Float64Array(count);
  const weight = new Float64Array(count);
  for (let block = 0; block < frames; block += BLOCK) {
    for (let s = 0; s < tracks.length; s++) {
      const track = tracks[s];
      const share = shares[s];
      const end = Math.min(block + BLOCK, frames, measuredEnd(track));
      for (let f = Math.max(block, track.start); f < end; f++) {
        const i = f - track.start;
        if (share[i] === 0) continue;
        const at = next[f]++;
        spot[at] = s;
        x[at] = (track.values.x[i] - originX) * pixelAspect;
        y[at] = track.values.y[i] - originY;
        weight[at] = Math.max(LEAST_WEIGHT, track.confidence[i]) * share[i];
      }
    }
  }
  return { frames, spots: tracks.length, first, spot, x, y, guessed, weight, originX, originY, pixelAspect };
}

/** The first and the last frame of the clip on which any spot was seen or placed. */
function seenSpan(tracks: readonly Track[], frames: number): [number, number] {
  let from = Infinity;
  let to = -Infinity;
  for (const { start, state } of tracks) {
    const [begin, end] = [Math.max(0, -start), Math.min(state.length, frames - start)];
    const seen = (i: number) => state[i] > 0 && state[i] !== COASTED;
    let i = begin;
    while (i < end && !seen(i)) i++;
    if (i >= end) continue;
    let k = end - 1;
    while (!seen(k)) k--;
    from = Math.min(from, start + i);
    to = Math.max(to, start + k);
  }
  return [from, to];
}

/**
 * What each sample of a track counts for: rising where a run of samples begins, falling where it ends; 0 where there is
 * none, and for coasted ones between `from` and `to`.
 */
function sharesOf({ start, state }: Track, frames: number, from: number, to: number): Float64Array {
  const n = state.length;
  const out = new Float64Array(n);
  let run = start === 0 ? RAMP : 0;
  for (let i = 0; i < n; i++) {
    const f = start + i;
    const counts = state[i] > 0 && (state[i] !== COASTED || f < from || f > to);
    out[i] = counts ? Math.min(1, (run + 1) / (RAMP + 1)) : 0;
    run = counts ? run + 1 : 0;
  }
  run = start + n >= frames ? RAMP : 0;
  for (let i = n - 1; i >= 0; i--) {
    const counts = out[i] > 0;
    if (counts) out[i] = Math.min(out[i], (run + 1) / (RAMP + 1));
    run = counts ? run + 1 : 0;
  }
  return out;
}

/** Every so many frames, and all of those that scarce spots need: enough to place the spots from. */
export function thinned(all: Observations, most: number): Observations {
  const count = all.first[all.frames];
  const stride = Math.ceil(count / most);
  if (stride <= 1) return all;
  const seen = new Int32Array(all.spots);
  for (let k = 0; k < count; k++) seen[all.spot[k]]++;
  const enough = 8 * stride;
  const keep = new Uint8Array(all.frames);
  const first = new Int32Array(all.frames + 1);
  for (let f = 0; f < all.frames; f++) {
    keep[f] = f % stride === 0 ? 1 : 0;
    for (let k = all.first[f]; !keep[f] && k < all.first[f + 1]; k++) {
      if (seen[all.spot[k]] < enough) keep[f] = 1;
    }
    first[f + 1] = first[f] + (keep[f] ? all.first[f + 1] - all.first[f] : 0);
  }
  const pick = <T extends Int32Array | Float64Array>(from: T, to: T): T => {
    for (let f = 0; f < all.frames; f++) {
      if (keep[f]) to.set(from.subarray(all.first[f], all.first[f + 1]), first[f]);
    }
    return to;
  };
  const n = first[all.frames];
  return {
    ...all,
    first,
    spot: pick(all.spot, new Int32Array(n)),
    x: pick(all.x, new Float64Array(n)),
    y: pick(all.y, new Float64Array(n)),
    weight: pick(all.weight, new Float64Array(n)),
  };
}

/** The observations of some spots; the others' count for nothing and are left out. */
export function onlyOf(seen: Observations, chosen: readonly boolean[]): Observations {
  const first = new Int32Array(seen.frames + 1);
  const kept: number[] = [];
  for (let f = 0; f < seen.frames; f++) {
    for (let k = seen.first[f]; k < seen.first[f + 1]; k++) if (chosen[seen.spot[k]]) kept.push(k);
    first[f + 1] = kept.length;
  }
  return {
    ...seen,
    first,
    spot: Int32Array.from(kept, (k) => seen.spot[k]),
    x: Float64Array.from(kept, (k) => seen.x[k]),
    y: Float64Array.from(kept, (k) => seen.y[k]),
    weight: Float64Array.from(kept, (k) => seen.weight[k]),
  };
}

/** The frame with the most spots, the nearest to the reference among equals. */
export function anchorFrame(seen: Observations, ref: number): number | null {
  let best: number | null = null;
  let most = 0;
  for (let f = 0; f < seen.frames; f++) {
    const n = seen.first[f + 1] - seen.first[f];
    if (n === 0 || n < most) continue;
    if (n > most || Math.abs(f - ref) < Math.abs(best! - ref)) best = f;
    most = n;
  }
  return best;
}
