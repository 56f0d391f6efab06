import {
  apply,
  chain,
  invert,
  moveQuad,
  quadToQuad,
  translation,
  type Point,
  type Quad,
} from '@lurn/core/geometry';
import { layerById, quadOf, type ClipLayer, type GraphicLayer, type TextLayer } from '@lurn/model';
import { bench, setBench } from '../../../state/bench';
import { layerToPicture } from '../../../state/layer-places';
import { setCorners } from '../../../state/layers';
import { beginGesture, cancelGesture, endGesture, shotState } from '../../../state/shot';
import { inverseOf } from './as-shot';
import type { Drag, Press, Target } from './tool';

const nothing = () => undefined;
const RESTING: Drag = { move: nothing, up: nothing, cancel: nothing };

type PlacedTarget = Extract<Target, { kind: 'placed' }>;

/** Drags a layer that is placed by its corners, or one of its handles: in either picture, where it is seen there. */
export function draggingPlaced(target: PlacedTarget, { at, pane }: Press): Drag {
  setBench({ layer: target.layer, area: null });
  const layer = layerById(shotState(), target.layer);
  if (!layer || !('corners' in layer)) return RESTING;
  const back = inverseOf(layerToPicture(layer, bench().frame, pane.kind));
  if (!back) return RESTING;
  const own = (p: Point) => apply(back, p.x, p.y);
  return draggingPlace(layer, target, own(at.picture), own);
}

function gesture(move: (to: Point) => void, own: (p: Point) => Point): Drag {
  beginGesture();
  return { move: ({ picture }) => move(own(picture)), up: endGesture, cancel: cancelGesture };
}

function draggingPlace(
  layer: ClipLayer | GraphicLayer | TextLayer,
  { part, index }: PlacedTarget,
  from: Point,
  own: (p: Point) => Point,
): Drag {
  const corners = quadOf(layer.corners);
  return gesture((to) => {
    const moved = placeMoved(corners, part, index, from, to);
    if (moved) setCorners(layer.id, moved);
  }, own);
}

const unit: Quad = [
  { x: 0, y: 0 },
  { x: 1, y: 0 },
  { x: 1, y: 1 },
  { x: 0, y: 1 },
];

/**
 * Corners after a drag of a part of a placed rectangle: its body moves it, a corner sizes it about the opposite one, a
 * side stretches it, the ring above it turns it about its middle, and `place` puts one corner freely, in perspective.
 */
export function placeMoved(
  corners: Quad,
  part: PlacedTarget['part'],
  index: number,
  from: Point,
  to: Point,
): Quad | null {
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  if (part === 'body') return moveQuad(translation(dx, dy), corners);
  if (part === 'place')
    return corners.map((p, i) => (i === index ? { x: p.x + dx, y: p.y + dy } : p)) as unknown as Quad;
  const flat = quadToQuad(unit, corners);
  if (!flat) return null;
  if (part === 'turn') {
    const middle = apply(flat, 0.5, 0.5);
    const angle = (p: Point) => Math.atan2(p.y - middle.y, p.x - middle.x);
    const turn = angle(to) - angle(from);
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    const about = chain(
      translation(middle.x, middle.y),
      [c, -s, 0, s, c, 0, 0, 0, 1],
      translation(-middle.x, -middle.y),
    );
    return moveQuad(about, corners);
  }
  if (part === 'corner') {
    const fixed = corners[(index + 2) % 4];
    const [a, b] = [
      Math.hypot(from.x - fixed.x, from.y - fixed.y),
      Math.hypot(to.x - fixed.x, to.y - fixed.y),
    ];
    const scale = a > 0 ? Math.max(0.02, b / a) : 1;
    return corners.map((p) => ({
      x: fixed.x + scale * (p.x - fixed.x),
      y: fixed.y + scale * (p.y - fixed.y),
    })) as unknown as Quad;
  }
  // A side, by how far it is dragged across its own rectangle.
  const [p, q] = [from, to].map(({ x, y }) => apply(invert(flat), x, y));
  const by = index % 2 === 0 ? q.y - p.y : q.x - p.x;
  const rect = {
    left: index === 3 ? Math.min(0.98, by) : 0,
    top: index === 0 ? Math.min(0.98, by) : 0,
    right: index === 1 ? Math.max(0.02, 1 + by) : 1,
    bottom: index === 2 ? Math.max(0.02, 1 + by) : 1,
  };
  return moveQuad(flat, [
    { x: rect.left, y: rect.top },
    { x: rect.right, y: rect.top },
    { x: rect.right, y: rect.bottom },
    { x: rect.left, y: rect.bottom },
  ]);
}
