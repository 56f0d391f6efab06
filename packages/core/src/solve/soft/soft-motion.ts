import {
  decomposeSimilarity,
  fitSimilarity,
  unwrapAngles,
  type Correspondence,
} from '../../geometry/similarity.js';
import { IDENTITY, type Matrix3, type Point } from '../../geometry/matrix.js';
import { bridgedPlaces, type SoftShape } from '../../soft/soft-warps.js';
import { softAt } from '../../soft/soft-track.js';
import type { Motion, Support } from '../motion.js';

/** A soft surface to solve from. */
export interface SolveSoft extends SoftShape {
  readonly id: string;
  /** False: its position, rotation and scale alone are taken out; it is not flattened. */
  readonly flatten: boolean;
}

/**
 * The motion of a soft surface as a whole: the similarity that is nearest to how its vertices went since the reference
 * frame. What it bends beside that is told by its mesh.
 *
 * @returns null where nothing was measured. Cost: linear in frames and vertices.
 */
export function softMotionOf(soft: SolveSoft, frames: number, ref: number, pixelAspect = 1): Motion | null {
  const rest = bridgedPlaces(soft, ref);
  if (!rest || soft.track.state.length === 0) return null;
  const used = [...new Set(soft.mesh.faces.flat())];
  const pivot: Point = {
    x: used.reduce((s, v) => s + rest[v].x, 0) / used.length,
    y: used.reduce((s, v) => s + rest[v].y, 0) / used.length,
  };
  const support: Support[] = [];
  const matrices = Array.from({ length: frames }, (_, f): Matrix3 => {
    const places = bridgedPlaces(soft, f);
    const state = softAt(soft.track, f)?.state;
    support.push(
      state === 'tracked' || state === 'pinned' || f === soft.frame ? 'full' : state ? 'guessed' : 'none',
    );
    if (!places || f === ref) return IDENTITY;
    const pairs = used.map((v): Correspondence => ({
      fromX: rest[v].x,
      fromY: rest[v].y,
      toX: places[v].x,
      toY: places[v].y,
      weight: 1,
    }));
    return fitSimilarity(pairs, pixelAspect) ?? IDENTITY;
  });
  const parts = matrices.map((m) => decomposeSimilarity(m, pivot, pixelAspect));
  const turns = unwrapAngles(parts.map((p) => p.rotation));
  return {
    model: 'similarity',
    ...{ ref, pivot, pixelAspect, support },
    parts: parts.map((p, f) => ({ ...p, rotation: turns[f] - turns[ref] })),
    byId: {},
    residual: new Float64Array(frames).fill(NaN),
  };
}
