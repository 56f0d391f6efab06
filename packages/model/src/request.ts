import {
  EMPTY_SURFACE_TRACK,
  EMPTY_TRACK,
  parseColour,
  type Measured,
  type SceneLook,
  type ShotRequest,
  type SurfaceToTrack,
  type SurfaceTrack,
  type Track,
} from '@lurn/core';
import type { ClipInfo } from './clip.js';
import { moverName, spotsOf, surfacesOf, type ShotDocument, type ShotState } from './document.js';
import { quadOf, surfaceSettingsOf, type Spot, type Surface } from './trackers/index.js';

/** What was measured of a spot; nothing where it was not tracked. */
export function trackOf({ measured }: Pick<ShotState, 'measured'>, id: string): Track {
  const found: Measured | undefined = measured[id];
  return found?.kind === 'spot' ? (found as Track) : EMPTY_TRACK;
}

/** What was measured of a surface; nothing where it was not tracked. */
export function surfaceTrackOf({ measured }: Pick<ShotState, 'measured'>, id: string): SurfaceTrack {
  const found: Measured | undefined = measured[id];
  return found?.kind === 'surface' ? (found as SurfaceTrack) : EMPTY_SURFACE_TRACK;
}

/** A surface as the tracker takes it. */
export function surfaceToTrack(surface: Surface, track: SurfaceTrack): SurfaceToTrack {
  const { id, name, frame, base, shapes, behind } = surface;
  return { id, name, frame, base: quadOf(base), shapes, behind, settings: surfaceSettingsOf(surface), track };
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
  const { range, ref, goal, framing, held, deliveries, areas, rowByRow, regroups } = document;
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
    held: held ?? '',
    sceneMover: held,
    rowByRow,
    regroups,
    areas: areas.map(({ kind, smooth, rides, keys }) => ({ kind, smooth, rides, keys })),
    ref,
    ...range,
    goal,
    framing: { ...framing, delivery: deliveries[0]?.size ?? null },
  };
}

/** How a document's pictures are drawn, for the scenes that preview, render and command line share. */
export function sceneLook({ edges, layers }: Pick<ShotDocument, 'edges' | 'layers'>): SceneLook {
  return { edges: { mode: edges.mode, colour: parseColour(edges.colour) }, layers };
}
