import {
  apply,
  isClockwise,
  faultOfQuad,
  translation,
  type Matrix3,
  type Point,
  type Quad,
} from '@lurn/core';
import {
  addStroke,
  changeLayer,
  layerById,
  quadOf,
  removeLayers,
  storedQuad,
  surfaceById,
  type GraphicLayer,
  type Layer,
  type LayerChange,
  type LayerOutline,
  type PaintLayer,
  type PaintStroke,
  type Rides,
} from '@lurn/model';
import { bench, setBench } from './bench';
import { edit, shotDocument, shotState } from './shot';
import { quadShown } from './surfaces';
import { carriedOn } from './layer-places';

/** What the editor does to layers; each is one step of undo unless a gesture is under way. */

/** The selected layer. */
export function selectedLayer(): Layer | undefined {
  const { layer } = bench();
  return layer === null ? undefined : layerById(shotState(), layer);
}

/** Places as they are stored: to a hundredth of a pixel. */
export const pairs = (corners: readonly Point[]) =>
  corners.map(({ x, y }) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100] as const);

export function change(id: string, part: LayerChange): void {
  edit((s) => changeLayer(s, id, part));
}

/** Puts the corners of a graphic or text where they are wanted; those that no rectangle looks like are not taken. */
export function setCorners(id: string, corners: Quad): void {
  if (faultOfQuad(corners) === null && isClockwise(corners)) change(id, { corners: storedQuad(corners) });
}

/** Fills the quad of the surface that a layer rides on. */
export function fillQuad(id: string): void {
  const layer = layerById(shotState(), id);
  const surface = layer && surfaceById(shotDocument(), layer.rides.id);
  const quad = surface && quadShown(surface, layer.frame);
  if (quad) setCorners(id, quad);
}

/** Gives a layer something else to ride on, from the frame that it was made on: there it stays where it was put. */
export function rideOn(id: string, rides: Rides): void {
  change(id, { rides });
}

/** What of a layer tells of places, taken to another frame. */
function moved(layer: Layer, m: Matrix3): LayerChange {
  const taken = (places: readonly (readonly [number, number])[]) =>
    pairs(places.map(([x, y]) => apply(m, x, y)));
  const outlined = (outline: LayerOutline): LayerOutline => ({
    ...outline,
    keys: outline.keys.map((k) => ({ ...k, shape: taken(k.shape) })),
  });
  switch (layer.kind) {
    case 'graphic':
    case 'clip':
    case 'text':
      return { corners: taken(layer.corners) };
    case 'paint':
      return {
        strokes: layer.strokes.map((stroke) => ({
          ...stroke,
          // A stroke that was cloned from the layer's own frame goes on being taken from that one.
          from: stroke.from && {
            ...stroke.from,
            frame: stroke.from.frame ?? layer.frame,
            plate: stroke.from.plate && { ...stroke.from.plate, corners: taken(stroke.from.plate.corners) },
          },
          points: stroke.points.map(([x, y, p]) => {
            const to = apply(m, x, y);
            return [to.x, to.y, p] as const;
          }),
        })),
      };
    default:
      return { outline: layer.outline && outlined(layer.outline) };
  }
}

export function paintStroke(id: string, stroke: PaintStroke): void {
  edit((s) => addStroke(s, id, stroke));
}

/** The graphics that strokes may be cloned from. */
export function plates(): readonly GraphicLayer[] {
  return shotDocument().layers.filter((l) => l.kind === 'graphic');
}

/** The plate that is cloned from, where it lies on a painted layer's own frame; null where that is the picture. */
export function plateFor(layer: PaintLayer): NonNullable<PaintStroke['from']>['plate'] {
  const { clonePlate } = bench();
  const plate = plates().find((l) => l.id === clonePlate);
  if (!plate) return null;
  const m = carriedOn(plate, layer.frame);
  return {
    asset: plate.asset,
    corners: storedQuad(quadOf(plate.corners).map((p) => apply(m, p.x, p.y)) as unknown as Quad),
  };
}

/** Moves what is selected of a layer by pixels of its own frame. */
export function nudgeLayer(dx: number, dy: number): boolean {
  const layer = selectedLayer();
  if (!layer) return false;
  change(layer.id, moved(layer, translation(dx, dy)));
  return true;
}

export function deleteLayer(): boolean {
  const { layer } = bench();
  if (layer === null) return false;
  edit((s) => removeLayers(s, [layer]));
  setBench({ layer: null });
  return true;
}
