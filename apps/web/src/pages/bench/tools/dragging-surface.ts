import type { Point, Quad } from '@lurn/core';
import { surfaceById } from '@lurn/model';
import { bench, setBench } from '../../../state/bench';
import { beginGesture, cancelGesture, endGesture, shotDocument } from '../../../state/shot';
import {
  addOutlineCorner,
  outlineOn,
  pinQuad,
  quadShown,
  reshapeOutline,
  setQuadCorner,
} from '../../../state/surfaces';
import type { Drag, PointerAt, Target } from './tool';

const nothing = () => undefined;

/**
 * Moves a corner of a surface's quad, or an outline or one of its corners. At Repair a corner of the quad that is moved
 * puts the surface itself right on this frame: it becomes a pin.
 */
export function draggingSurface(target: Extract<Target, { kind: 'surface' }>, at: PointerAt): Drag {
  setBench({ selected: [target.surface], area: null });
  const { frame, station } = bench();
  const surface = surfaceById(shotDocument(), target.surface);
  if (!surface) return { move: nothing, up: nothing, cancel: nothing };
  return target.part === 'quad'
    ? draggingQuad(target, at, frame, station === 'repair')
    : draggingOutline(target, at, frame);
}

/** What is dragged is looked at closely meanwhile. */
const look = (id: string, { x, y }: Point) => setBench({ magnifier: { x, y, spot: id } });

function ended(finish: () => void): () => void {
  return () => {
    finish();
    setBench({ magnifier: null });
  };
}

function draggingQuad(
  { surface: id, index }: Extract<Target, { kind: 'surface' }>,
  at: PointerAt,
  frame: number,
  pins: boolean,
): Drag {
  const from = quadShown(surfaceById(shotDocument(), id)!, frame);
  if (!from) return { move: nothing, up: nothing, cancel: nothing };
  beginGesture();
  look(id, from[index]);
  return {
    move({ picture }) {
      const to = { x: from[index].x + picture.x - at.picture.x, y: from[index].y + picture.y - at.picture.y };
      if (pins) pinQuad(id, frame, from.map((p, i) => (i === index ? to : p)) as unknown as Quad);
      else setQuadCorner(id, index, frame, to);
      look(id, quadShown(surfaceById(shotDocument(), id)!, frame)?.[index] ?? to);
    },
    up: ended(endGesture),
    cancel: ended(cancelGesture),
  };
}

function draggingOutline(
  { surface: id, part, outline, index }: Extract<Target, { kind: 'surface' }>,
  at: PointerAt,
  frame: number,
): Drag {
  beginGesture();
  if (part === 'edge') addOutlineCorner(id, outline, index);
  const surface = surfaceById(shotDocument(), id)!;
  const from = outlineOn(surface, outline, frame);
  const taken = part === 'edge' ? index + 1 : index;
  return {
    move({ picture }) {
      if (!from) return;
      const [dx, dy] = [picture.x - at.picture.x, picture.y - at.picture.y];
      const moved = ({ x, y }: Point) => ({ x: x + dx, y: y + dy });
      reshapeOutline(
        id,
        outline,
        frame,
        from.map((p, i) => (part === 'line' || i === taken ? moved(p) : p)),
      );
      if (part !== 'line') look(id, moved(from[taken]));
    },
    up: ended(endGesture),
    cancel: ended(cancelGesture),
  };
}
