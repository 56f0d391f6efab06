import { apply, invert, pictureInSource } from '@lurn/core';
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
