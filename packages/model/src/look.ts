import type { LookLayer, LookMatte, Ride, SceneLook } from '@lurn/core/compose';
import { parseColour, type Rgb } from '@lurn/core/picture';
import type { ShotDocument, ShotState } from './document.js';
import {
  filmSource,
  layerRules,
  matteRules,
  type Layer,
  type LayerMatte,
  type RasterSource,
  type Rides,
} from './layers/index.js';
import { measuredOf } from './measured-of.js';
import { rulesOf } from './trackers/index.js';

/** How a document's pictures are drawn, and what is needed for it besides the frames. */
export interface DocumentLook {
  readonly look: SceneLook;
  readonly rasters: readonly RasterSource[];
}

/**
 * How a document's pictures are drawn, for the scenes that preview, render and command line share.
 *
 * @param bare  without the layers
 */
export function documentLook(state: ShotState, bare = false): DocumentLook {
  const { edges, layers, deliveries } = state.document;
  const rasters: RasterSource[] = [];
  const shown = bare ? [] : layers.filter((l) => l.shown);
  const look: SceneLook = {
    edges: edgesLook(edges),
    layers: shown.flatMap((layer) => layersOf(layer, state, rasters)),
    base: deliveries[0].base,
  };
  return { look, rasters };
}

export function edgesLook({ mode, colour }: ShotDocument['edges']): SceneLook['edges'] {
  return { mode, colour: parseColour(colour) };
}

/** How pictures are drawn that nothing rides on. */
export function plainLook(edges: ShotDocument['edges']): SceneLook {
  return { edges: edgesLook(edges), layers: [], base: true };
}

/** What a layer or matte rides on, with what was measured of it; nothing where that has been deleted. */
export function rideOf(rides: Rides, state: ShotState): Ride {
  const { on, id, rotation, scale } = rides;
  const tracker = state.document.trackers.find((t) => t.id === id && t.kind === on);
  if (tracker) return rulesOf(tracker).ride(tracker, measuredOf(state, tracker.kind, id), rides);
  return on === 'frame' ? { on } : { on: 'mover', mover: id, rotation, scale };
}

/** Of which a mask is seen. */
const MASK: Rgb = [150, 220, 120];

/**
 * A layer that shows, in a plain green, where its tint or one of its mattes takes hold.
 *
 * @param matte  by its id; null for the layer's own shape and colours
 */
export function maskLook(look: LookLayer, layer: Layer, matte: string | null, state: ShotState): LookLayer {
  const plain = {
    ...look,
    content: { kind: 'plain', colour: MASK },
    blend: 'normal',
    opacity: 0.75,
  } as const;
  const shown = { ...plain, keys: [], grain: 0 };
  if (matte === null) {
    const range = layerRules(layer).colours?.(layer);
    const key: LookMatte[][] = range ? [[{ kind: 'key', range, outside: false }]] : [];
    return { ...shown, mattes: [...look.mattes, ...key] };
  }
  const inside = layer.mattes.filter((m) => m.id === matte).map((m) => ({ ...m, outside: false }));
  return { ...shown, outline: null, mattes: mattesOf(inside, state) };
}

/** The movers that layers and their mattes ride on. */
export function riddenMovers({ layers }: Pick<ShotDocument, 'layers'>): string[] {
  const rides = layers.flatMap((l) => [
    l.rides,
    ...l.mattes.flatMap((m) => matteRules(m).drawn?.(m).rides ?? []),
  ]);
  return [...new Set(rides.flatMap(({ on, id }) => (on === 'mover' ? [id] : [])))];
}

/** A document's layer as layers that are drawn: paint is one for each run of strokes of a kind. */
function layersOf(layer: Layer, state: ShotState, rasters: RasterSource[]): LookLayer[] {
  const { id, frame, unknown, opacity, keys, blend, grain } = layer;
  const { from, to } = layer.range ?? { from: 0, to: Infinity };
  const { content, outline, middle, margin, ...shown } = layerRules(layer).show(layer, state.document.assets);
  rasters.push(...shown.rasters, ...layer.mattes.flatMap((m) => masksOf(m, state)));
  const common = {
    ...{ id, frame, unknown, opacity, keys, blend, grain, outline, margin, middle },
    ride: rideOf(layer.rides, state),
    mattes: mattesOf(layer.mattes, state),
  };
  return content.map(({ span, ...part }) => ({
    ...common,
    content: part.content,
    middle: part.middle ?? middle,
    from: Math.max(from, span.from),
    to: Math.min(to, span.to),
  }));
}

/** The films of masks that a matte shows. */
function masksOf(matte: LayerMatte, { document }: ShotState): RasterSource[] {
  return (matteRules(matte).files?.(matte) ?? []).map((hash) =>
    filmSource(document.assets.find((a) => a.hash === hash)!),
  );
}

/** Mattes that let through add to one another; each that keeps something in front stands by itself. */
function mattesOf(mattes: readonly LayerMatte[], state: ShotState): LookMatte[][] {
  const { assets } = state.document;
  const look = (m: LayerMatte) => matteRules(m).look(m, (rides) => rideOf(rides, state), assets);
  const inside = mattes.filter((m) => !m.outside).map(look);
  const kept = mattes.filter((m) => m.outside).map((m) => [look(m)]);
  return inside.length > 0 ? [inside, ...kept] : kept;
}
