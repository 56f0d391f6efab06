import { partsOf, trackCount, trackEnd, type SceneTracks } from './scene-tracks.js';

/** A stretch in which one picture passes into another. */
export interface Fade {
  readonly from: number;
  readonly to: number;
  /** The first frame on which more is seen of the picture that comes than of the one that goes. */
  readonly at: number;
}

/** So many frames before and after a frame are compared: a fade takes no longer than twice that, as a rule. */
const REACH = 14;
/** So large a share of what is there before must have gone from inside the picture, and of what is there after have come. */
const GONE = 0.85;
/** Nearer to the picture's rim than this share of its width a feature leaves or enters it. */
const RIM = 0.07;
/** Beside a fade fewer than this come and go, both shares together. */
const CHURN = 1;
/** Fewer features on either side tell nothing. */
const FEW = 30;

/**
 * Where one picture passes into another within some frames: nearly all features that are there before end in the middle
 * of the picture, and nearly all that are there after begin there. What a camera turns away from leaves over the rim, and
 * what is hidden for a moment is found again, so that neither is a fade.
 *
 * Cost: linear in tracks, and in frames.
 */
export function fadesIn(
  tracks: SceneTracks,
  { width, height }: { readonly width: number; readonly height: number },
): Fade[] {
  const { frames } = tracks;
  const rim = RIM * width;
  const inside = (at: number) => {
    const [x, y] = [tracks.x[at], tracks.y[at]];
    return x > rim && y > rim && x < width - rim && y < height - rim;
  };
  // Of frame f: features there, those of them that end inside the picture within the reach, and that began so.
  const [there, going, coming] = [0, 1, 2].map(() => new Float64Array(frames));
  for (let k = 0; k < trackCount(tracks); k++) {
    const [start, end] = [tracks.start[k], trackEnd(tracks, k)];
    const endsInside = inside(tracks.first[k + 1] - 1);
    const beginsInside = inside(tracks.first[k]);
    for (let f = start; f < end; f++) there[f]++;
    if (endsInside)
      for (let f = Math.max(start + REACH, end - REACH); f < Math.min(frames, end + REACH); f++) going[f]++;
    if (beginsInside)
      for (let f = Math.max(0, start - REACH); f < Math.min(end - REACH, start + REACH); f++) coming[f]++;
  }
  const share = (of: Float64Array, g: number, n: number) => (there[n] > 0 ? of[g] / there[n] : 0);
  const gone = (g: number) => share(going, g, g - REACH);
  const come = (g: number) => share(coming, g, g + REACH);
  const fading = (g: number) =>
    Math.min(there[g - REACH], there[g + REACH]) >= FEW && gone(g) >= GONE && come(g) >= GONE;
  const fades: Fade[] = [];
  for (const part of partsOf(tracks)) {
    const [first, last] = [part.from + REACH, part.to - REACH];
    for (let f = first; f <= last; f++) {
      if (!fading(f)) continue;
      const from = f;
      while (f < last && fading(f + 1)) f++;
      // Where features come and go all the time, as on water, nothing is told by it.
      const calm = [from - REACH, f + REACH].every((g) => g < first || g > last || gone(g) + come(g) < CHURN);
      if (f - from <= 2 * REACH && calm) fades.push({ from, to: f, at: Math.ceil((from + f) / 2) });
    }
  }
  return fades;
}

/** Tracks with the middle of every fade as a cut: what is before has nothing to do with what is after. */
export function cutAtFades(
  tracks: SceneTracks,
  size: { readonly width: number; readonly height: number },
): SceneTracks {
  const fades = fadesIn(tracks, size);
  if (fades.length === 0) return tracks;
  const cuts = [...tracks.cuts, ...fades.map((f) => f.at)].sort((a, b) => a - b);
  return { ...tracks, cuts: Int32Array.from(cuts) };
}
