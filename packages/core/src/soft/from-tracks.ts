import { LurnError } from '../errors.js';
import type { Mesh } from '../geometry/mesh.js';
import { measuredEnd } from '../track/measured.js';
import { triangulated } from './mesh-of-points.js';
import { sampleAt, withSamples, EMPTY_TRACK, type Track } from '../track/track.js';
import {
  EMPTY_SOFT_TRACK,
  softSample,
  softSamples,
  withSoftSamples,
  type SoftTrack,
  type SoftVertex,
} from './soft-track.js';

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
