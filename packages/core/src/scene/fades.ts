import { bisectRight } from 'd3-array';
import { gathered, trackCount, trackEnd, type Growing, type SceneTracks } from './scene-tracks.js';

/** A stretch in which one picture passes into another. */
export interface Fade {
  /** About the first and the last frame on which both are seen. */
  readonly from: number;
  readonly to: number;
  /** Where it parts the clip: the first frame of what comes. */
  readonly at: number;
}

export interface Faded {
  /** Every fade is a cut in them, over which no track goes. */
  readonly tracks: SceneTracks;
  readonly fades: readonly Fade[];
}

interface Size {
  readonly width: number;
  readonly height: number;
}

/** So many frames before and after a frame are compared: what is seen before is gone after a quick fade, or a slow one. */
const REACHES = [14, 28];
/** So large a share of what is there before must have gone from inside the picture, and of what is there after have come. */
const GONE = 0.85;
/** Nearer to the picture's rim than this share of its width a feature leaves or enters it. */
const RIM = 0.07;
/** Beside a fade fewer than this come and go, both shares together. */
const CHURN = 1;
/** A fade takes at most so many times as long as what is compared: it may show nothing for a while. */
const LONGEST = 3;
/** Fewer features on either side tell nothing. */
const FEW = 20;
/** A fade takes from when this share more of the features than usual have ended until all but so many have begun. */
const STRAY = 0.1;
/** What is gone fewer frames than this before a cut has been cut. */
const LEAST = 3;

/**
 * The clip parted where one picture passes into another within some frames: nearly all features that are there before
 * end in the middle of the picture, and nearly all that are there after begin there. What a camera turns away from
 * leaves over the rim, and what is hidden for a moment is found again, so that neither is a fade.
 *
 * Cost: linear in samples, and in frames.
 */
export function partedAtFades(tracks: SceneTracks, size: Size): Faded {
  const fades: Fade[] = [];
  const turnovers = REACHES.map((reach) => new Turnover(tracks, size, reach));
  for (const turnover of turnovers) {
    const { reach } = turnover;
    for (const run of turnover.runs()) {
      // Where features come and go all the time, as on water, nothing is told by it.
      const beside = [run.from - reach, run.to + reach];
      const [before, after] = beside.map((g) => turnovers[0].churn(g));
      if (before === null && after === null) continue;
      if (Math.max(before ?? 0, after ?? 0) >= CHURN) continue;
      if (fades.some((f) => f.at >= run.from - reach && f.at <= run.to + reach)) continue;
      const fade = fadeOf(tracks, run, reach);
      if (fade) fades.push(fade);
    }
  }
  if (fades.length === 0) return { tracks, fades };
  fades.sort((a, b) => a.at - b.at);
  const cuts = [...new Set([...tracks.cuts, ...fades.map((f) => f.at)])].sort((a, b) => a - b);
  return { tracks: parted(tracks, fades, cuts), fades };
}

interface Run {
  readonly from: number;
  readonly to: number;
}

/** Of every frame, how much of what is seen in the middle of the picture so many frames before is gone as many after, and how much has come. */
class Turnover {
  private readonly going: Float64Array;
  private readonly coming: Float64Array;
  private readonly frames: number;

  constructor(
    tracks: SceneTracks,
    { width, height }: Size,
    readonly reach: number,
  ) {
    const { frames, start, first } = tracks;
    this.frames = frames;
    const rim = RIM * width;
    const inside = (at: number) => {
      const [x, y] = [tracks.x[at], tracks.y[at]];
      return x > rim && y > rim && x < width - rim && y < height - rim;
    };
    const [before, after, gone, come] = [0, 1, 2, 3].map(() => new Float64Array(frames + 4 * reach));
    for (let k = 0; k < trackCount(tracks); k++) {
      const end = trackEnd(tracks, k);
      const [beginsInside, endsInside] = [inside(first[k]), inside(first[k + 1] - 1)];
      for (let f = start[k]; f < end; f++) {
        if (!inside(first[k] + f - start[k])) continue;
        // What goes over the rim tells nothing.
        const ends = end <= f + 2 * reach;
        if (!ends || endsInside) before[f + reach]++;
        if (ends && endsInside) gone[f + reach]++;
        const begins = start[k] > f - 2 * reach;
        if (f < reach || (begins && !beginsInside)) continue;
        after[f - reach]++;
        if (begins) come[f - reach]++;
      }
    }
    const share = (of: Float64Array, all: Float64Array) => of.map((n, g) => (all[g] >= FEW ? n / all[g] : 0));
    [this.going, this.coming] = [share(gone, before), share(come, after)];
  }

  /** Both shares together, of a frame; null where there is not enough before or after it to tell. */
  churn(frame: number): number | null {
    const { reach, frames, going, coming } = this;
    return frame < reach || frame >= frames - reach ? null : going[frame] + coming[frame];
  }

  /** Frames about which a fade, or a cut, lies. */
  runs(): Run[] {
    const { reach, frames, going, coming } = this;
    const fading = (g: number) => Math.min(going[g], coming[g]) >= GONE;
    const runs: Run[] = [];
    for (let f = reach; f < frames - reach; f++) {
      if (!fading(f)) continue;
      const from = f;
      while (f + 1 < frames - reach && fading(f + 1)) f++;
      if (f - from <= LONGEST * reach) runs.push({ from, to: f });
    }
    return runs;
  }
}

/**
 * A fade that lies about some frames: it parts the clip where a cut was found in it, else where as much is seen of the
 * one picture as of the other. Null where it is a cut, and no more.
 */
function fadeOf(tracks: SceneTracks, run: Run, reach: number): Fade | null {
  const middle = Math.round((run.from + run.to) / 2);
  const [low, high] = [middle - reach, middle + reach];
  const ends = changes(tracks, low, high, 'end');
  const begins = changes(tracks, low, high, 'start');
  // Of what is there before, how much has gone by a frame and of what is there after, how much has come.
  const share = (of: readonly number[], frame: number) => bisectRight(of, frame) / of.length;
  const more = (frame: number) => share(ends, frame) + share(begins, frame) - 1;
  const frames = Array.from({ length: 2 * reach }, (_, i) => low + 1 + i);
  const even = [frames.find((f) => more(f) >= 0) ?? high, frames.findLast((f) => more(f) <= 0) ?? low];
  const halfway = Math.round((even[0] + even[1]) / 2);
  const cut = tracks.cuts.find((c) => Math.abs(c - halfway) <= reach);
  const at = cut ?? halfway;
  const usual = Math.min(low, reach);
  const endsBefore = changes(tracks, low - usual, low, 'end').length / Math.max(1, usual);
  const later = Math.min(tracks.frames - 1 - high, reach);
  const beginsAfter = changes(tracks, high, high + later, 'start').length / Math.max(1, later);
  const from = frames.find((f) => {
    const gone = bisectRight(ends, f) - endsBefore * (f - low);
    return gone >= STRAY * ends.length;
  });
  const to = frames.find((f) => {
    const toCome = begins.length - bisectRight(begins, f) - beginsAfter * (high - f);
    return toCome <= STRAY * begins.length;
  });
  if (cut !== undefined && cut - (from ?? cut) < LEAST) return null;
  return { from: Math.min(at, from ?? at), to: Math.max(at, to ?? at), at };
}

/**
 * When the features end (or start) that are there at the beginning of a window and not at its end (or the other way
 * round), in order.
 */
function changes(tracks: SceneTracks, low: number, high: number, what: 'start' | 'end'): number[] {
  const found: number[] = [];
  for (let k = 0; k < trackCount(tracks); k++) {
    const [start, end] = [tracks.start[k], trackEnd(tracks, k)];
    if (what === 'end' && start <= low && end > low && end <= high) found.push(end);
    if (what === 'start' && start > low && start <= high && end > high) found.push(start);
  }
  return found.sort((a, b) => a - b);
}

/** What is followed over a fade belongs to where it is seen longer. */
function parted(tracks: SceneTracks, fades: readonly Fade[], cuts: readonly number[]): SceneTracks {
  const kept = Array.from({ length: trackCount(tracks) }, (_, k): Growing => {
    let [from, to] = [tracks.start[k], trackEnd(tracks, k)];
    for (const { at } of fades) {
      if (at <= from || at >= to) continue;
      if (at - from < to - at) from = at;
      else to = at;
    }
    const shift = tracks.first[k] - tracks.start[k];
    const column = (of: Float32Array) => of.subarray(shift + from, shift + to);
    return {
      start: from,
      ...{ x: column(tracks.x), y: column(tracks.y), confidence: column(tracks.confidence) },
    };
  });
  kept.sort((a, b) => a.start - b.start);
  return gathered(kept, tracks.frames, cuts, [1, 1]);
}
