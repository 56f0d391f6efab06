import { type ShotRequest, type Size, type SolveSoft } from '@lurn/core';
import type { ClipInfo } from './clip.js';
import { riddenMovers } from './look.js';
import { softTrackOf, surfaceTrackOf, trackOf } from './measured-of.js';
import { moverName, softOf, spotsOf, surfacesOf, type ShotState } from './document.js';
import { quadOf, softShape, type SoftSurface, type Spot, type Surface } from './trackers/index.js';

/** The soft surface that is held; null where none is. */
export function heldSoft({ document, measured }: ShotState): SoftSurface | null {
  return softOf(document).find((s) => s.used && measured[s.id] && s.mover === document.held) ?? null;
}

function solvedSoft(state: ShotState, size: Size): SolveSoft | null {
  const soft = heldSoft(state);
  if (!soft) return null;
  return { id: soft.id, flatten: soft.flatten, ...softShape(soft, softTrackOf(state, soft.id)), size };
}

/** The surfaces that are solved from: used, measured, and on what is held. */
export function solvedSurfaces({ document, measured }: ShotState): Surface[] {
  const { held } = document;
  return surfacesOf(document).filter((s) => s.used && measured[s.id] && s.mover === held);
}

/** The spots that are solved from: used, measured, and on what is held. */
export function solvedSpots({ document, measured }: ShotState): Spot[] {
  const { held } = document;
  return spotsOf(document).filter((s) => s.used && measured[s.id] && (held === null || s.mover === held));
}

/** What the core is asked for by a shot. */
export function shotRequest(state: ShotState, info: ClipInfo): ShotRequest {
  const { document } = state;
  const { range, ref, goal, framing, held, deliveries, areas, rowByRow, regroups, cuts } = document;
  return {
    size: { width: info.width, height: info.height },
    frames: info.frames,
    pixelAspect: info.pixelAspect,
    fps: info.fps,
    spots: solvedSpots(state).map(({ id, name, mover, role }) => ({
      ...{ id, name, role, track: trackOf(state, id) },
      mover: moverName(document, mover),
    })),
    surfaces: solvedSurfaces(state).map(({ id, base, quad, perspective }) => ({
      ...{ id, perspective, track: surfaceTrackOf(state, id) },
      ...{ base: quadOf(base), quad: quadOf(quad) },
    })),
    soft: solvedSoft(state, { width: info.width, height: info.height }),
    riders: riddenMovers(document).map((id) => ({
      id,
      spots: spotsOf(document)
        .filter((s) => s.used && s.mover === id && state.measured[s.id])
        .map((s) => ({ id: s.id, role: s.role, track: trackOf(state, s.id) })),
    })),
    held: held ?? '',
    sceneMover: held,
    rowByRow,
    cuts,
    regroups,
    areas: areas.map(({ kind, smooth, rides, keys }) => ({ kind, smooth, rides, keys })),
    ref,
    ...range,
    goal,
    framing: { ...framing, delivery: deliveries[0]?.size ?? null },
  };
}
