import { bordersOf, filledPlaces, type Point } from '@lurn/core/geometry';
import { EMPTY_SOFT_TRACK, softAt } from '@lurn/core/track';
import { meshOf, LIMITS, softById, softOf, softShape, softTrackOf, type SoftSurface } from '@lurn/model';
import { bench } from '../bench';
import { shotDocument, shotState } from '../shot';

/** Where the points of meshes are on frames. */

/** The soft surface that is selected, the first of several. */
export function selectedSoft(): SoftSurface | undefined {
  const { selected } = bench();
  return softOf(shotDocument()).find((s) => selected.includes(s.id));
}

/** The shape that a soft surface is laid flat to, by its id. */
export function laidOf(id: string): SoftSurface['laid'] {
  return softById(shotDocument(), id)?.laid;
}

/** Places of every vertex on a frame, those that are not known with the others; null where it is not known there. */
export function placesShown(soft: SoftSurface, frame: number): Point[] | null {
  const sample = softAt(softTrackOf(shotState(), soft.id), frame);
  if (!sample) return frame === soft.frame ? [...meshOf(soft).vertices] : null;
  return filledPlaces(softShape(soft, EMPTY_SOFT_TRACK).mesh.vertices, sample.vertices);
}

/** The border of a mesh on a frame, as an outline of no more corners than one may have; null where it is not known. */
export function borderShown(soft: SoftSurface, frame: number): Point[] | null {
  const places = placesShown(soft, frame);
  const [border] = bordersOf(soft.faces).sort((a, b) => b.length - a.length);
  if (!places || !border) return null;
  const every = Math.ceil(border.length / LIMITS.corners);
  return border.filter((_, i) => i % every === 0).map((v) => places[v]);
}
