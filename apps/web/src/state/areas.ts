import { cornersAt, type Area, type AreaKind, type Point } from '@lurn/core/geometry';
import { placedAreas } from '@lurn/core/solve';
import {
  addArea,
  changeArea,
  nextAreaName,
  removeArea,
  setAreaKeys,
  withoutKey,
  LIMITS,
  type DrawnArea,
} from '@lurn/model';
import { toast } from 'sonner';
import { bench, setBench } from './bench';
import { sceneNow } from './scene';
import { edit, shotDocument } from './shot';
import { pairs } from '../lib/places';

/** What areas close, as shapes of frames alone: what measures is told so. */
export function areasNow(): Area[] {
  return placedAreas(shotDocument().areas, sceneNow());
}

export function areaById(id: string | null): DrawnArea | undefined {
  return shotDocument().areas.find((a) => a.id === id);
}

/** The corners of an area as they lie on a frame, carried by what it rides on. */
export function cornersOn(area: DrawnArea, frame: number): Point[] {
  return cornersAt(placedAreas([area], sceneNow())[0], frame);
}

/** Makes an area of a shape drawn on the present frame, and selects it. */
export function drawArea(kind: AreaKind, corners: readonly Point[], smooth: boolean): void {
  const document = shotDocument();
  if (document.areas.length >= LIMITS.areas) {
    toast.warning(`A shot has ${LIMITS.areas} areas at the most. Delete one first.`);
    return;
  }
  const id = crypto.randomUUID();
  const keys = [{ frame: bench().frame, shape: pairs(corners) }];
  const name = nextAreaName(document, kind);
  edit((s) => addArea(s, { id, name, kind, smooth, rides: null, keys }));
  setBench({ area: id, selected: [] });
}

/** Takes the key of a frame away; the last one stays. */
export function removeAreaKey(id: string, frame: number): void {
  const area = areaById(id);
  if (!area || area.keys.length < 2) return;
  edit((s) => setAreaKeys(s, id, withoutKey(area.keys, frame)));
}

/** Lets an area ride on something from now on, or stay: on the present frame it lies where it lay. */
export function rideOn(id: string, rides: string | null): void {
  const area = areaById(id);
  if (!area) return;
  const { frame } = bench();
  const here = { frame, shape: pairs(cornersOn(area, frame)) };
  edit((s) => setAreaKeys(changeArea(s, id, { rides }), id, [here]));
}

/** Deletes the selected area. @returns false where none is selected */
export function deleteArea(): boolean {
  const { area } = bench();
  if (!areaById(area)) return false;
  edit((s) => removeArea(s, area!));
  setBench({ area: null });
  return true;
}
