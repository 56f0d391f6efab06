import {
  boxOfStrokes,
  filmKey,
  parseColour,
  rectangle,
  type ColourRange,
  type LookContent,
  type LookLayer,
  type LookMatte,
  type LookOutline,
  type Quad,
  type RasterEdge,
  type Rgb,
  type Ride,
  type SceneLook,
  type Stroke,
  type StrokeBox,
} from '@lurn/core';
import type { ShotDocument, ShotState } from './document.js';
import type {
  Asset,
  ConcealLayer,
  GraphicLayer,
  Layer,
  LayerMatte,
  LayerOutline,
  PaintLayer,
  PaintStroke,
  PickedRange,
  Rides,
  TextLayer,
  TextStyle,
  TintLayer,
} from './layers/index.js';
import { softTrackOf, surfaceTrackOf, trackOf } from './measured-of.js';
import { quadOf, softShape, type Corners4 } from './trackers/index.js';

/** What a raster that layers show is made from. */
export type RasterSource =
  | {
      readonly kind: 'asset';
      readonly key: string;
      readonly hash: string;
      /** How its edge runs, in pixels of the frame, where it takes up so many a side. */
      readonly edge: RasterEdge;
      readonly side: number;
    }
  | {
      /** A film: each of its frames is a raster by itself ({@link filmKey}). */
      readonly kind: 'film';
      readonly key: string;
      readonly hash: string;
      readonly width: number;
      readonly height: number;
      readonly frames: number;
    }
  | {
      readonly kind: 'text';
      readonly key: string;
      readonly text: string;
      readonly style: TextStyle;
      readonly edge: RasterEdge;
      readonly side: number;
    }
  | {
      readonly kind: 'strokes';
      readonly key: string;
      readonly strokes: readonly Stroke[];
      readonly box: StrokeBox;
      /** Pixels of the raster for one of the frame. */
      readonly scale: number;
    };

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
export function rideOf({ on, id, rotation, scale, laid }: Rides, state: ShotState): Ride {
  const tracker = state.document.trackers.find((t) => t.id === id);
  if (on === 'spot' && tracker?.kind === 'spot') return { on, track: trackOf(state, id) };
  if (on === 'surface' && tracker?.kind === 'surface')
    return { on, track: surfaceTrackOf(state, id), base: quadOf(tracker.base) };
  if (on === 'soft' && tracker?.kind === 'soft')
    return { on, id, soft: softShape(tracker, softTrackOf(state, id)), ...(laid && { laid }) };
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
    const colours = layer.kind === 'tint' ? layer.colours : null;
    const key: LookMatte[][] = colours ? [[{ kind: 'key', range: rangeOf(colours), outside: false }]] : [];
    return { ...shown, mattes: [...look.mattes, ...key] };
  }
  const inside = layer.mattes.filter((m) => m.id === matte).map((m) => ({ ...m, outside: false }));
  return { ...shown, outline: null, mattes: mattesOf(inside, state) };
}

/** The movers that layers and their mattes ride on. */
export function riddenMovers({ layers }: Pick<ShotDocument, 'layers'>): string[] {
  const rides = layers.flatMap((l) => [
    l.rides,
    ...l.mattes.flatMap((m) => (m.kind === 'area' ? [m.rides] : [])),
  ]);
  return [...new Set(rides.flatMap(({ on, id }) => (on === 'mover' ? [id] : [])))];
}

/** A document's layer as layers that are drawn: paint is one for each run of strokes of a kind. */
function layersOf(layer: Layer, state: ShotState, rasters: RasterSource[]): LookLayer[] {
  const { id, frame, unknown, opacity, keys, blend, grain } = layer;
  const { from, to } = layer.range ?? { from: 0, to: Infinity };
  const { content, outline, middle, margin } = shownBy(layer, rasters, state.document.assets);
  const common = {
    ...{ id, frame, unknown, opacity, keys, blend, grain, outline, margin, middle },
    ride: rideOf(layer.rides, state),
    mattes: mattesOf(layer.mattes, state),
  };
  return content.map(({ span, ...shown }) => ({
    ...common,
    content: shown.content,
    middle: shown.middle ?? middle,
    from: Math.max(from, span.from),
    to: Math.min(to, span.to),
  }));
}

const ALWAYS = { from: 0, to: Infinity };

interface ShownBy {
  readonly content: readonly {
    readonly content: LookContent;
    readonly span: { readonly from: number; readonly to: number };
    readonly middle?: { readonly x: number; readonly y: number };
  }[];
  readonly outline: LookOutline | null;
  readonly middle: { readonly x: number; readonly y: number };
  readonly margin: number;
}

function shownBy(layer: Layer, rasters: RasterSource[], assets: readonly Asset[]): ShownBy {
  const once = (content: LookContent) => [{ content, span: ALWAYS }];
  switch (layer.kind) {
    case 'graphic':
    case 'text': {
      const corners = quadOf(layer.corners);
      const source = placedSource(layer);
      rasters.push(source);
      const ofClip = layer.kind === 'graphic' && assets.find((a) => a.hash === layer.asset)?.ofClip;
      const content = once({ kind: 'raster', raster: source.key, corners, ...(ofClip && { ofClip }) });
      return { content, outline: null, middle: middleOf(layer.corners), margin: 0 };
    }
    case 'clip': {
      const { asset: hash, first, rate, play } = layer;
      const { width, height, frames } = assets.find((a) => a.hash === hash)!;
      rasters.push({ kind: 'film', key: filmKey(hash), hash, width, height, frames });
      const corners = quadOf(layer.corners);
      const content = once({ kind: 'film', film: filmKey(hash), corners, first, rate, play, frames });
      return { content, outline: null, middle: middleOf(layer.corners), margin: 0 };
    }
    case 'shape':
      return outlined(layer.outline, once({ kind: 'plain', colour: parseColour(layer.colour) }));
    case 'conceal':
      return { ...outlined(layer.outline, once(concealing(layer))), margin: layer.margin };
    case 'tint':
      return outlined(layer.outline, once(tinting(layer)));
    case 'paint': {
      const runs = runsOf(layer);
      rasters.push(...runs.flatMap((run) => run.sources));
      return { content: runs.map((run) => run.shown), outline: null, middle: { x: 0, y: 0 }, margin: 0 };
    }
  }
}

function outlined(outline: LayerOutline | null, content: ShownBy['content']): ShownBy {
  const middle = outline ? middleOf(outline.keys[0].shape) : { x: 0, y: 0 };
  return { content, outline, middle, margin: 0 };
}

function middleOf(places: readonly (readonly [number, number])[]) {
  const mean = (axis: 0 | 1) => places.reduce((s, p) => s + p[axis], 0) / places.length;
  return { x: mean(0), y: mean(1) };
}

function placedSource(layer: GraphicLayer | TextLayer): RasterSource {
  const { edge, corners } = layer;
  const { grow, soften, blur } = edge;
  const plain = grow === 0 && soften === 0 && blur === 0;
  // What an edge is in the raster's own pixels depends on how large it is shown.
  const side = plain ? 0 : Math.round(Math.sqrt(areaOf(corners)));
  const edges = plain ? '' : ` ${side} ${grow} ${soften} ${blur}`;
  return layer.kind === 'graphic'
    ? { kind: 'asset', key: `asset ${layer.asset}${edges}`, hash: layer.asset, edge, side }
    : { kind: 'text', key: textKey(layer) + edges, text: layer.text, style: layer.style, edge, side };
}

const textKey = ({ text, style }: Pick<TextLayer, 'text' | 'style'>) =>
  `text ${JSON.stringify([text, style])}`;

function areaOf(corners: Corners4): number {
  let sum = 0;
  corners.forEach(([x, y], i) => {
    const [u, v] = corners[(i + 1) % 4];
    sum += x * v - u * y;
  });
  return Math.abs(sum) / 2;
}

function concealing({ how, size, colour }: ConcealLayer): LookContent {
  if (how === 'colour') return { kind: 'plain', colour: parseColour(colour) };
  return how === 'blur' ? { kind: 'blurred', radius: size } : { kind: 'squares', size };
}

function tinting({ hue, saturation, lightness, exposure, colours }: TintLayer): LookContent {
  const picked = colours && rangeOf(colours);
  return {
    kind: 'tinted',
    tint: { hue: (hue * Math.PI) / 180, saturation, lightness, exposure, range: picked },
  };
}

export function rangeOf({ colour, reach, soften, brightness }: PickedRange): ColourRange {
  return { colour: parseColour(colour), reach, soften, brightness };
}

/** Mattes that let through add to one another; each that keeps something in front stands by itself. */
function mattesOf(mattes: readonly LayerMatte[], state: ShotState): LookMatte[][] {
  const look = (m: LayerMatte): LookMatte => {
    const { outside } = m;
    switch (m.kind) {
      case 'area': {
        const { outline, frame, rides } = m;
        return { kind: 'outline', outline, frame, ride: rideOf(rides, state), outside };
      }
      case 'colour':
        return { kind: 'key', range: rangeOf(m.range), outside };
      case 'passing':
        return { kind: 'difference', frame: m.frame, reach: m.reach, soften: m.soften, outside };
    }
  };
  const inside = mattes.filter((m) => !m.outside).map(look);
  const kept = mattes.filter((m) => m.outside).map((m) => [look(m)]);
  return inside.length > 0 ? [inside, ...kept] : kept;
}

interface Run {
  readonly sources: readonly RasterSource[];
  readonly shown: ShownBy['content'][number];
}

const runs = new WeakMap<readonly PaintStroke[], readonly Run[]>();
let painted = 0;

/** Rasters finer than the picture as long as they are no larger than this. */
const FINE_BELOW = 4e6;

/** The runs of a layer's strokes that are drawn as one; erasers work on all that were painted before them. */
function runsOf({ strokes, frame }: PaintLayer): readonly Run[] {
  const known = runs.get(strokes);
  if (known) return known;
  const groups: { key: string; strokes: PaintStroke[]; first: PaintStroke }[] = [];
  for (const stroke of strokes) {
    if (stroke.tool === 'eraser') {
      for (const group of groups) group.strokes.push(stroke);
      continue;
    }
    const key = JSON.stringify([stroke.tool, stroke.from, stroke.on, stroke.on === 'all' ? 0 : stroke.frame]);
    const last = groups[groups.length - 1];
    if (last?.key === key) last.strokes.push(stroke);
    else groups.push({ key, strokes: [stroke], first: stroke });
  }
  const made = groups.flatMap((group): Run[] => {
    const plain = group.strokes.map(strokeOf);
    const box = boxOfStrokes(plain);
    if (!box) return [];
    const scale = 4 * box.width * box.height < FINE_BELOW ? 2 : 1;
    const key = `strokes ${painted++}`;
    const corners: Quad = rectangle(box.left, box.top, box.left + box.width, box.top + box.height);
    const { from, on, frame: at } = group.first;
    const content = paintedBy(from, frame, key, corners);
    const span = { from: on === 'all' ? 0 : at, to: on === 'one' ? at : Infinity };
    const middle = { x: box.left + box.width / 2, y: box.top + box.height / 2 };
    const sources: RasterSource[] = [{ kind: 'strokes', key, strokes: plain, box, scale }];
    if (from?.plate) sources.push(plainAsset(from.plate.asset));
    return [{ sources, shown: { content, span, middle } }];
  });
  runs.set(strokes, made);
  return made;
}

/** What strokes show: their colours, the picture of another place or frame, or a plate. @param key  of their raster */
function paintedBy(from: PaintStroke['from'], frame: number, key: string, corners: Quad): LookContent {
  if (!from) return { kind: 'raster', raster: key, corners };
  const { plate, x, y } = from;
  if (!plate) return { kind: 'picture', frame: from.frame ?? frame, shift: { x, y }, raster: key, corners };
  const [a, b, c, d] = quadOf(plate.corners).map((p) => ({ x: p.x - x, y: p.y - y }));
  const stencil = { raster: key, corners };
  return {
    kind: 'raster',
    raster: plainAsset(plate.asset).key,
    corners: [a, b, c, d],
    stencil,
    ofClip: true,
  };
}

function plainAsset(hash: string): RasterSource {
  return { kind: 'asset', key: `asset ${hash}`, hash, edge: { grow: 0, soften: 0, blur: 0 }, side: 0 };
}

function strokeOf({ tool, colour, size, hardness, flow, points }: PaintStroke): Stroke {
  return {
    tool: tool === 'eraser' ? 'eraser' : 'brush',
    ...{ colour: parseColour(colour), size, hardness, flow, points },
  };
}
