import { apply, type Point } from '@lurn/core/geometry';
import { bench, setBench } from '../../../state/bench';
import { addCorner, outlineCorners, outlineHome, reshapeOutline } from '../../../state/outlines';
import { beginGesture, cancelGesture, endGesture, shotState } from '../../../state/shot';
import { inverseOf } from './as-shot';
import type { Drag, Press, Target } from './tool';

const nothing = () => undefined;

/** Moves a whole outline, or one of its corners, whatever it belongs to; an edge that is dragged gets one more corner. */
export function draggingOutline(
  { outline: ref, part, index }: Extract<Target, { kind: 'outline' }>,
  { at, pane }: Pick<Press, 'at' | 'pane'>,
): Drag {
  const home = outlineHome(ref);
  home.select(ref);
  const { frame } = bench();
  const toPicture = home.toPicture(ref, shotState(), frame, pane.kind);
  const back = toPicture && inverseOf(toPicture);
  if (!back || !home.keys(ref, shotState())) return { move: nothing, up: nothing, cancel: nothing };
  beginGesture();
  if (part === 'edge') addCorner(ref, index);
  const corners = outlineCorners(ref, frame) ?? [];
  const from = apply(back, at.picture.x, at.picture.y);
  const taken = part === 'edge' ? index + 1 : index;
  const ended = (finish: () => void) => () => {
    finish();
    setBench({ magnifier: null });
  };
  return {
    move({ picture }) {
      const to = apply(back, picture.x, picture.y);
      const moved = ({ x, y }: Point) => ({ x: x + to.x - from.x, y: y + to.y - from.y });
      reshapeOutline(
        ref,
        frame,
        corners.map((p, i) => (part === 'line' || i === taken ? moved(p) : p)),
      );
      if (!home.magnified || part === 'line') return;
      const { x, y } = moved(corners[taken]);
      setBench({ magnifier: { ...apply(toPicture, x, y), spot: ref.id } });
    },
    up: ended(endGesture),
    cancel: ended(cancelGesture),
  };
}
