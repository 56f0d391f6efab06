import { quadOn, surfaceSamples, type SurfaceTrack } from '../surface/surface-track.js';
import type { Quad } from '../geometry/homography.js';
import { writeRow } from './csv.js';

/** A surface's quad over time. */
export interface NamedSurface {
  readonly name: string;
  /** The corners that its samples tell of, and those of its quad, on its own frame. */
  readonly base: Quad;
  readonly quad: Quad;
  readonly track: SurfaceTrack;
}

const HEADER = [
  ...['surface', 'frame', 'time_s'],
  ...[1, 2, 3, 4].flatMap((k) => [`x${k}_px`, `y${k}_px`]),
  ...['confidence', 'state'],
];

/**
 * Writes CORNERS.csv: one row a sample, the quad's corners clockwise from the top left, to a ten-thousandth
 * of a pixel.
 *
 * @param times  seconds of each frame from frame 0
 */
export function writeCorners(surfaces: readonly NamedSurface[], times: ArrayLike<number>): string {
  const rows = [writeRow(HEADER)];
  for (const surface of surfaces)
    for (const row of cornerRows(surface, times)) rows.push(writeRow([surface.name, ...row]));
  return rows.join('\n') + '\n';
}

/** Frame, seconds, x and y of each corner, confidence and state of every sample, as they are written. */
export function* cornerRows(
  { base, quad, track }: Omit<NamedSurface, 'name'>,
  times: ArrayLike<number>,
): Generator<string[]> {
  for (const { frame, confidence, state } of surfaceSamples(track)) {
    const corners = quadOn(base, quad, track, frame);
    if (!corners) continue;
    const places = corners.flatMap((p) => [p.x.toFixed(4), p.y.toFixed(4)]);
    yield [String(frame), times[frame].toFixed(6), ...places, confidence.toFixed(3), state];
  }
}
