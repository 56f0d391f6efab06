import { quadToQuad, type Quad } from '../../geometry/homography.js';
import { IDENTITY, translation, type Matrix3, type Point } from '../../geometry/matrix.js';
import { measuredEnd, type Measured } from '../../track/measured.js';
import { lost, shareAway, type Carried, type Carrying, type Unknown } from './ride-kind.js';

/** Carries by the points that a tracker measured: one gives a shift, four a homography. */
export function bySamples(
  track: Measured,
  { own, frame, unknown }: Carrying,
  at: (frame: number) => readonly Point[] | null,
): Carried {
  const from = placesOn(track, own, 'bridge', at);
  const to = placesOn(track, frame, unknown, at);
  if (!from || !to) return lost(unknown);
  const m = matrixBetween(from.places, to.places);
  return m ? { m, share: to.share, confidence: to.confidence } : { m: IDENTITY, share: 0, confidence: 0 };
}

function matrixBetween(from: readonly Point[], to: readonly Point[]): Matrix3 | null {
  if (from.length === 1) return translation(to[0].x - from[0].x, to[0].y - from[0].y);
  return quadToQuad(from as unknown as Quad, to as unknown as Quad);
}

interface Places {
  readonly places: readonly Point[];
  readonly share: number;
  readonly confidence: number;
}

/** Where the measured places are on a frame, and where they are taken to be if they are not known. */
function placesOn(
  track: Measured,
  frame: number,
  unknown: Unknown,
  at: (frame: number) => readonly Point[] | null,
): Places | null {
  const here = at(frame);
  if (here) return { places: here, share: 1, confidence: track.confidence[frame - track.start] };
  const known = (f: number) => track.state[f - track.start] > 0;
  let before = Math.min(frame, measuredEnd(track) - 1);
  while (before >= track.start && !known(before)) before--;
  let after = Math.max(frame, track.start);
  while (after < measuredEnd(track) && !known(after)) after++;
  const hasBefore = before >= track.start;
  const hasAfter = after < measuredEnd(track);
  if (!hasBefore && !hasAfter) return null;
  const [a, b] = [hasBefore ? at(before)! : at(after)!, hasAfter ? at(after)! : at(before)!];
  const t = hasBefore && hasAfter && unknown !== 'hold' ? (frame - before) / (after - before) : 0;
  const places = a.map((p, i) => ({ x: p.x + t * (b[i].x - p.x), y: p.y + t * (b[i].y - p.y) }));
  const away = Math.min(hasBefore ? frame - before : Infinity, hasAfter ? after - frame : Infinity);
  return { places, share: shareAway(unknown, away), confidence: 0 };
}
