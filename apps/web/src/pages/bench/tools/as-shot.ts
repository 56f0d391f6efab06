import { apply, invert, type Matrix3 } from '@lurn/core/geometry';
import { pictureInSource } from '@lurn/core/plan';
import type { PaneRect } from '../../../lib/view';
import { bench } from '../../../state/bench';
import type { PointerAt } from './tool';

/** Where the pointer is, in places of the frame as shot, whichever picture it went down on. */
export function asShotPlace(at: PointerAt, pane: PaneRect): PointerAt {
  if (pane.kind === 'source') return at;
  const { steady, frame } = bench();
  const back = invert(pictureInSource(steady, frame));
  return { ...at, picture: apply(back, at.picture.x, at.picture.y) };
}

/** The way back; null where there is none: what is seen edge-on cannot be dragged. */
export function inverseOf(m: Matrix3): Matrix3 | null {
  try {
    return invert(m);
  } catch {
    return null;
  }
}
