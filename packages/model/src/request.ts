import type { ShotRequest, Size } from '@lurn/core/plan';
import type { SolveSoft } from '@lurn/core/solve';
import type { ClipInfo } from './clip.js';
import { riddenMovers } from './look.js';
import { measuredOf } from './measured-of.js';
import { moverName, type ShotState } from './document.js';
import { quadOf, solveSoft, type Spot, type Surface, type TrackerOf } from './trackers/index.js';
import { spotsOf, surfacesOf, surfaceTrackOf, trackersOf, trackOf } from './trackers/kinds/find.js';

/** The soft surface that is held; null where none is. */
export function heldSoft({ document, measured }: ShotState): TrackerOf<'soft'> | null {
  return (
    trackersOf(document, 'soft').find((s) => s.used && measured[s.id] && s.mover === document.held) ?? null
  );
}

function solvedSoft(state: ShotState, size: Size): SolveSoft | null {
  const soft = heldSoft(state);
  return soft && solveSoft(soft, measuredOf(state, 'soft', soft.id), size);
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
