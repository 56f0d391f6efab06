import { LurnError } from '../../../errors.js';
import { filledPlaces } from '../../../geometry/mesh-field.js';
import type { Mesh } from '../../../geometry/mesh.js';
import type { Point } from '../../../geometry/matrix.js';
import {
  EMPTY_SOFT_TRACK,
  softSample,
  softSamples,
  withSoftSamples,
  type SoftTrack,
  type SoftVertex,
} from '../../../soft/soft-track.js';
import { rounded } from '../data-export.js';
import type { DataClip, MovingData, MovingFrame, MovingMesh, MovingThing } from '../moving-data.js';

/** A mesh with its motion, as it goes out. */
export interface NamedMesh {
  readonly name: string;
  /** Its own frame, on which its vertices lie where it tells. */
  readonly frame: number;
  readonly mesh: Mesh;
  readonly track: SoftTrack;
}

const flat = (places: readonly (Point | null)[]) => places.flatMap((p) => (p ? [p.x, p.y] : [NaN, NaN]));

/** Meshes as data. */
export function dataOfMeshes(
  meshes: readonly NamedMesh[],
  times: ArrayLike<number>,
  clip: DataClip,
): MovingData {
  const things = meshes.map(({ name, frame: own, mesh, track }): MovingThing => ({
    name,
    mesh: { frame: own, vertices: flat(mesh.vertices), faces: mesh.faces },
    frames: [...softSamples(track)].map(({ frame, vertices, state }): MovingFrame => ({
      ...{ frame, time: times[frame], values: flat(vertices), state },
      confidences: vertices.map((v) => v?.confidence ?? 0),
      states: vertices.map((v) => v?.state ?? 'missing'),
    })),
  }));
  return { kind: 'meshes', clip, things };
}

/** Every point of meshes as a track of its own, by its number. */
export function pointsOfMeshes({ clip, things }: MovingData): MovingData {
  const points = things.flatMap(({ name, mesh, frames }) =>
    Array.from({ length: mesh!.vertices.length / 2 }, (_, v): MovingThing => ({
      name: `${name} ${v}`,
      frames: frames.flatMap(({ frame, time, values, confidences, states }): MovingFrame[] => {
        const at = values.slice(2 * v, 2 * v + 2);
        if (Number.isNaN(at[0])) return [];
        return [{ frame, time, values: at, confidence: confidences?.[v], state: states?.[v] }];
      }),
    })),
  );
  return { kind: 'tracks', clip, things: points };
}

function pairs(values: readonly number[]): ((readonly [number, number]) | null)[] {
  return Array.from({ length: values.length / 2 }, (_, v) => {
    const [x, y] = [values[2 * v], values[2 * v + 1]];
    return Number.isNaN(x) ? null : [rounded(x), rounded(y)];
  });
}

/** As MESH.json has them. */
export function writtenMeshes({ things }: MovingData): object[] {
  return things.map(({ name, mesh, frames }) => ({
    ...{ name, frame: mesh!.frame, vertices: pairs(mesh!.vertices), faces: mesh!.faces },
    frames: frames.map(({ frame, values, confidences }) => ({
      ...{ frame, vertices: pairs(values) },
      confidence: confidences!.map((c) => Math.round(c * 1e3) / 1e3),
    })),
  }));
}

/** Where all the points of a mesh are on each frame on which it is known, those that are not with the others. */
export function placesOfMesh({ mesh, frames }: MovingThing): { frame: MovingFrame; places: Point[] }[] {
  const points = ({ vertices }: MovingMesh) => pointsOf(vertices) as Point[];
  return frames.flatMap((frame) => {
    const places = filledPlaces(points(mesh!), pointsOf(frame.values));
    return places ? [{ frame, places }] : [];
  });
}

/** Flat numbers as points; null where one is not known. */
export const pointsOf = (values: readonly number[]): (Point | null)[] =>
  Array.from({ length: values.length / 2 }, (_, v) =>
    Number.isNaN(values[2 * v]) ? null : { x: values[2 * v], y: values[2 * v + 1] },
  );

/** Meshes that are told of, as what was measured of them. */
export function meshesOfData({ things }: MovingData): NamedMesh[] {
  return things.flatMap(({ name, mesh, frames }) => {
    if (frames.length === 0) return [];
    const samples = frames.map(({ frame, values, confidences, states }) =>
      softSample(
        frame,
        pointsOf(values).map((p, v): SoftVertex | null => {
          const state = (states?.[v] ?? (frame === mesh!.frame ? 'pinned' : 'tracked')) as SoftVertex['state'];
          return p && { ...p, confidence: confidences?.[v] ?? 1, state };
        }),
      ),
    );
    const own = { vertices: pointsOf(mesh!.vertices) as Point[], faces: mesh!.faces };
    return [{ name, frame: mesh!.frame, mesh: own, track: withSoftSamples(EMPTY_SOFT_TRACK, samples) }];
  });
}

/** The meshes of a MESH.json. @throws LurnError `bad-data` that says where and what */
export function readMeshes(list: readonly unknown[], fps: number | null): MovingThing[] {
  return list.map((entry, m) => {
    const where = `meshes[${m}]`;
    const { name, frame, vertices, faces, frames } = (entry ?? {}) as Record<string, unknown>;
    if (typeof name !== 'string') throw bad(`${where}.name must be a text`);
    if (!Number.isInteger(frame)) throw bad(`${where}.frame must be a whole number`);
    if (!Array.isArray(vertices) || !vertices.every(isPair))
      throw bad(`${where}.vertices must be a list of [x, y]`);
    const n = vertices.length;
    const isVertex = (v: unknown) => Number.isInteger(v) && (v as number) >= 0 && (v as number) < n;
    if (!Array.isArray(faces) || !faces.every((f) => Array.isArray(f) && f.length >= 3 && f.every(isVertex)))
      throw bad(`${where}.faces must be lists of numbers of its ${n} vertices`);
    if (!Array.isArray(frames)) throw bad(`${where}.frames must be a list`);
    const flatten = (places: unknown[]) =>
      places.flatMap((p) => (p === null ? [NaN, NaN] : (p as [number, number])));
    return {
      name,
      mesh: { frame: frame as number, vertices: flatten(vertices), faces: faces as number[][] },
      frames: frames.map((f: Record<string, unknown> | null, i): MovingFrame => {
        const at = `${where}.frames[${i}]`;
        const own = f?.frame;
        if (!Number.isInteger(own) || (own as number) < 0) throw bad(`${at}.frame must be a whole number`);
        const places = f!.vertices;
        if (!Array.isArray(places) || places.length !== n || !places.every((v) => v === null || isPair(v)))
          throw bad(`${at}.vertices must be ${n} times [x, y] or null`);
        const sure = f!.confidence;
        if (!Array.isArray(sure) || sure.length !== n || !sure.every((c) => Number.isFinite(c)))
          throw bad(`${at}.confidence must be ${n} numbers`);
        const time = fps ? (own as number) / fps : NaN;
        return { frame: own as number, time, values: flatten(places), confidences: sure as number[] };
      }),
    };
  });
}

const isPair = (v: unknown) => Array.isArray(v) && v.length === 2 && v.every((n) => Number.isFinite(n));

const bad = (why: string) => new LurnError('bad-data', `The data cannot be read: ${why}.`);
