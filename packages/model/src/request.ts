import {
  EMPTY_TRACK,
  parseColour,
  type Measured,
  type SceneLook,
  type ShotRequest,
  type Track,
} from '@lurn/core';
import type { ClipInfo } from './clip.js';
import { moverName, spotsOf, type ShotDocument, type ShotState } from './document.js';
import type { Spot } from './trackers/index.js';

/** What was measured of a spot; nothing where it was not tracked. */
export function trackOf({ measured }: Pick<ShotState, 'measured'>, id: string): Track {
  const found: Measured | undefined = measured[id];
  return found?.kind === 'spot' ? (found as Track) : EMPTY_TRACK;
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
