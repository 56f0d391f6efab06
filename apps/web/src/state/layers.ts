import {
  apply,
  carry,
  flatSide,
  innerOf,
  invert,
  isClockwise,
  outlineOf,
  pictureInSource,
  faultOfOutline,
  faultOfQuad,
  IDENTITY,
  motionMatrix,
  NOWHERE,
  placeOf,
  multiply,
  ownSide,
  rectangle,
  softTangent,
  keyedAt,
  translation,
  type Matrix3,
  type Point,
  type Quad,
  type Size,
} from '@lurn/core';
import {
  addAsset,
  addLayer,
  addMatte,
  addStroke,
  changeLayer,
  cornersAbout,
  drawnOutline,
  layerById,
  LIMITS,
  NEW_CONCEAL,
  NEW_EDGE,
  NEW_LAYER,
  NEW_TEXT_STYLE,
  NEW_TINT,
  moveLayer,
  nextLayerName,
  ON_FRAME,
  quadOf,
  removeLayers,
  rideOf,
  same,
  spotById,
  storedQuad,
  softById,
  surfaceById,
  type Asset,
  type Corners4,
  type GraphicLayer,
  type Layer,
  type LayerChange,
  type LayerMatte,
  type LayerOutline,
  type PaintLayer,
  type PaintStroke,
  type Rides,
  type TextLayer,
} from '@lurn/model';
import { toast } from 'sonner';
import { moverOutline } from '../lib/movers';
import { askServer } from '../workers/rasters';
import { bench, setBench, type LayerDrawn } from './bench';
import { edit, shotDocument, shotState } from './shot';
import { borderShown } from './mesh-shown';
import { quadShown } from './surfaces';

/** What the editor does to layers; each is one step of undo unless a gesture is under way. */

/** The selected layer. */
export function selectedLayer(): Layer | undefined {
  const { layer } = bench();
  return layer === null ? undefined : layerById(shotState(), layer);
}

/** Where places of a layer's own frame are on a frame as shot. */
export function carriedOn(
  layer: Pick<Layer, 'rides' | 'frame' | 'unknown'> & Partial<Layer>,
  frame: number,
): Matrix3 {
  const { steady } = bench();
  const ride = rideOf(layer.rides, shotState());
  const { m } = carry(ride, layer.frame, frame, layer.unknown, middleOf(layer), steady?.motions ?? {});
  if (!layer.keys || layer.keys.length === 0) return m;
  const { x, y } = keyedAt({ keys: layer.keys, opacity: 1 }, frame);
  return multiply(m, translation(x, y));
}

/** A layer's middle on its own frame, as what it turns about is taken. */
function middleOf(layer: Partial<Layer>): Point {
  const places =
    'corners' in layer && layer.corners
      ? layer.corners
      : 'outline' in layer && layer.outline
        ? layer.outline.keys[0].shape
        : null;
  if (!places) return { x: 0, y: 0 };
  const mean = (axis: 0 | 1) => places.reduce((s, p) => s + p[axis], 0) / places.length;
  return { x: mean(0), y: mean(1) };
}

/**
 * Places of a layer's own frame to those of a pane's picture. What stays in the frame stays in the steadied one, too.
 *
 * @param kind  of the pane
 */
export function layerToPicture(
  layer: Pick<Layer, 'rides' | 'frame' | 'unknown'>,
  frame: number,
  kind: 'source' | 'steadied',
): Matrix3 {
  const { steady } = bench();
  const seen = (f: number) => (kind === 'steadied' ? pictureInSource(steady, f) : IDENTITY);
  if (layer.rides.on === 'frame') return seen(kind === 'steadied' ? layer.frame : frame);
  const flat = kind === 'steadied' ? onFlat(layer, frame) : null;
  return flat ?? multiply(seen(frame), carriedOn(layer, frame));
}

/** The same where what it rides on is laid flat in the steadied picture: there it goes as the whole does. */
function onFlat({ rides, frame: own }: Pick<Layer, 'rides' | 'frame'>, frame: number): Matrix3 | null {
  const { steady } = bench();
  if (!steady?.bend || rides.on !== 'soft' || rides.id !== steady.bend.id) return null;
  const { motion, bend } = steady;
  const from = ownSide({ on: 'soft', id: bend.id, soft: bend, laid: rides.laid }, own);
  const home = softTangent(bend, from, flatSide(bend, motion.ref), MIDDLE) ?? IDENTITY;
  return multiply(multiply(pictureInSource(steady, frame), motionMatrix(motion, frame)), home);
}

const MIDDLE: Point = { x: 0, y: 0 };

/** Where places of a pane's picture are on a layer's own frame; exactly, also where what it rides on bends. */
export function pictureToLayer(
  layer: Pick<Layer, 'rides' | 'frame' | 'unknown'> & Partial<Layer>,
  frame: number,
  kind: 'source' | 'steadied',
): (at: Point) => Point {
  const back = invert(layerToPicture(layer, frame, kind));
  const straight = ({ x, y }: Point) => apply(back, x, y);
  if (kind === 'steadied' || layer.rides.on !== 'soft') return straight;
  const ride = rideOf(layer.rides, shotState());
  const { bent } = carry(ride, layer.frame, frame, layer.unknown, middleOf(layer), {});
  if (!bent) return straight;
  const home = placeOf(bent.back);
  return (at) => {
    const own = home.at(at.x, at.y);
    return own.x === NOWHERE ? straight(at) : own;
  };
}

/** What a new layer rides on: a selected tracker, or what is held. */
export function rideNow(): Rides {
  const { selected, steady, clip } = bench();
  const document = shotDocument();
  for (const id of selected) {
    if (surfaceById(document, id)) return { ...ON_FRAME, on: 'surface', id };
    if (softById(document, id)) return { ...ON_FRAME, on: 'soft', id };
    if (spotById(document, id)) return { ...ON_FRAME, on: 'spot', id };
  }
  const own = document.trackers.find((t) => t.kind !== 'spot' && t.mover === document.held);
  if (own) return { ...ON_FRAME, on: own.kind, id: own.id };
  // The surroundings are what is held where nothing else is said, also while that is still being worked out.
  const surroundings = clip.made?.scene?.movers[0]?.id;
  const held = steady ? (steady.mover ?? document.held ?? '') : (document.held ?? surroundings);
  return held === undefined ? ON_FRAME : { ...ON_FRAME, on: 'mover', id: held };
}

const common = (kind: string) => ({
  ...NEW_LAYER,
  id: crypto.randomUUID(),
  name: nextLayerName(shotState(), kind),
  frame: bench().frame,
  rides: rideNow(),
});

/** The same of what is placed, not drawn on a frame: on a soft surface that is laid to a shape it is told in that picture. */
function placed(kind: string) {
  const layer = common(kind);
  const { on, id } = layer.rides;
  const laid = on === 'soft' && softById(shotDocument(), id)?.laid;
  return laid ? { ...layer, rides: { ...layer.rides, laid: true } } : layer;
}

function put(
  layer: Layer,
  first?: (state: ReturnType<typeof shotState>) => ReturnType<typeof shotState>,
  at?: number,
): void {
  if (shotDocument().layers.length >= LIMITS.layers) {
    toast.warning(`A shot has ${LIMITS.layers} layers at the most. Delete one first.`);
    return;
  }
  edit((s) => {
    const added = addLayer(first ? first(s) : s, layer);
    return at === undefined ? added : moveLayer(added, layer.id, at);
  });
  setBench({ layer: layer.id, area: null });
}

/** The middle of what is seen of the picture as shot, or of what a layer is told in, and a good size for something new there. */
function room({ on, id, laid }: Rides): { x: number; y: number; width: number; height: number } {
  const { camera, info, steady, frame } = bench();
  const shape = on === 'soft' && laid ? softById(shotDocument(), id)?.laid : undefined;
  if (shape) {
    const [xs, ys] = [shape.corners.map(([x]) => x), shape.corners.map(([, y]) => y)];
    const middle = (list: number[]) => (Math.max(...list) + Math.min(...list)) / 2;
    const along = (list: number[]) => (Math.max(...list) - Math.min(...list)) / 1.5;
    return { x: middle(xs), y: middle(ys), width: along(xs), height: along(ys) };
  }
  const shown = camera.scale === null ? { x: info.width / 2, y: info.height / 2 } : camera;
  const { x, y } = apply(invert(pictureInSource(steady, frame)), shown.x, shown.y);
  return { x, y, width: info.width / 3, height: info.height / 3 };
}

/** Corners for something of a shape: those of the quad of the surface it rides on where that is asked, else about the middle. */
function cornersFor(rides: Rides, width: number, height: number): Corners4 {
  const space = room(rides);
  const scale = Math.min(space.width / width, space.height / height);
  return cornersAbout(space.x, space.y, width * scale, height * scale);
}

/** A film, in step with the shot from the present frame on. */
export function putClip(asset: Asset): void {
  const place = placed('Clip');
  const corners = cornersFor(place.rides, asset.width, asset.height);
  const rate = Math.min(100, Math.max(0.01, asset.fps / bench().info.fps));
  const layer = { ...place, kind: 'clip', asset: asset.hash, corners } as const;
  put({ ...layer, play: 'step', first: 0, rate }, (s) => addAsset(s, asset));
}

export function putGraphic(asset: Asset): void {
  const place = placed('Graphic');
  const corners = cornersFor(place.rides, asset.width, asset.height);
  const layer = {
    ...place,
    kind: 'graphic',
    asset: asset.hash,
    corners,
    edge: NEW_EDGE,
  } as const;
  put(layer, (s) => addAsset(s, asset));
}

/** A clean plate: as large as the frame that it was made on, below every other layer. */
export function putPlate({ hash, ...asset }: Asset, name: string, frame: number, rides: Rides): void {
  const { width, height } = bench().info;
  const corners = storedQuad(rectangle(0, 0, width, height));
  const layer = { ...common('Clean plate'), kind: 'graphic', name, frame, rides } as const;
  put(
    { ...layer, asset: hash, corners, edge: NEW_EDGE },
    (s) => addAsset(s, { hash, ...asset, ofClip: true }),
    0,
  );
}

/** A new text, as large as the server draws it is long. */
export async function putText(text = 'Text'): Promise<void> {
  const layer = { ...placed('Text'), kind: 'text', text, style: NEW_TEXT_STYLE, edge: NEW_EDGE } as const;
  const { width, height } = await textSize({ text, style: NEW_TEXT_STYLE });
  const space = room(layer.rides);
  const tall = space.height / 2.5;
  put({ ...layer, corners: cornersAbout(space.x, space.y, (tall * width) / height, tall) });
}

async function textSize({ text, style }: Pick<TextLayer, 'text' | 'style'>) {
  const key = `text ${JSON.stringify([text, style])}`;
  return innerOf(await askServer({ kind: 'text', key, text, style, edge: NEW_EDGE, side: 0 }));
}

/** Changes of texts under way: each begins where the one before has ended. */
let changing: Promise<void> = Promise.resolve();

/** Changes a text or how it looks: its letters stay as large as they were, about the side that it is aligned to. */
export function changeText(id: string, part: Partial<Pick<TextLayer, 'text' | 'style'>>): Promise<void> {
  changing = changing.then(() => changeTextNow(id, part));
  return changing;
}

async function changeTextNow(id: string, part: Partial<Pick<TextLayer, 'text' | 'style'>>): Promise<void> {
  const before = layerById(shotState(), id);
  if (before?.kind !== 'text' || same({ ...before, ...part }, before)) return;
  // Its size is asked for first, so that all of it is one step of undo; without an answer it stays as large as it was.
  const sizes = await Promise.all([textSize(before), textSize({ ...before, ...part })]).catch(() => null);
  const layer = layerById(shotState(), id);
  if (layer?.kind !== 'text') return;
  const corners = sizes ? resized(layer, sizes[0], sizes[1]) : null;
  change(id, { ...part, ...(corners && { corners }) });
}

/** Corners of a text whose box has become another; null where it had none, or has none. */
function resized({ corners, style }: TextLayer, old: Size, now: Size): Corners4 | null {
  if (old.width < 2 || now.width < 2) return null;
  const [wide, tall] = [now.width / old.width, now.height / old.height];
  const anchor = style.align === 'left' ? 0 : style.align === 'right' ? 1 : 0.5;
  const [a, b, c, d] = quadOf(corners);
  const between = (p: Point, q: Point, t: number) => ({ x: p.x + t * (q.x - p.x), y: p.y + t * (q.y - p.y) });
  const [from, to] = [anchor - anchor * wide, anchor + (1 - anchor) * wide];
  const [tl, tr] = [between(a, b, from), between(a, b, to)];
  const [bl, br] = [between(d, c, from), between(d, c, to)];
  const quad: Quad = [tl, tr, between(tr, br, tall), between(tl, bl, tall)];
  return faultOfQuad(quad) === null ? storedQuad(quad) : null;
}

export function putPaint(): void {
  put({ ...placed('Paint'), kind: 'paint', strokes: [] });
}

/** Conceals a spot or a surface, at a fitting size: one press. */
export function concealTracker(id: string): void {
  const document = shotDocument();
  const { frame } = bench();
  const surface = surfaceById(document, id);
  const soft = softById(document, id);
  const spot = spotById(document, id);
  const shape = surface
    ? quadShown(surface, frame)
    : soft
      ? borderShown(soft, frame)
      : spot
        ? around(id)
        : null;
  if (!shape) {
    toast.warning('It has to be known on this frame.', { id: 'layer' });
    return;
  }
  const outline = drawnOutline(frame, pairs(shape), !surface && !soft, 6);
  const rides: Rides = { ...ON_FRAME, on: surface ? 'surface' : soft ? 'soft' : 'spot', id };
  put({ ...common('Conceal'), ...NEW_CONCEAL, rides, outline });
}

/** Conceals something that moves by itself, as far as its features reach on the present frame. */
export function concealMover(id: string): void {
  const shape = shapeOfMover(id);
  if (!shape) return;
  const { frame } = bench();
  const rides: Rides = { ...ON_FRAME, on: 'mover', id };
  put({ ...common('Conceal'), ...NEW_CONCEAL, rides, outline: drawnOutline(frame, shape, false, 6) });
}

/** Round a mover on the present frame; null, and said, where it is not seen. */
export function shapeOfMover(id: string) {
  const { frame, scene } = bench();
  const at = scene?.movers.findIndex((m) => m.id === id) ?? -1;
  const shape = at < 0 ? null : moverOutline(scene!, frame, at);
  if (!shape) toast.warning('It is not seen on this frame. Go to one on which it is.', { id: 'layer' });
  return shape && pairs(shape);
}

/** An ellipse about a spot's patch. */
function around(id: string): Point[] | null {
  const spot = spotById(shotDocument(), id)!;
  const at = sampleOf(id);
  if (!at) return null;
  return Array.from({ length: 8 }, (_, i) => ({
    x: at.x + 1.6 * spot.patch[0] * Math.cos((i / 4) * Math.PI),
    y: at.y + 1.6 * spot.patch[1] * Math.sin((i / 4) * Math.PI),
  }));
}

function sampleOf(id: string): Point | null {
  const ride = rideOf({ ...ON_FRAME, on: 'spot', id }, shotState());
  if (ride.on !== 'spot') return null;
  const { track } = ride;
  const i = bench().frame - track.start;
  return track.state[i] ? { x: track.values.x[i], y: track.values.y[i] } : null;
}

/** Places as they are stored: to a hundredth of a pixel. */
export const pairs = (corners: readonly Point[]) =>
  corners.map(({ x, y }) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100] as const);

/** What was drawn on the present frame, as shot, becomes a layer, or limits the selected one. */
export function drawForLayer(kind: LayerDrawn, corners: readonly Point[], smooth: boolean): void {
  const { frame, info } = bench();
  const fault = faultOfOutline(outlineOf(corners, smooth), info.width, info.height);
  if (fault) {
    toast.warning(`Nothing was made: what was drawn ${fault}. Draw once more.`, { id: 'layer' });
    return;
  }
  const outline = drawnOutline(frame, pairs(corners), smooth, kind === 'shape' ? 0 : 6);
  switch (kind) {
    case 'shape':
      return put({ ...common('Shape'), kind: 'shape', outline, colour: '#ffffff' });
    case 'conceal':
      return put({ ...common('Conceal'), ...NEW_CONCEAL, outline });
    case 'tint':
      return put({ ...common('Tint'), ...NEW_TINT, hue: 120, outline });
    default:
      return putMatte(outline, kind === 'in-front');
  }
}

function putMatte(outline: LayerOutline, outside: boolean): void {
  const layer = selectedLayer();
  if (!layer) {
    toast.warning('Select a layer first: what is drawn limits it.', { id: 'layer' });
    return;
  }
  const n = layer.mattes.length + 1;
  const matte: LayerMatte = {
    ...{ kind: 'area', id: crypto.randomUUID(), name: `${outside ? 'In front' : 'Inside'} ${n}` },
    ...{ frame: bench().frame, rides: rideNow(), outline, outside },
  };
  edit((s) => addMatte(s, layer.id, matte));
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

/** Gives a layer something else to ride on. It stays where it is on the present frame, which becomes its own. */
export function rideOn(id: string, rides: Rides): void {
  const layer = layerById(shotState(), id);
  if (!layer) return;
  const { frame } = bench();
  change(id, { ...moved(layer, carriedOn(layer, frame)), rides, frame });
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
