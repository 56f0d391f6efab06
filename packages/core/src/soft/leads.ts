import { movingWeights, nearestTo } from '../geometry/moving-affine.js';
import type { Point } from '../geometry/matrix.js';
import { sampleAt, type Track } from '../track/track.js';
import type { SoftLead } from './soft-equations.js';

/** What else tells where vertices are, by their numbers - of other places by numbers beyond; empty where nothing does. */
export type SoftLeads = ReadonlyMap<number, SoftLead>;

/**
 * What is asked on every frame where a soft surface may be, such as a model of faces.
 *
 * @param frame  the frame
 * @param about  where its vertices are, as far as that is known by then
 */
export type LeadsOn = (frame: number, about: readonly (Point | null)[]) => Promise<SoftLeads>;

/** A place of a soft surface that something else tracks: a spot, or a corner of a flat surface. */
export interface JoinedTrack {
  /** Where it lies on the surface's own frame. */
  readonly at: Point;
  readonly track: Track;
}

/** A vertex this near to where a track has joined is the one that goes with it, in pixels. */
const SAME = 1.5;
/** How sure a joined track is, in pixels, at the best and the least. */
const [BEST_JOINED, LEAST_JOINED] = [0.08, 3];

/** Where tracks that have joined lead a surface on a frame: only where they were measured or put by hand. */
export function leadsByJoined(
  joined: readonly JoinedTrack[],
  vertices: readonly Point[],
  frame: number,
): SoftLeads {
  const out = new Map<number, SoftLead>();
  joined.forEach(({ at, track }, i) => {
    const sample = sampleAt(track, frame);
    if (sample?.state !== 'pinned' && sample?.state !== 'tracked') return;
    const vertex = vertices.findIndex((p) => Math.hypot(p.x - at.x, p.y - at.y) < SAME);
    // Of a vertex that was taken out its place still tells.
    const key = vertex >= 0 ? vertex : vertices.length + i;
    const sure = sample.state === 'pinned' ? 1 : sample.confidence;
    out.set(key, {
      at: vertex >= 0 ? vertices[vertex] : at,
      to: { x: sample.x, y: sample.y },
      sd: Math.min(LEAST_JOINED, Math.max(BEST_JOINED, deviationOf(sure))),
    });
  });
  return out;
}

/** The standard deviation along an axis of what is within half a pixel with a probability (Rayleigh's distribution). */
const deviationOf = (within: number) => Math.sqrt(0.125 / -Math.log(Math.max(1e-12, 1 - within)));

/** Landmarks that a vertex goes with. */
const NEIGHBOURS = 8;
/** A vertex farther from all landmarks than this part of their width is not told of. */
const BEYOND = 0.15;
/** How sure a landmark is, in parts of the width of all, and in pixels at the least. */
const [SURE, LEAST_SURE] = [0.015, 0.7];

/**
 * Where vertices are by landmarks that are known on their own frame and on another: each goes with those about it (moving
 * least squares). What is constantly wrong with the landmarks tells nothing: only how they went does.
 *
 * @param own    landmarks on the vertices' own frame
 * @param now    the same ones on another
 */
export function leadsBy(own: readonly Point[], now: readonly Point[], vertices: readonly Point[]): SoftLeads {
  const out = new Map<number, SoftLead>();
  if (own.length < 3 || now.length < own.length) return out;
  const width = widthOf(own);
  const sd = Math.max(LEAST_SURE, SURE * widthOf(now));
  vertices.forEach((at, v) => {
    const near = nearestTo(at, own, NEIGHBOURS);
    if (near[0].d > BEYOND * width) return;
    const apart = Math.max(1, near[near.length - 1].d / 2);
    const weights = movingWeights(at, near.map(({ i }) => own[i]), apart); // prettier-ignore
    let [x, y] = [0, 0];
    near.forEach(({ i }, k) => {
      x += weights[k] * now[i].x;
      y += weights[k] * now[i].y;
    });
    out.set(v, { at, to: { x, y }, sd });
  });
  return out;
}

/** Of several groups of landmarks, the one that lies about some places; null where none does. */
export function nearestGroup<G extends { readonly points: readonly Point[] }>(
  groups: readonly G[],
  places: readonly (Point | null)[],
): G | null {
  const known = places.filter((p) => p !== null);
  if (known.length === 0) return null;
  const middle = middleOf(known);
  const [best] = groups
    .map((group) => {
      const at = middleOf(group.points);
      return { group, d: Math.hypot(at.x - middle.x, at.y - middle.y) / widthOf(group.points) };
    })
    .filter(({ d }) => d < 1)
    .sort((a, b) => a.d - b.d);
  return best?.group ?? null;
}

const middleOf = (points: readonly Point[]): Point => ({
  x: points.reduce((sum, p) => sum + p.x, 0) / points.length,
  y: points.reduce((sum, p) => sum + p.y, 0) / points.length,
});

function widthOf(points: readonly Point[]): number {
  let [least, most] = [Infinity, -Infinity];
  for (const { x } of points) [least, most] = [Math.min(least, x), Math.max(most, x)];
  return Math.max(1, most - least);
}
