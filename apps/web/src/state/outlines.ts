import { cornersAt, IDENTITY, type Matrix3, type Point } from '@lurn/core/geometry';
import { placedAreas } from '@lurn/core/solve';
import {
  changeLayer,
  changeMatte,
  changeSurface,
  layerById,
  matteRules,
  setAreaKeys,
  surfaceById,
  withCorner,
  withKey,
  withoutCorner,
  type Keys,
  type Layer,
  type LayerOutline,
  type ShotState,
} from '@lurn/model';
import { bench, setBench } from './bench';
import { layerToPicture } from './layer-places';
import { sceneNow } from './scene';
import { edit, shotState } from './shot';
import { motionOn } from './surfaces';
import { pairs } from '../lib/places';

/** Keyed outlines, whatever they belong to, and what the editor does to them. A new home is one more of {@link HOMES}. */

/** Whose outline it is. */
export type OutlineRef =
  | { readonly of: 'area'; readonly id: string }
  /** One of a surface's outlines, by its number. */
  | { readonly of: 'surface'; readonly id: string; readonly index: number }
  /** A layer's own (null), or that of one of its mattes. */
  | { readonly of: 'layer'; readonly id: string; readonly matte: string | null };

/** What keys' places are told in, and where they are kept. */
interface OutlineHome<R> {
  /** Null where there is none. */
  keys(ref: R, state: ShotState): Keys | null;
  withKeys(ref: R, state: ShotState, keys: Keys): ShotState;
  select(ref: R): void;
  /** Corners on a frame, in the home's places; null where they cannot be seen. */
  corners?(ref: R, state: ShotState, frame: number): Point[] | null;
  /** From the home's places to those of a pane's picture on a frame; null where there is no way. */
  toPicture(ref: R, state: ShotState, frame: number, pane: 'source' | 'steadied'): Matrix3 | null;
  /** False where a single key stands for every frame unless keys are asked for. */
  readonly keyed: boolean;
  /** Looked at closely while a corner is dragged. */
  readonly magnified: boolean;
}

const AREA: OutlineHome<OutlineRef & { of: 'area' }> = {
  keys: ({ id }, { document }) => document.areas.find((a) => a.id === id)?.keys ?? null,
  withKeys: ({ id }, state, keys) => setAreaKeys(state, id, keys),
  select: ({ id }) => setBench({ area: id, selected: [] }),
  corners({ id }, { document }, frame) {
    const area = document.areas.find((a) => a.id === id);
    return area ? cornersAt(placedAreas([area], sceneNow())[0], frame) : null;
  },
  toPicture: () => IDENTITY,
  keyed: true,
  magnified: false,
};

const SURFACE: OutlineHome<OutlineRef & { of: 'surface' }> = {
  keys: ({ id, index }, { document }) => surfaceById(document, id)?.shapes[index]?.keys ?? null,
  withKeys({ id, index }, state, keys) {
    const shapes = surfaceById(state.document, id)!.shapes.map((s, i) => (i === index ? { ...s, keys } : s));
    return changeSurface(state, id, { shapes });
  },
  select: ({ id }) => setBench({ selected: [id], area: null }),
  toPicture({ id }, { document }, frame) {
    const surface = surfaceById(document, id);
    return surface ? motionOn(surface, frame) : null;
  },
  keyed: true,
  magnified: true,
};

/** The drawn matte of a layer by its id, or the layer as a home of its own outline. */
export function drawnPart(layer: Layer, matte: string | null) {
  const found = layer.mattes.find((m) => m.id === matte);
  const drawn = found && matteRules(found).drawn?.(found);
  if (matte !== null) return { outline: drawn?.outline ?? null, home: { ...layer, ...found, ...drawn } };
  const outline: LayerOutline | null = 'outline' in layer ? layer.outline : null;
  return { outline, home: layer };
}

const LAYER: OutlineHome<OutlineRef & { of: 'layer' }> = {
  keys({ id, matte }, state) {
    const layer = layerById(state, id);
    return (layer && drawnPart(layer, matte).outline?.keys) ?? null;
  },
  withKeys({ id, matte }, state, keys) {
    const outline = { ...drawnPart(layerById(state, id)!, matte).outline!, keys };
    return matte === null ? changeLayer(state, id, { outline }) : changeMatte(state, id, matte, { outline });
  },
  select: ({ id }) => setBench({ layer: id, area: null }),
  toPicture({ id, matte }, state, frame, pane) {
    const layer = layerById(state, id);
    return layer ? layerToPicture(drawnPart(layer, matte).home, frame, pane) : null;
  },
  keyed: false,
  magnified: false,
};

const HOMES: { readonly [K in OutlineRef['of']]: OutlineHome<Extract<OutlineRef, { of: K }>> } = {
  area: AREA,
  surface: SURFACE,
  layer: LAYER,
};

/** What is asked of the home of an outline. */
export const outlineHome = ({ of }: OutlineRef) => HOMES[of] as OutlineHome<OutlineRef>;

/** True of what was drawn of a tracker: it is changed where trackers may be. */
export const isTracked = ({ of }: OutlineRef): boolean => HOMES[of] === SURFACE;

/** An outline's corners on a frame, in its home's places. */
export function outlineCorners(ref: OutlineRef, frame: number): Point[] | null {
  const home = outlineHome(ref);
  if (home.corners) return home.corners(ref, shotState(), frame);
  const keys = home.keys(ref, shotState());
  return keys && cornersAt({ keys }, frame);
}

function change(ref: OutlineRef, by: (keys: Keys) => Keys): void {
  const home = outlineHome(ref);
  edit((s) => {
    const keys = home.keys(ref, s);
    const next = keys && by(keys);
    return next && next !== keys ? home.withKeys(ref, s, next) : s;
  });
}

/** An outline becomes other corners on a frame, given in its home's places. */
export function reshapeOutline(ref: OutlineRef, frame: number, corners: readonly Point[]): void {
  const keyed = outlineHome(ref).keyed || bench().keying;
  change(ref, (keys) =>
    keys.length === 1 && !keyed
      ? [{ ...keys[0], shape: pairs(corners) }]
      : withKey(keys, frame, pairs(corners)),
  );
}

/** One more corner in the middle of the edge that begins at one, on every key. */
export const addCorner = (ref: OutlineRef, after: number) => change(ref, (keys) => withCorner(keys, after));

/** Takes a corner out, on every key; three stay. */
export const removeCorner = (ref: OutlineRef, corner: number) =>
  change(ref, (keys) => withoutCorner(keys, corner));
