import {
  bordersOf,
  LurnError,
  meshOfMaps,
  readData,
  surfacesOfData,
  type BroughtSurface,
  type Mesh,
  type SoftTrack,
} from '@lurn/core';
import {
  addSurface,
  changeDocument,
  LIMITS,
  NEW_SOFT,
  NEW_SURFACE,
  nextColour,
  storedMesh,
  storedQuad,
  type ClipInfo,
  type ShotState,
} from '@lurn/model';
import { plural } from '../lib/format';
import type { ReadMaps } from '../workers/maps';
import { setBench } from './bench';
import { edit, shotDocument } from './shot';
import { pairs } from './soft/soft';

/** Motion of other programs: corners, movers and motions become flat surfaces, ST maps a soft one. */

export type BroughtIn =
  | { readonly kind: 'surfaces'; readonly hold: boolean; readonly surfaces: readonly BroughtSurface[] }
  | {
      readonly kind: 'mesh';
      readonly name: string;
      readonly frame: number;
      readonly mesh: Mesh;
      readonly track: SoftTrack;
    };

/**
 * What a text has to say of motion, in numbers of this program's formats.
 *
 * @returns null where it tells of spots, which are brought in by their columns
 * @throws LurnError where it cannot be read so
 */
export function motionInText(text: string, { width, height, frames, fps }: ClipInfo): BroughtIn | null {
  const data = readData(text, { width, height, frames, fps });
  if (data.kind === 'tracks') return null;
  const within = data.things.map((t) => ({ ...t, frames: t.frames.filter((f) => f.frame < frames) }));
  const surfaces = surfacesOfData({ ...data, things: within }, { width, height });
  if (surfaces.length === 0)
    throw new LurnError('bad-data', `None of it is told of a frame of this clip, which has ${frames}.`);
  return { kind: 'surfaces', hold: data.kind === 'motion', surfaces };
}

/** What ST maps have to say of motion. @throws LurnError where they have nothing */
export function motionInMaps({ maps, size }: ReadMaps, name: string, { frames }: ClipInfo): BroughtIn {
  return { kind: 'mesh', name, ...meshOfMaps(maps.filter((m) => m.frame < frames), size) }; // prettier-ignore
}

/** What would be brought in, in a sentence each. */
export function toldOf(brought: BroughtIn): string[] {
  if (brought.kind === 'mesh')
    return [
      `${brought.name}: a mesh of ${plural(brought.mesh.vertices.length, 'point')}, ${plural(known(brought.track), 'frame')}`,
    ];
  return brought.surfaces.map(
    ({ name, track, frame }) =>
      `${name}: a flat surface, ${plural(known(track), 'frame')}, as it lies on frame ${frame}`,
  );
}

const known = ({ state }: { readonly state: ArrayLike<number> }) =>
  Array.from(state).filter((s) => s > 0).length;

/**
 * Takes it into the shot, as one step: a motion is held from then on.
 *
 * @throws LurnError `too-many` where the shot has no room for it; nothing is changed
 */
export function bringIn(brought: BroughtIn): void {
  const more = brought.kind === 'mesh' ? 1 : brought.surfaces.length;
  const there = shotDocument().trackers.length;
  if (there + more > LIMITS.trackers)
    throw new LurnError(
      'too-many',
      `A shot has up to ${LIMITS.trackers} spots and surfaces; with these it would have ${there + more}.`,
    );
  const ids: string[] = [];
  edit((before) => {
    let state = before;
    const put = (next: (s: ShotState, id: string) => ShotState) => {
      const id = crypto.randomUUID();
      ids.push(id);
      state = next(state, id);
    };
    if (brought.kind === 'mesh') put((s, id) => withMesh(s, id, brought));
    else for (const one of brought.surfaces) put((s, id) => withSurface(s, id, one));
    const first = state.document.trackers.find((t) => t.id === ids[0]);
    const hold = brought.kind === 'mesh' || brought.hold;
    return hold && first ? changeDocument(state, { held: first.mover }) : state;
  });
  setBench({ selected: ids, area: null, points: [] });
}

function withSurface(state: ShotState, id: string, brought: BroughtSurface): ShotState {
  const { frame, base, track } = brought;
  const name = brought.name.slice(0, LIMITS.nameLength);
  const corners = storedQuad(base);
  return addSurface(
    state,
    {
      ...NEW_SURFACE,
      ...{ id, name, frame, colour: nextColour(state.document), base: corners, quad: corners },
      shapes: [{ kind: 'focus', smooth: false, keys: [{ frame, shape: corners }] }],
    },
    track,
  );
}

function withMesh(
  state: ShotState,
  id: string,
  { name, frame, mesh, track }: BroughtIn & { kind: 'mesh' },
): ShotState {
  const [ring] = bordersOf(mesh.faces).sort((a, b) => b.length - a.length);
  return addSurface(
    state,
    {
      ...NEW_SOFT,
      // It lies exactly where the maps say: nothing is rounded between its points.
      ...{ id, name, frame, colour: nextColour(state.document), levels: 0 },
      shapes: [
        { kind: 'focus', smooth: false, keys: [{ frame, shape: pairs(ring.map((v) => mesh.vertices[v])) }] },
      ],
      ...storedMesh(mesh),
    },
    track,
  );
}
