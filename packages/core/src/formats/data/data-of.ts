import { steadiedMesh, warpsBetween } from '../../plan/plan-to-source.js';
import { framingToDelivery, mostZoom, type Plan } from '../../plan/plan.js';
import { motionMatrix, type Motion } from '../../solve/motion.js';
import { quadOn, surfaceSamples } from '../../surface/surface-track.js';
import { samplesOf } from '../../track/track.js';
import type { NamedSurface } from '../corners-file.js';
import type { MotionFrame } from '../motion-file.js';
import type { NamedTrack } from '../tracks-file.js';
import type { DataClip, MovingData, MovingFrame } from './moving-data.js';

/** Spots as data. @param times  seconds of each frame */
export function dataOfTracks(tracks: readonly NamedTrack[], times: ArrayLike<number>, clip: DataClip): MovingData {
  const things = tracks.map(({ name, track }) => ({
    name,
    frames: [...samplesOf(track)].map(({ frame, x, y, confidence, state }): MovingFrame => ({
      ...{ frame, time: times[frame], values: [x, y], confidence, state },
    })),
  }));
  return { kind: 'tracks', clip, things };
}

/** The corners of surfaces' quads as data. */
export function dataOfSurfaces(
  surfaces: readonly NamedSurface[],
  times: ArrayLike<number>,
  clip: DataClip,
): MovingData {
  const things = surfaces.map(({ name, base, quad, track }) => ({
    name,
    frames: [...surfaceSamples(track)].flatMap(({ frame, confidence, state }): MovingFrame[] => {
      const corners = quadOn(base, quad, track, frame);
      if (!corners) return [];
      return [{ frame, time: times[frame], values: corners.flatMap((p) => [p.x, p.y]), confidence, state }];
    }),
  }));
  return { kind: 'corners', clip, things };
}

/** Movers as data: each on the frames on which it is seen. */
export function dataOfMovers(
  movers: readonly { readonly name: string; readonly motion: Motion }[],
  times: ArrayLike<number>,
  clip: DataClip,
): MovingData {
  const things = movers.map(({ name, motion }) => ({
    name,
    frames: motion.support.flatMap((support, frame): MovingFrame[] => {
      if (support === 'none') return [];
      const left = motion.residual[frame];
      const residual = Number.isNaN(left) ? null : left;
      return [{ frame, time: times[frame], values: [...motionMatrix(motion, frame)], residual }];
    }),
  }));
  return { kind: 'movers', clip, things };
}

/** A frame's matrices of a plan. */
export function motionFrame(plan: Plan, frame: number): MotionFrame {
  return {
    ...{ frame, motion: motionMatrix(plan.motion, frame), correction: plan.corrections[frame] },
    ...{ framing: framingToDelivery(plan, frame), residual: plan.motion.residual[frame] },
    mesh: steadiedMesh(plan, frame),
  };
}

/** The same with what is bent told too: for what maps every pixel. Cost: some memory a frame. */
export function withWarps(data: MovingData, plan: Plan): MovingData {
  const things = data.things.map(({ name, frames }) => ({
    name,
    frames: frames.map((f) => ({ ...f, warps: warpsBetween(plan, f.frame) })),
  }));
  return { ...data, things };
}

/** The same with a mesh where no matrix tells what was done: for files that hold one. Cost: up to a second a frame of a mesh. */
export function withMeshes(data: MovingData, plan: Plan): MovingData {
  const things = data.things.map(({ name, frames }) => ({
    name,
    frames: frames.map((f) => {
      const mesh = steadiedMesh(plan, f.frame);
      return mesh ? { ...f, mesh } : f;
    }),
  }));
  return { ...data, things };
}

/** A plan's motion, correction and framing as data. @param range  frames, both included */
export function dataOfPlan(
  plan: Plan,
  { from, to }: { readonly from: number; readonly to: number },
  told: { readonly held: string; readonly ref: number; readonly cuts: readonly number[] },
  times: ArrayLike<number>,
  clip: DataClip,
): MovingData {
  const frames = Array.from({ length: to - from + 1 }, (_, k): MovingFrame => {
    const frame = from + k;
    const residual = plan.motion.residual[frame];
    const left = Number.isNaN(residual) ? null : residual;
    const matrices = [motionMatrix(plan.motion, frame), plan.corrections[frame], framingToDelivery(plan, frame)];
    return { frame, time: times[frame], values: matrices.flat(), residual: left };
  });
  const { held, ref, cuts } = told;
  const solved = { ref, cuts, zoom: mostZoom(plan, from, to) };
  return { kind: 'motion', clip, things: [{ name: held, frames }], solved };
}
