import { quadToQuad, type Quad } from '../geometry/homography.js';
import { IDENTITY, invert, multiply, translation, type Matrix3, type Point } from '../geometry/matrix.js';
import { composeSimilarity, decomposeSimilarity } from '../geometry/similarity.js';
import { evaluatorOf, type Warp } from '../geometry/warp.js';
import { motionMatrix, type Motion } from '../solve/motion.js';
import { flatSide, softBeside, softWarp, unbent, type Side, type SoftShape } from '../soft/soft-warps.js';
import { surfaceAt, type SurfaceTrack } from '../surface/surface-track.js';
import { measuredEnd, type Measured } from '../track/measured.js';
import { sampleAt, type Track } from '../track/track.js';

/** What a layer rides on. */
export type Ride =
  /** Nothing: it stays where it is in the frame. */
  | { readonly on: 'frame' }
  /** A spot's place. */
  | { readonly on: 'spot'; readonly track: Track }
  /** A mover: its place, and if wished how it turns and grows. */
  | { readonly on: 'mover'; readonly mover: string; readonly rotation: boolean; readonly scale: boolean }
  /** A flat surface, with its perspective. */
  | { readonly on: 'surface'; readonly track: SurfaceTrack; readonly base: Quad }
  /** A soft surface, with every fold; told in the picture that it is laid flat to, or in that of the layer's own frame. */
  | { readonly on: 'soft'; readonly id: string; readonly soft: SoftShape; readonly laid?: boolean };

/** The picture in which what rides on a soft surface is told. */
export function ownSide({ soft, laid }: Ride & { on: 'soft' }, own: number): Side {
  return laid ? flatSide(soft, own) : own;
}

/** How a soft surface goes about a place from one side to another, as an affine map; null where that is not known. */
export function softTangent(soft: SoftShape, from: Side, to: Side, at: Point): Matrix3 | null {
  if (from === to) return IDENTITY;
  const mesh = softWarp(soft, from, to);
  return mesh && tangentOf(mesh, at);
}

/** What is done on frames on which it is not known where that is. */
export type Unknown = 'bridge' | 'hold' | 'fade' | 'off';

/** Where a layer is carried on a frame. */
export interface Carried {
  /** Places of its own frame to those of this one, as shot. */
  readonly m: Matrix3;
  /** The same where it bends, exactly, there and back; `m` is then how it goes about its middle. */
  readonly bent?: { readonly forth: Warp; readonly back: Warp };
  /** How much of it is shown, 0 to 1. */
  readonly share: number;
  /** How sure that is: the tracker's confidence, and 0 where nothing was measured. */
  readonly confidence: number;
}

/** Frames over which a layer fades out where its ride is not known, and in again. */
const FADE = 8;

/**
 * Carries a layer from its own frame to another.
 *
 * @param middle  of the layer, on its own frame: what it turns and grows about where it does not do both
 * @param motions of movers, by their ids
 */
export function carry(
  ride: Ride,
  own: number,
  frame: number,
  unknown: Unknown,
  middle: Point,
  motions: Readonly<Record<string, Motion>>,
): Carried {
  switch (ride.on) {
    case 'frame':
      return { m: IDENTITY, share: 1, confidence: 1 };
    case 'spot':
      return bySamples(ride.track, own, frame, unknown, (f) => {
        const s = sampleAt(ride.track, f);
        return s && [s];
      });
    case 'surface':
      return bySamples(ride.track, own, frame, unknown, (f) => surfaceAt(ride.track, f)?.corners ?? null);
    case 'soft':
      return bySoft(ride.soft, ownSide(ride, own), frame, unknown, middle);
    case 'mover':
      return byMotion(ride, motions[ride.mover], own, frame, unknown, middle);
  }
}

function bySoft(soft: SoftShape, own: Side, frame: number, unknown: Unknown, middle: Point): Carried {
  const nowhere = { m: IDENTITY, share: unknown === 'off' || unknown === 'fade' ? 0 : 1, confidence: 0 };
  const { track } = soft;
  const known = (f: number) => track.state[f - track.start] > 0 || f === soft.frame;
  const { before, after } = softBeside(soft, frame);
  const held = unknown === 'hold' && before !== null ? before : frame;
  const mesh = softWarp(soft, own, held);
  if (!mesh) return nowhere;
  const away = known(frame) ? 0 : Math.min(frame - (before ?? -Infinity), (after ?? Infinity) - frame);
  const share = away === 0 ? 1 : shareAway(unknown, away);
  const confidence = frame === soft.frame ? 1 : known(frame) ? track.confidence[frame - track.start] : 0;
  const bent = own === held ? undefined : { forth: mesh, back: unbent(mesh) };
  return { m: tangentOf(mesh, middle), bent, share, confidence };
}

/** How a warp goes about a place, as an affine map. */
function tangentOf(mesh: Warp, at: Point): Matrix3 {
  const place = evaluatorOf(mesh);
  const [p, q, r] = [place.at(at.x, at.y), place.at(at.x + 1, at.y), place.at(at.x, at.y + 1)];
  const [a, b, d, e] = [q.x - p.x, r.x - p.x, q.y - p.y, r.y - p.y];
  if (Math.abs(a * e - b * d) < 1e-6) return translation(p.x - at.x, p.y - at.y);
  return [a, b, p.x - a * at.x - b * at.y, d, e, p.y - d * at.x - e * at.y, 0, 0, 1];
}

/** How much is shown of what is so many frames from where it is known. */
function shareAway(unknown: Unknown, away: number): number {
  return unknown === 'off' ? 0 : unknown === 'fade' ? Math.max(0, 1 - away / (FADE + 1)) : 1;
}

function bySamples(
  track: Measured,
  own: number,
  frame: number,
  unknown: Unknown,
  at: (frame: number) => readonly Point[] | null,
): Carried {
  const from = placesOn(track, own, 'bridge', at);
  const to = placesOn(track, frame, unknown, at);
  if (!from || !to)
    return { m: IDENTITY, share: unknown === 'off' || unknown === 'fade' ? 0 : 1, confidence: 0 };
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

function byMotion(
  { rotation, scale }: Ride & { on: 'mover' },
  motion: Motion | undefined,
  own: number,
  frame: number,
  unknown: Unknown,
  middle: Point,
): Carried {
  if (!motion) return { m: IDENTITY, share: 1, confidence: 0 };
  // Beyond a cut there is another picture, which has nothing to do with where the layer was made.
  const part = (f: number) => motion.cuts?.filter((cut) => cut <= f).length ?? 0;
  if (part(own) !== part(frame)) return { m: IDENTITY, share: 0, confidence: 0 };
  const whole = multiply(motionMatrix(motion, frame), invert(motionMatrix(motion, own)));
  const known = motion.support[frame] !== 'none' || motion.filled?.[frame] === 1;
  let away = 0;
  if (!known && unknown === 'fade') {
    const { support } = motion;
    while (
      away <= FADE &&
      (support[frame - away] ?? 'none') === 'none' &&
      (support[frame + away] ?? 'none') === 'none'
    )
      away++;
  }
  const share = known ? 1 : unknown === 'off' ? 0 : 1 - away / (FADE + 1);
  const confidence = known ? 1 : 0;
  if (rotation && scale) return { m: whole, share: Math.max(0, share), confidence };
  const parts = decomposeSimilarity(whole, middle, motion.pixelAspect);
  const kept = { ...parts, rotation: rotation ? parts.rotation : 0, logScale: scale ? parts.logScale : 0 };
  return { m: composeSimilarity(kept, middle, motion.pixelAspect), share: Math.max(0, share), confidence };
}
