import type { Point } from '@lurn/core';
import { addCorner, areaById, cornersOn, reshape } from '../../../state/areas';
import { bench, setBench } from '../../../state/bench';
import { beginGesture, cancelGesture, endGesture } from '../../../state/shot';
import type { Drag, PointerAt } from './tool';

const nothing = () => undefined;

/** Moves a whole area, or one of its corners; on the present frame it gets a key. */
export function draggingArea(
  id: string,
  part: 'line' | 'corner' | 'edge',
  index: number,
  at: PointerAt,
): Drag {
  setBench({ area: id, selected: [] });
  beginGesture();
  if (part === 'edge') addCorner(id, index);
  const { frame } = bench();
  const area = areaById(id);
  if (!area) return { move: nothing, up: endGesture, cancel: cancelGesture };
  const from = cornersOn(area, frame);
  const taken = part === 'edge' ? index + 1 : index;
  return {
    move({ picture }) {
      const [dx, dy] = [picture.x - at.picture.x, picture.y - at.picture.y];
      const moved = ({ x, y }: Point) => ({ x: x + dx, y: y + dy });
      reshape(
        id,
        frame,
        from.map((p, i) => (part === 'line' || i === taken ? moved(p) : p)),
      );
    },
    up: endGesture,
    cancel: cancelGesture,
  };
}
