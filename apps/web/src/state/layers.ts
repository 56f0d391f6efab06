import { apply, isClockwise, faultOfQuad, type Quad } from '@lurn/core/geometry';
import {
  addStroke,
  changeLayer,
  layerById,
  layerRules,
  quadOf,
  removeLayers,
  storedQuad,
  surfaceById,
  type GraphicLayer,
  type Layer,
  type LayerChange,
  type PaintLayer,
  type PaintStroke,
  type Rides,
} from '@lurn/model';
import { bench, setBench } from './bench';
import { edit, shotDocument, shotState } from './shot';
import { quadShown } from './surfaces';
import { carriedOn } from './layer-places';
import { hundredths } from '../lib/places';

/** What the editor does to layers; each is one step of undo unless a gesture is under way. */

/** The selected layer. */
export function selectedLayer(): Layer | undefined {
  const { layer } = bench();
  return layer === null ? undefined : layerById(shotState(), layer);
}

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

export function paintStroke(id: string, stroke: PaintStroke): void {
  edit((s) => addStroke(s, id, stroke));
}

/** The graphics that strokes may be cloned from. */
export function plates(layers = shotDocument().layers): readonly GraphicLayer[] {
  return layers.filter((l) => l.kind === 'graphic');
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
  const move = ([x, y]: readonly [number, number]) => hundredths(x + dx, y + dy);
  change(layer.id, layerRules(layer).moved(layer, move));
  return true;
}

export function deleteLayer(): boolean {
  const { layer } = bench();
  if (layer === null) return false;
  edit((s) => removeLayers(s, [layer]));
  setBench({ layer: null });
  return true;
}
