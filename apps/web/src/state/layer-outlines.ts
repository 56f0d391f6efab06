import { cornersAt, type Point } from '@lurn/core';
import { changeMatte, layerById, LIMITS, type Layer, type LayerOutline } from '@lurn/model';
import { change, pairs } from './layers';
import { edit, shotState } from './shot';

/** The drawn shapes of layers and of their mattes, and what the editor does to them. */

/** The outline of a layer or of one of its mattes. */
export function outlineOfPart(layer: Layer, matte: string | null): LayerOutline | null {
  if (matte !== null) {
    const found = layer.mattes.find((m) => m.id === matte);
    return found?.kind === 'area' ? found.outline : null;
  }
  return 'outline' in layer ? layer.outline : null;
}

/** What an outline's places are told by: the layer's own ride and frame, or the matte's. */
export function homeOfPart(layer: Layer, matte: string | null): Pick<Layer, 'rides' | 'frame' | 'unknown'> {
  const found = layer.mattes.find((m) => m.id === matte);
  return found?.kind === 'area' ? { rides: found.rides, frame: found.frame, unknown: layer.unknown } : layer;
}

function setOutline(id: string, matte: string | null, outline: LayerOutline): void {
  if (matte === null) change(id, { outline });
  else edit((s) => changeMatte(s, id, matte, { outline }));
}

/** The corners of an outline on a frame, in places of its home. */
export function outlineCorners(layer: Layer, matte: string | null, frame: number): Point[] {
  const outline = outlineOfPart(layer, matte);
  return outline ? cornersAt(outline, frame) : [];
}

/** An outline becomes other corners on a frame: with one key it is that everywhere; with more that frame has a key. */
export function reshape(
  id: string,
  matte: string | null,
  frame: number,
  corners: readonly Point[],
  keyed: boolean,
): void {
  const layer = layerById(shotState(), id);
  const outline = layer && outlineOfPart(layer, matte);
  if (!outline) return;
  const shape = pairs(corners);
  const keys =
    outline.keys.length === 1 && !keyed
      ? [{ ...outline.keys[0], shape }]
      : [...outline.keys.filter((k) => k.frame !== frame), { frame, shape }].sort(
          (a, b) => a.frame - b.frame,
        );
  setOutline(id, matte, { ...outline, keys });
}

/** One more corner in the middle of an edge, on every key. */
export function addOutlineCorner(id: string, matte: string | null, after: number): void {
  onEveryKey(id, matte, (shape) => {
    if (shape.length >= LIMITS.corners) return shape;
    const [a, b] = [shape[after], shape[(after + 1) % shape.length]];
    return [...shape.slice(0, after + 1), [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2], ...shape.slice(after + 1)];
  });
}

/** Takes a corner out, on every key; three stay. */
export function removeOutlineCorner(id: string, matte: string | null, corner: number): void {
  onEveryKey(id, matte, (shape) => (shape.length <= 3 ? shape : shape.filter((_, i) => i !== corner)));
}

type Shape = LayerOutline['keys'][number]['shape'];

function onEveryKey(id: string, matte: string | null, changed: (shape: Shape) => Shape): void {
  const layer = layerById(shotState(), id);
  const outline = layer && outlineOfPart(layer, matte);
  if (outline)
    setOutline(id, matte, { ...outline, keys: outline.keys.map((k) => ({ ...k, shape: changed(k.shape) })) });
}
