import { median } from 'd3-array';
import { apply, invert, type Point } from '../geometry/matrix.js';
import type { AnalysedScene } from '../solve/analysed.js';
import { homographyMotion, motionMatrix, type Motion } from '../solve/motion.js';
import { correctedBySpots } from '../solve/surface-motion.js';
import type { SolveSpot } from '../solve/solve-motion.js';
import { STATES } from '../track/measured.js';
import type { Track } from '../track/track.js';
import { moverMotion } from './mover-motion.js';

/** Spots move with a mover when the median of their distances from it, in pixels, is below this. */
const WITH_IT = 1.5;

/** The scene's mover that spots move with; null where they move with none. @param straight  as for {@link moverMotion} */
export function moverOfSpots(
  solved: Motion,
  spots: readonly SolveSpot[],
  scene: AnalysedScene,
  straight: boolean,
): number | null {
  const linked = spots.filter(({ id }) => solved.byId[id]?.rest);
  let best: number | null = null;
  let least = WITH_IT;
  scene.movers.forEach((_, m) => {
    const found = moverMotion(scene, m, solved.ref, straight);
    if (!found) return;
    const off = median(linked.map(({ track }) => distance(track, found.motion))) ?? Infinity;
    if (off < least) [best, least] = [m, off];
  });
  return best;
}

/** How far a spot is from a motion, by the median of its samples. */
function distance({ start, state, values }: Track, motion: Motion): number {
  const places: Point[] = [];
  const every = Math.max(1, Math.floor(state.length / 40));
  for (let i = 0; i < state.length; i += every) {
    const f = start + i;
    if (!seen(state[i]) || motion.support[f] !== 'full') continue;
    places.push(apply(invert(motionMatrix(motion, f)), values.x[i], values.y[i]));
  }
  if (places.length < 3) return Infinity;
  const [x, y] = [median(places, (p) => p.x)!, median(places, (p) => p.y)!];
  return median(places, (p) => Math.hypot(p.x - x, p.y - y))!;
}

const seen = (state: number) => state > 0 && state < STATES.indexOf('coasted');

/** So many spots are always met: what is off them tells nothing. */
const ALWAYS_MET = 2;

/**
 * The motion of the mover that spots are on, with its perspective, corrected by them; null where it has none, where they are
 * met better without, or are not on it after all.
 */
export function perspectiveBySpots(
  solved: Motion<'similarity'>,
  spots: readonly SolveSpot[],
  homography: Motion,
): Motion | null {
  if (homography.model !== 'homography') return null;
  const linked = spots.filter(({ id }) => solved.byId[id]?.rest);
  const on = linked.filter(({ track }) => distance(track, homography) < WITH_IT);
  if (on.length === 0 || on.length < linked.length) return null;
  const { matrices, byId, residual } = correctedBySpots(
    homography.matrices,
    on,
    solved.ref,
    solved.pixelAspect,
  );
  const off = (by: Motion['byId']) => {
    const all = on.flatMap(({ id }) => [...(by[id]?.residuals ?? [])].filter((v) => v === v));
    return Math.sqrt(all.reduce((sum, v) => sum + v * v, 0) / Math.max(1, all.length));
  };
  if (on.length > ALWAYS_MET && off(byId) > off(solved.byId)) return null;
  const filled = Uint8Array.from(solved.support, (s) => (s === 'full' ? 0 : 1));
  const { support, pivot, pixelAspect, ref } = solved;
  const cuts = homography.cuts ? { cuts: homography.cuts } : {};
  return homographyMotion(matrices, { support, filled, pivot, pixelAspect, ref, byId, residual, ...cuts });
}
