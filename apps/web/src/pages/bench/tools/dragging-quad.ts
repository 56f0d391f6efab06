import type { Point, Quad } from '@lurn/core/geometry';
import { surfaceById } from '@lurn/model';
import { bench, setBench } from '../../../state/bench';
import { beginGesture, cancelGesture, endGesture, shotDocument } from '../../../state/shot';
import { pinQuad, quadShown, setQuadCorner } from '../../../state/surfaces';
import type { Drag, PointerAt, Target } from './tool';
import { showsAt } from '../../../state/stations';

const nothing = () => undefined;

/**
 * Moves a corner of a surface's quad. At Repair that puts the surface itself right on this frame: it becomes a pin.
 */
export function draggingQuad({ surface: id, index }: Extract<Target, { kind: 'quad' }>, at: PointerAt): Drag {
  setBench({ selected: [id], area: null });
  const { frame, station } = bench();
  const quadNow = () => quadShown(surfaceById(shotDocument(), id)!, frame);
  const from = surfaceById(shotDocument(), id) ? quadNow() : null;
  if (!from) return { move: nothing, up: nothing, cancel: nothing };
  beginGesture();
  // What is dragged is looked at closely meanwhile.
  const look = ({ x, y }: Point) => setBench({ magnifier: { x, y, spot: id } });
  const ended = (finish: () => void) => () => {
    finish();
    setBench({ magnifier: null });
  };
  look(from[index]);
  return {
    move({ picture }) {
      const to = { x: from[index].x + picture.x - at.picture.x, y: from[index].y + picture.y - at.picture.y };
      if (showsAt(station).pins)
        pinQuad(id, frame, from.map((p, i) => (i === index ? to : p)) as unknown as Quad);
      else setQuadCorner(id, index, frame, to);
      look(quadNow()?.[index] ?? to);
    },
    up: ended(endGesture),
    cancel: ended(cancelGesture),
  };
}
