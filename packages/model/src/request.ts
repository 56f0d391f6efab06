import {
  EMPTY_TRACK,
  quadOn,
  surfaceSamples,
  withSamples,
  type JoinedTrack,
  type Track,
  type ShotRequest,
  type Size,
  type SoftToTrack,
  type SolveSoft,
  type SurfaceToTrack,
  type SurfaceTrack,
} from '@lurn/core';
import type { ClipInfo } from './clip.js';
import { riddenMovers } from './look.js';
import { softTrackOf, surfaceTrackOf, trackOf } from './measured-of.js';
import { moverName, softOf, spotsOf, surfacesOf, type ShotState } from './document.js';
import {
  meshOf,
  quadOf,
  softSettingsOf,
  softShape,
  surfaceSettingsOf,
  type SoftSurface,
  type Spot,
  type Surface,
} from './trackers/index.js';

/** A surface as the tracker takes it. */
export function surfaceToTrack(surface: Surface, track: SurfaceTrack): SurfaceToTrack {
  const { id, name, frame, base, shapes, behind } = surface;
  return { id, name, frame, base: quadOf(base), shapes, behind, settings: surfaceSettingsOf(surface), track };
}

/** A soft surface as the tracker takes it. */
export function softToTrack(soft: SoftSurface, state: ShotState): SoftToTrack {
  const { id, name, frame, shapes } = soft;
  return {
    ...{ id, name, frame, shapes, vertices: meshOf(soft).vertices, settings: softSettingsOf(soft) },
    track: softTrackOf(state, id),
    joined: joinedOf(soft, state),
  };
}

/** What has joined a soft surface, as far as it is still there. */
function joinedOf({ joined = [] }: SoftSurface, state: ShotState): JoinedTrack[] {
  return joined.flatMap(({ tracker: id, corner, x, y }) => {
    const tracker = state.document.trackers.find((t) => t.id === id);
    if (tracker?.kind === 'spot') return [{ at: { x, y }, track: trackOf(state, id) }];
    if (tracker?.kind === 'surface' && corner !== undefined)
      return [{ at: { x, y }, track: cornerTrack(tracker, state, corner) }];
    return [];
  });
}

/** Where a corner of a flat surface's quad was, as a track. */
export function cornerTrack({ id, base, quad }: Surface, state: ShotState, corner: number): Track {
  const track = surfaceTrackOf(state, id);
  const samples = [...surfaceSamples(track)].flatMap(({ frame, confidence, state: how }) => {
    const at = quadOn(quadOf(base), quadOf(quad), track, frame)?.[corner];
    return at ? [{ frame, x: at.x, y: at.y, confidence, state: how }] : [];
  });
  return withSamples(EMPTY_TRACK, samples);
}

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
