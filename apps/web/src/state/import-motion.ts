import { LurnError } from '@lurn/core';
import {
  meshesOfData,
  meshOfMaps,
  readData,
  surfacesOfData,
  type BroughtSurface,
  type NamedMesh,
} from '@lurn/core/formats';
import { bordersOf } from '@lurn/core/geometry';
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
import { pairs } from '../lib/places';

/** Motion of other programs: corners, movers and motions become flat surfaces, ST maps a soft one. */

/** One thing that is brought in. */
interface Brought {
  readonly name: string;
  readonly told: string;
  readonly put: (state: ShotState, id: string) => ShotState;
}

export interface BroughtIn {
  /** The first of it is held from then on. */
  readonly hold: boolean;
  readonly things: readonly Brought[];
}

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
  const told = { ...data, things: within };
  const things =
    data.kind === 'meshes'
      ? meshesOfData(told)
          .filter(({ frame }) => frame < frames)
          .map(aMesh)
      : surfacesOfData(told, { width, height }).map(aSurface);
  if (things.length === 0)
    throw new LurnError('bad-data', `None of it is told of a frame of this clip, which has ${frames}.`);
  return { hold: data.kind === 'motion', things };
}

/** What ST maps have to say of motion. @throws LurnError where they have nothing */
export function motionInMaps({ maps, size }: ReadMaps, name: string, { frames }: ClipInfo): BroughtIn {
  const within = maps.filter((m) => m.frame < frames);
  return { hold: true, things: [aMesh({ name, ...meshOfMaps(within, size) })] };
}

const aMesh = (one: NamedMesh): Brought => ({
  name: one.name,
  told: `a mesh of ${plural(one.mesh.vertices.length, 'point')}, ${plural(known(one.track), 'frame')}`,
  put: (state, id) => withMesh(state, id, one),
});

const aSurface = (one: BroughtSurface): Brought => ({
  name: one.name,
  told: `a flat surface, ${plural(known(one.track), 'frame')}, as it lies on frame ${one.frame}`,
  put: (state, id) => withSurface(state, id, one),
});

/** What would be brought in, in a sentence each. */
export const toldOf = ({ things }: BroughtIn): string[] => things.map(({ name, told }) => `${name}: ${told}`);

const known = ({ state }: { readonly state: ArrayLike<number> }) =>
  Array.from(state).filter((s) => s > 0).length;

/**
 * Takes it into the shot, as one step: a motion is held from then on.
 *
 * @throws LurnError `too-many` where the shot has no room for it; nothing is changed
 */
export function bringIn({ things, hold }: BroughtIn): void {
  const there = shotDocument().trackers.length;
  if (there + things.length > LIMITS.trackers)
    throw new LurnError(
      'too-many',
      `A shot has up to ${LIMITS.trackers} spots and surfaces; with these it would have ${there + things.length}.`,
    );
  const ids = things.map(() => crypto.randomUUID());
  edit((before) => {
    const state = things.reduce((s, { put }, k) => put(s, ids[k]), before);
    const first = state.document.trackers.find((t) => t.id === ids[0]);
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

function withMesh(state: ShotState, id: string, { name: whole, frame, mesh, track }: NamedMesh): ShotState {
  const name = whole.slice(0, LIMITS.nameLength);
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
