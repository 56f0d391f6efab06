import { sampleIndex, trackCount, trackEnd, type SceneTracks } from './scene-tracks.js';

/** Tracks that end nearer to the picture's rim than this part of its width left it. */
const RIM = 0.05;
/** What ended a track is told by those nearest to it, within this part of the width. */
const [NEAREST, NEAR] = [3, 0.07];
/** So many endings are added to those that were seen, half to each side: few tell little. */
const DOUBT = 6;

/**
 * Which of some groups lie behind others: where a track of one ends, or begins, in the middle of the picture, and those
 * about it are of another, that one went before it.
 *
 * @param groupOf  of every track its group; -1 for none
 * @returns of each group -1, always in front, to 1, always behind. Cost: tracks squared in a part that ends.
 */
export function behindOthers(
  tracks: SceneTracks,
  groupOf: ArrayLike<number>,
  groups: number,
  { from, to, width, height }: { from: number; to: number; width: number; height: number },
): Float64Array {
  const [hidden, hides] = [new Float64Array(groups), new Float64Array(groups)];
  const moment = (k: number, at: number, frame: number) => {
    const [x, y] = [tracks.x[at], tracks.y[at]];
    const rim = RIM * width;
    if (x < rim || y < rim || x > width - rim || y > height - rim) return;
    const near: { group: number; d: number }[] = [];
    for (let j = 0; j < trackCount(tracks); j++) {
      if (j === k || groupOf[j] < 0 || tracks.start[j] > frame || trackEnd(tracks, j) <= frame) continue;
      const there = sampleIndex(tracks, j, frame);
      if (there < 0) continue;
      const d = Math.hypot(tracks.x[there] - x, tracks.y[there] - y);
      if (d < NEAR * width) near.push({ group: groupOf[j], d });
    }
    near.sort((p, q) => p.d - q.d);
    const others = near.slice(0, NEAREST).filter(({ group }) => group !== groupOf[k]);
    if (others.length < Math.min(2, near.length) || others.length === 0) return;
    hidden[groupOf[k]]++;
    for (const { group } of others) hides[group] += 1 / others.length;
  };
  for (let k = 0; k < trackCount(tracks); k++) {
    if (groupOf[k] < 0) continue;
    const last = trackEnd(tracks, k) - 1;
    if (last < to) moment(k, tracks.first[k + 1] - 1, last + 1);
    if (tracks.start[k] > from) moment(k, tracks.first[k], tracks.start[k] - 1);
  }
  return hidden.map((n, g) => (n - hides[g]) / (n + hides[g] + DOUBT));
}
