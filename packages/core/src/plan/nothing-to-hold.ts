import type { WholeScene } from '../scene/movers.js';
import { trackCount } from '../scene/scene-tracks.js';

/** Fewer frames than this do not tell what moves as one. */
const FEWEST_FRAMES = 12;

/** Why nothing of a clip's whole picture can be held, in a sentence; null where something can. */
export function nothingToHold({
  tracks,
  movers,
  motions,
}: WholeScene & { readonly motions: readonly unknown[] }): string | null {
  if (movers.length > 0 && motions[0]) return null;
  const { frames } = tracks;
  if (frames < FEWEST_FRAMES)
    return `The clip has only ${frames === 1 ? '1 frame' : `${frames} frames`}: too few to tell what moves as one.`;
  return trackCount(tracks) === 0
    ? 'Its pictures have no texture to hold on to.'
    : 'Nothing in it stays the same from frame to frame for long enough to be followed.';
}
