import { carry, toFlat, keyedAt } from '@lurn/core/compose';
import {
  apply,
  invert,
  IDENTITY,
  NOWHERE,
  evaluatorOf,
  multiply,
  translation,
  type Matrix3,
  type Point,
} from '@lurn/core/geometry';
import { pictureInSource } from '@lurn/core/plan';
import { motionMatrix } from '@lurn/core/solve';
import { rideOf, type Layer } from '@lurn/model';
import { bench } from './bench';
import { shotState } from './shot';

/** Where layers lie, on frames as shot and in either picture. */

/** Where places of a layer's own frame are on a frame as shot. */
export function carriedOn(
  layer: Pick<Layer, 'rides' | 'frame' | 'unknown'> & Partial<Layer>,
  frame: number,
): Matrix3 {
  const { steady } = bench();
  const ride = rideOf(layer.rides, shotState());
  const { frame: own, unknown } = layer;
  const { m } = carry(ride, { own, frame, unknown, middle: middleOf(layer), motions: steady?.motions ?? {} });
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
  if (!steady?.bend || rides.id !== steady.bend.id) return null;
  const { motion, bend } = steady;
  const ride = { on: 'soft', id: bend.id, soft: bend, laid: rides.laid } as const;
  const home = toFlat(ride, own, motion.ref, MIDDLE) ?? IDENTITY;
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
  if (kind === 'steadied') return straight;
  const ride = rideOf(layer.rides, shotState());
  const { frame: own, unknown } = layer;
  const { bent } = carry(ride, { own, frame, unknown, middle: middleOf(layer), motions: {} });
  if (!bent) return straight;
  const home = evaluatorOf(bent.back);
  return (at) => {
    const own = home.at(at.x, at.y);
    return own.x === NOWHERE ? straight(at) : own;
  };
}
