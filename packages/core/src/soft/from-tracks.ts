import { LurnError } from '../errors.js';
import type { Mesh } from '../geometry/mesh.js';
import type { Point } from '../geometry/matrix.js';
import { movingWeights, nearestTo } from '../geometry/moving-affine.js';
import { measuredEnd } from '../track/measured.js';
import { triangulated } from './mesh-of-points.js';
import { sampleAt, withSamples, EMPTY_TRACK, type Track } from '../track/track.js';
import type { MeshedTrack } from './soft-edits.js';
import {
  EMPTY_SOFT_TRACK,
  softSample,
  softSamples,
  withSoftSamples,
  type SoftTrack,
  type SoftVertex,
} from './soft-track.js';

/** Vertices that a track goes with where it is carried back. */
const NEIGHBOURS = 12;

/** The fewest tracks that a mesh can be made of. */
export const FEWEST_TRACKS = 4;

/**
 * A mesh of points that were tracked one by one: triangulated (Delaunay) on the frame on which most of them are known,
 * each point where its track has it; those that are not known on that frame are left out.
 *
 * @throws LurnError `mesh-small` when fewer than {@link FEWEST_TRACKS} are known on any frame, or all lie on one line
 */
export function meshFromTracks(tracks: readonly Track[]): { frame: number; mesh: Mesh; track: SoftTrack } {
  const first = Math.min(...tracks.map((t) => t.start));
  const end = Math.max(...tracks.map(measuredEnd));
  const known = (f: number) => tracks.filter((t) => t.state[f - t.start] > 0);
  let frame = first;
  let most = 0;
  for (let f = first; f < end; f++) {
    const n = known(f).length;
    if (n > most) [frame, most] = [f, n];
  }
  if (most < FEWEST_TRACKS)
    throw new LurnError(
      'mesh-small',
      `A mesh needs ${FEWEST_TRACKS} points that are known on one frame; here there are ${most}. Track more spots over the same frames.`,
    );
  const used = known(frame);
  const vertices = used.map((t) => {
    const { x, y } = sampleAt(t, frame)!;
    return { x, y };
  });
  const faces = triangulated(vertices);
  if (faces.length === 0)
    throw new LurnError('mesh-small', 'The points lie on one line. Track some beside it.');
  const samples = Array.from({ length: end - first }, (_, i) =>
    softSample(
      first + i,
      used.map((t): SoftVertex | null => {
        const s = sampleAt(t, first + i);
        return s && { x: s.x, y: s.y, confidence: s.confidence, state: s.state };
      }),
    ),
  ).filter((s) => s.vertices.some((v) => v));
  return { frame, mesh: { vertices, faces }, track: withSoftSamples(EMPTY_SOFT_TRACK, samples) };
}

/**
 * Where a track lies on a mesh's own frame: as it is known there, else from the nearest frame on which both are known,
 * carried back by the mesh.
 *
 * @returns null where they are never known together
 */
export function placeOfTrack({ mesh, track: soft }: MeshedTrack, own: number, track: Track): Point | null {
  const there = sampleAt(track, own);
  if (there) return { x: there.x, y: there.y };
  const both = [...softSamples(soft)]
    .filter(({ frame, vertices }) => sampleAt(track, frame) && vertices.filter((v) => v).length >= 3)
    .sort((a, b) => Math.abs(a.frame - own) - Math.abs(b.frame - own));
  if (both.length === 0) return null;
  const [{ frame, vertices }] = both;
  const { x, y } = sampleAt(track, frame)!;
  const near = nearestTo({ x, y }, vertices, NEIGHBOURS);
  const weights = movingWeights({ x, y }, near.map(({ i }) => vertices[i]!), Math.max(1, near[0].d)); // prettier-ignore
  return near.reduce(
    (sum, { i }, k) => ({
      x: sum.x + weights[k] * mesh.vertices[i].x,
      y: sum.y + weights[k] * mesh.vertices[i].y,
    }),
    { x: 0, y: 0 },
  );
}

/** The points of a mesh as tracks, one each. */
export function tracksOfMesh(track: SoftTrack): Track[] {
  const samples = [...softSamples(track)];
  return Array.from({ length: track.width }, (_, v) =>
    withSamples(
      EMPTY_TRACK,
      samples.flatMap(({ frame, vertices }) => {
        const at = vertices[v];
        return at ? [{ frame, x: at.x, y: at.y, confidence: at.confidence, state: at.state }] : [];
      }),
    ),
  );
}
