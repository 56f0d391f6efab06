import type { WholeScene } from '../scene/movers.js';
import { trackCount } from '../scene/scene-tracks.js';

/** Fewer frames than this do not tell what moves as one. */
const FEWEST_FRAMES = 12;
/** What is most like the surroundings and is seen for less of the time than this, with so little of the texture, is none. */
const [SELDOM, LITTLE] = [0.4, 0.2];

/** Why nothing of a clip's whole picture can be held, in a sentence; null where something can. */
export function nothingToHold({
  tracks,
  movers,
  motions,
}: WholeScene & { readonly motions: readonly unknown[] }): string | null {
  const { frames } = tracks;
  const [first] = movers;
  if (first && motions[0]) {
    if (first.frames >= SELDOM * frames || first.share >= LITTLE) return null;
    return 'Every part of it moves by itself, as water, leaves or a crowd do: nothing keeps together for long.';
  }
  if (frames < FEWEST_FRAMES)
    return `The clip has only ${frames === 1 ? '1 frame' : `${frames} frames`}: too few to tell what moves as one.`;
  return trackCount(tracks) === 0
    ? 'Its pictures have no texture to hold on to.'
    : 'Nothing in it stays the same from frame to frame for long enough to be followed.';
}
