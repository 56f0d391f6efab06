import { LurnError } from '../errors.js';
import type { Mesh } from '../geometry/mesh.js';
import type { Point } from '../geometry/matrix.js';
import { softSamples, type SoftTrack } from '../soft/soft-track.js';

/** A mesh with its motion, as it goes out. */
export interface NamedMesh {
  readonly name: string;
  /** Its own frame, on which its vertices lie where it tells. */
  readonly frame: number;
  readonly mesh: Mesh;
  readonly track: SoftTrack;
}

/** A mesh with its motion, as a file has it. */
export interface MeshEntry {
  readonly name: string;
  readonly frame: number;
  readonly vertices: readonly (readonly [number, number])[];
  readonly faces: readonly (readonly number[])[];
  readonly frames: readonly {
    readonly frame: number;
    /** null where a vertex is hidden or has ended. */
    readonly vertices: readonly (readonly [number, number] | null)[];
    readonly confidence: readonly number[];
  }[];
}

const rounded = (v: number) => Math.round(v * 1e4) / 1e4;
const pair = ({ x, y }: Point) => [rounded(x), rounded(y)] as const;

/** MESH.json. */
export function writeMeshes(meshes: readonly NamedMesh[]): string {
  const told = meshes.map(({ name, frame, mesh, track }): MeshEntry => ({
    ...{ name, frame, vertices: mesh.vertices.map(pair), faces: mesh.faces },
    frames: [...softSamples(track)].map((s) => ({
      frame: s.frame,
      vertices: s.vertices.map((v) => v && pair(v)),
      confidence: s.vertices.map((v) => Math.round((v?.confidence ?? 0) * 1e3) / 1e3),
    })),
  }));
  return `${JSON.stringify({ meshes: told })}\n`;
}

/** A mesh on each frame as Wavefront OBJ: y up, origin at the picture's bottom left, z 0, texture places on its own frame. */
export function meshObj(
  { mesh, name }: Pick<NamedMesh, 'mesh' | 'name'>,
  places: readonly Point[],
  { width, height }: { readonly width: number; readonly height: number },
): string {
  const lines = [`o ${name.replace(/\s+/g, '_')}`];
  for (const p of places) lines.push(`v ${rounded(p.x)} ${rounded(height - p.y)} 0`);
  for (const p of mesh.vertices)
    lines.push(`vt ${(p.x / width).toFixed(6)} ${(1 - p.y / height).toFixed(6)}`);
  // Clockwise on the screen, y down, is anticlockwise where y goes up: seen from the front.
  for (const face of mesh.faces)
    lines.push(
      `f ${[...face]
        .reverse()
        .map((v) => `${v + 1}/${v + 1}`)
        .join(' ')}`,
    );
  return `${lines.join('\n')}\n`;
}

/**
 * Reads MESH.json.
 *
 * @throws LurnError `bad-mesh` that says where and what
 */
export function parseMeshes(text: string): MeshEntry[] {
  let root: unknown;
  try {
    root = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (error) {
    throw bad(`it is not JSON (${(error as Error).message})`);
  }
  const meshes = (root as { meshes?: unknown } | null)?.meshes;
  if (!Array.isArray(meshes)) throw bad('it must be { "meshes": [ ... ] }');
  meshes.forEach((mesh: MeshEntry, m) => {
    const where = `meshes[${m}]`;
    if (typeof mesh?.name !== 'string') throw bad(`${where}.name must be a text`);
    if (!Number.isInteger(mesh.frame)) throw bad(`${where}.frame must be a whole number`);
    if (!Array.isArray(mesh.vertices) || !mesh.vertices.every(isPair))
      throw bad(`${where}.vertices must be a list of [x, y]`);
    const n = mesh.vertices.length;
    if (
      !Array.isArray(mesh.faces) ||
      !mesh.faces.every((f) => Array.isArray(f) && f.every((v: number) => v >= 0 && v < n))
    )
      throw bad(`${where}.faces must be lists of numbers of its ${n} vertices`);
    if (!Array.isArray(mesh.frames)) throw bad(`${where}.frames must be a list`);
    mesh.frames.forEach((frame, i) => {
      const at = `${where}.frames[${i}]`;
      if (!Number.isInteger(frame?.frame) || frame.frame < 0) throw bad(`${at}.frame must be a whole number`);
      if (
        !Array.isArray(frame.vertices) ||
        frame.vertices.length !== n ||
        !frame.vertices.every((v: unknown) => v === null || isPair(v))
      )
        throw bad(`${at}.vertices must be ${n} times [x, y] or null`);
      if (!Array.isArray(frame.confidence) || frame.confidence.length !== n)
        throw bad(`${at}.confidence must be ${n} numbers`);
    });
  });
  return meshes as MeshEntry[];
}

const isPair = (v: unknown) => Array.isArray(v) && v.length === 2 && v.every((n) => Number.isFinite(n));

const bad = (why: string) => new LurnError('bad-mesh', `The mesh file cannot be used: ${why}.`);
