import type { Track } from '../track/track.js';
import { bridgeGaps } from './bridge.js';
import { solveJointly } from './joint.js';
import type { Motion, Role } from './motion.js';
import { anchorFrame, observe, onlyOf, type Observations } from './observations.js';
import { placeByPosition } from './place-by-position.js';
import { fitFrame, type Fits, type ScenePoints } from './scene-points.js';
import { motionFromFits } from './motion-from-fits.js';

/** A spot to solve from. */
export interface SolveSpot {
  readonly id: string;
  readonly track: Track;
  /** What it is asked about; `both` when left out. */
  readonly role?: Role;
}

export interface SolveInput {
  readonly frames: number;
  readonly ref: number;
  readonly spots: readonly SolveSpot[];
  /** Width of a pixel over its height; 1 when left out. */
  readonly pixelAspect?: number;
}

/**
 * Solves the motion from any number of spots that may come and go, jointly and robustly.
 *
 * First scene points spread from the frame with the most spots, and the spots that move with the majority are found
 * ({@link agreeing}); then scene points and all frames' similarities
 * are solved together ({@link refineScenePoints}) under the Geman-McClure cost, which becomes stricter round by round
 * (graduated non-convexity, Black and Rangarajan 1996), so that a spot that slips or moves on its own loses its say.
 * Last each frame's similarity is fitted to its samples. One spot alone gives position; rotation and scale of frames
 * with one sample are bridged from their neighbours, and so are frames on which all spots were hidden: what is coasted
 * is a guess made from one side, and the solve knows both.
 *
 * With roles, rotation and scale come from the spots that may tell them and position from those that may tell that;
 * a role that no spot has falls to all of them.
 *
 * @returns null when there is no sample at all. Cost: linear in samples.
 */
export function solveMotion({
  frames,
  ref,
  spots,
  pixelAspect = 1,
}: SolveInput): Motion<'similarity'> | null {
  const tracks = spots.map((s) => s.track);
  const seen = observe(tracks, frames, pixelAspect);
  const anchor = anchorFrame(seen, ref);
  if (anchor === null) return null;
  const turning = thoseWith('turn', spots);
  const placing = thoseWith('position', spots);
  const split = turning.some((t, s) => t !== placing[s]);
  const turners = split ? onlyOf(seen, turning) : seen;
  const start = split ? anchorFrame(turners, anchor)! : anchor;
  const { points, weight, fits } = solveJointly(turners, start);
  fillTurns(fits);
  if (split) placeByPosition(onlyOf(seen, placing), fits, points, placing);
  else fitLone(seen, points, weight, fits);
  return motionFromFits(seen, spots, points, fits, split ? placing : null, ref);
}

function thoseWith(wanted: Role, spots: readonly SolveSpot[]): boolean[] {
  const may = spots.map(({ role = 'both' }) => role === 'both' || role === wanted);
  const any = may.some((m, s) => m && spots[s].track.state.some((v) => v > 0));
  return any ? may : spots.map(() => true);
}

/** Fills rotation and scale of frames that do not tell them ({@link bridgeGaps}). */
function fillTurns(fits: Fits): void {
  const known = fits.linked.map((l) => (l === 2 ? 1 : 0));
  if (!known.includes(1)) return;
  let before = 0;
  const angles = fits.ax.map((ax, f) => {
    if (!known[f]) return NaN;
    const angle = Math.atan2(fits.ay[f], ax);
    return (before += Math.atan2(Math.sin(angle - before), Math.cos(angle - before)));
  });
  const logs = fits.ax.map((ax, f) => Math.log(Math.hypot(ax, fits.ay[f])));
  bridgeGaps(angles, known);
  bridgeGaps(logs, known);
  known.forEach((k, f) => {
    if (k) return;
    fits.ax[f] = Math.exp(logs[f]) * Math.cos(angles[f]);
    fits.ay[f] = Math.exp(logs[f]) * Math.sin(angles[f]);
  });
}

/** Frames with one linked spot: it is met, under the rotation and scale that were filled in. */
function fitLone(seen: Observations, points: ScenePoints, weight: Float64Array, fits: Fits): void {
  for (let f = 0; f < seen.frames; f++) if (fits.linked[f] === 1) fitFrame(seen, points, weight, fits, f);
}
