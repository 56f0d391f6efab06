import {
  apply,
  cornersAt,
  faultOfOutline,
  faultOfQuad,
  IDENTITY,
  invert,
  isClockwise,
  isFacing,
  moveQuad,
  outlineOf,
  quadRound,
  quadToQuad,
  rectangle,
  type AreaKind,
  type Matrix3,
  type Point,
  type Quad,
} from '@lurn/core/geometry';
import { EMPTY_SURFACE_TRACK, surfaceAt, surfaceMotion, withSurfaceSamples } from '@lurn/core/track';
import {
  addSurface,
  changeSurface,
  LIMITS,
  NEW_SURFACE,
  nextColour,
  nextSurfaceName,
  quadOf,
  setMeasured,
  storedQuad,
  surfaceById,
  surfacesOf,
  surfaceTrackOf,
  type Surface,
  type SurfaceShape,
} from '@lurn/model';
import { toast } from 'sonner';
import { bench, setBench } from './bench';
import { edit, shotDocument, shotState } from './shot';
import { pairs } from '../lib/places';

/** What the editor does to flat surfaces; each is one step of undo unless a gesture is under way. */

/** A surface's own frame to another; null where it is not known there. */
export function motionOn(surface: Surface, frame: number): Matrix3 | null {
  const track = surfaceTrackOf(shotState(), surface.id);
  if (surfaceAt(track, frame)) return surfaceMotion(quadOf(surface.base), track, frame);
  return frame === surface.frame ? IDENTITY : null;
}

/** The selected surface. */
export function selectedSurface(): Surface | undefined {
  const { selected } = bench();
  return surfacesOf(shotDocument()).find((s) => selected.includes(s.id));
}

/**
 * A surface whose shorter side is less than this part of the picture's height does not give the perspective of the whole picture: a
 * hundredth of a pixel at its corners would be many at the picture's, and the zoom that hides them.
 */
const PERSPECTIVE_FROM = 1 / 6;

/** Makes a surface of an outline drawn on the present frame: that becomes its own. */
export function drawSurface(corners: readonly Point[], smooth: boolean): void {
  const { frame, info } = bench();
  const document = shotDocument();
  const fault = faultOfOutline(outlineOf(corners, smooth), info.width, info.height);
  if (fault) {
    toast.warning(`No surface was made: what was drawn ${fault}. Draw round it once more.`, { id: 'draw' });
    return;
  }
  const outline = outlineOf(corners, smooth);
  const [xs, ys] = [outline.map((p) => p.x), outline.map((p) => p.y)];
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  // What is stored is rounded: the sample on its own frame is the base exactly.
  const stored = storedQuad(rectangle(left, top, right, bottom));
  const base = quadOf(stored);
  const name = nextSurfaceName(document);
  const surface: Omit<Surface, 'mover'> = {
    ...NEW_SURFACE,
    ...{ id: crypto.randomUUID(), name, colour: nextColour(document), frame },
    base: stored,
    quad: storedQuad(snapped(corners, smooth) ?? base),
    perspective: Math.min(right - left, bottom - top) >= PERSPECTIVE_FROM * info.height,
    shapes: [{ kind: 'focus', smooth, keys: [{ frame, shape: pairs(corners) }] }],
  };
  const own = { frame, corners: base, confidence: 1, state: 'pinned' as const };
  edit((s) => addSurface(s, surface, withSurfaceSamples(EMPTY_SURFACE_TRACK, [own])));
  setBench({ selected: [surface.id], area: null });
}

/** Four corners that an outline suggests; null where it suggests none. */
function snapped(corners: readonly Point[], smooth: boolean): Quad | null {
  const four = !smooth && corners.length === 4 ? fromTopLeft(corners) : null;
  return four ?? quadRound(outlineOf(corners, smooth));
}

/** Four corners clockwise from the one nearest to the top left; null where they are no view of a rectangle. */
function fromTopLeft(corners: readonly Point[]): Quad | null {
  const turned = isClockwise(corners as unknown as Quad) ? corners : [...corners].reverse();
  const first = turned.reduce((best, p, i) => (p.x + p.y < turned[best].x + turned[best].y ? i : best), 0);
  const quad = [0, 1, 2, 3].map((k) => turned[(first + k) % 4]) as unknown as Quad;
  return isClockwise(quad) ? quad : null;
}

/** One more outline of the selected surface: of what belongs to it, or of what is left out of it. */
export function addOutline(kind: AreaKind, corners: readonly Point[], smooth: boolean): void {
  const surface = selectedSurface();
  const { frame, info } = bench();
  const m = surface && motionOn(surface, frame);
  if (!surface || !m) {
    toast.warning('Select a surface that is known on this frame first.', { id: 'draw' });
    return;
  }
  const fault = faultOfOutline(outlineOf(corners, smooth), info.width, info.height);
  if (fault || surface.shapes.length >= LIMITS.shapes) {
    toast.warning(
      fault ? `Nothing was added: what was drawn ${fault}.` : 'It has as many outlines as it may.',
      { id: 'draw' },
    );
    return;
  }
  const back = invert(m);
  const shape = pairs(corners.map((p) => apply(back, p.x, p.y)));
  const added: SurfaceShape = { kind, smooth, keys: [{ frame: surface.frame, shape }] };
  edit((s) => changeSurface(s, surface.id, { shapes: [...surface.shapes, added] }));
}

/** Takes one of several outlines away; one of what belongs to it stays. */
export function removeOutline(id: string, index: number): void {
  const surface = surfaceById(shotDocument(), id);
  const left = surface?.shapes.filter((_, i) => i !== index) ?? [];
  if (left.some((s) => s.kind === 'focus')) edit((s) => changeSurface(s, id, { shapes: left }));
}

/** Where a surface's quad is on a frame; null where that is not known. */
export function quadShown(surface: Surface, frame: number): Quad | null {
  const m = motionOn(surface, frame);
  const quad = quadOf(surface.quad);
  return m && isFacing(m, quad) ? moveQuad(m, quad) : null;
}

/** Puts a corner of the quad where it is wanted on a frame; a quad that no rectangle looks like is not taken. */
export function setQuadCorner(id: string, corner: number, frame: number, at: Point): void {
  const surface = surfaceById(shotDocument(), id);
  const m = surface && motionOn(surface, frame);
  if (!surface || !m) return;
  const to = apply(invert(m), at.x, at.y);
  const quad = quadOf(surface.quad).map((p, i) => (i === corner ? to : p)) as unknown as Quad;
  if (faultOfQuad(quad) === null) edit((s) => changeSurface(s, id, { quad: storedQuad(quad) }));
}

/** The quad by the first outline's corners. */
export function snapQuad(id: string): void {
  const surface = surfaceById(shotDocument(), id);
  const shape = surface?.shapes.find((s) => s.kind === 'focus');
  if (!surface || !shape) return;
  const quad = snapped(cornersAt(shape, surface.frame), shape.smooth);
  if (quad) edit((s) => changeSurface(s, id, { quad: storedQuad(quad) }));
}

/** A surface is put right by hand on a frame: where its quad is said to be becomes a pin. */
export function pinQuad(id: string, frame: number, quad: Quad): void {
  const surface = surfaceById(shotDocument(), id);
  if (!surface || faultOfQuad(quad) !== null) return;
  const own = quadOf(surface.quad);
  const m = quadToQuad(own, quad);
  if (!m) return;
  const corners = moveQuad(m, quadOf(surface.base));
  if (!isClockwise(corners)) return;
  const pin = { frame, corners, confidence: 1, state: 'pinned' as const };
  edit((s) => setMeasured(s, { [id]: withSurfaceSamples(surfaceTrackOf(s, id), [pin]) }));
}
