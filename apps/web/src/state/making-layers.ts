import { apply, invert, outlineOf, faultOfOutline, rectangle, type Point } from '@lurn/core/geometry';
import { pictureInSource } from '@lurn/core/plan';
import {
  addAsset,
  addLayer,
  addMatte,
  cornersAbout,
  drawnOutline,
  LIMITS,
  NEW_CONCEAL,
  NEW_EDGE,
  layerRules,
  NEW_LAYER,
  moveLayer,
  nextLayerName,
  ON_FRAME,
  rulesOf,
  storedQuad,
  type Asset,
  type Corners4,
  type Layer,
  type LayerMatte,
  type LayerOutline,
  type Rides,
} from '@lurn/model';
import { toast } from 'sonner';
import { moverOutline } from '../lib/movers';
import { bench, setBench, type LayerDrawn } from './bench';
import { edit, shotDocument, shotState } from './shot';
import { laidOf } from './soft/mesh-shown';
import { shapeShown } from './tracker-shapes';
import { selectedLayer } from './layers';
import { pairs } from '../lib/places';

/** New layers, and what limits them; each is one step of undo unless a gesture is under way. */

/** What a new layer rides on: a selected tracker, or what is held. */
export function rideNow(): Rides {
  const { selected, steady, clip } = bench();
  const document = shotDocument();
  const own =
    selected.map((id) => document.trackers.find((t) => t.id === id)).find((t) => t !== undefined) ??
    document.trackers.find((t) => rulesOf(t).ownMover && t.mover === document.held);
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
export function placed(kind: string) {
  const layer = common(kind);
  const { on, id } = layer.rides;
  return on !== 'frame' && laidOf(id) ? { ...layer, rides: { ...layer.rides, laid: true } } : layer;
}

export function put(
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
export function room({ id, laid }: Pick<Rides, 'id' | 'laid'>): {
  x: number;
  y: number;
  width: number;
  height: number;
} {
  const { camera, info, steady, frame } = bench();
  const shape = laid ? laidOf(id) : undefined;
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

export function putPaint(): void {
  put({ ...placed('Paint'), kind: 'paint', strokes: [] });
}

/** Conceals a spot or a surface, at a fitting size: one press. */
export function concealTracker(id: string): void {
  const { frame } = bench();
  const tracker = shotDocument().trackers.find((t) => t.id === id);
  const shape = tracker && shapeShown(tracker, frame);
  if (!shape) {
    toast.warning('It has to be known on this frame.', { id: 'layer' });
    return;
  }
  const outline = drawnOutline(frame, pairs(shape.corners), shape.smooth, 6);
  const rides: Rides = { ...ON_FRAME, on: tracker.kind, id };
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
function shapeOfMover(id: string) {
  const { frame, scene } = bench();
  const at = scene?.movers.findIndex((m) => m.id === id) ?? -1;
  const shape = at < 0 ? null : moverOutline(scene!, frame, at);
  if (!shape) toast.warning('It is not seen on this frame. Go to one on which it is.', { id: 'layer' });
  return shape && pairs(shape);
}

/** What was drawn on the present frame, as shot, becomes a layer, or limits the selected one. */
export function drawForLayer(kind: LayerDrawn, corners: readonly Point[], smooth: boolean): void {
  const { frame, info } = bench();
  const fault = faultOfOutline(outlineOf(corners, smooth), info.width, info.height);
  if (fault) {
    toast.warning(`Nothing was made: what was drawn ${fault}. Draw once more.`, { id: 'layer' });
    return;
  }
  if (kind === 'inside' || kind === 'in-front') {
    putMatte(drawnOutline(frame, pairs(corners), smooth, 6), kind === 'in-front');
    return;
  }
  const { layer, soften } = layerRules({ kind }).drawn!;
  const outline = drawnOutline(frame, pairs(corners), smooth, soften);
  put(layer(common(kind[0].toUpperCase() + kind.slice(1)), outline));
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
