import { apply, invert, pictureInSource } from '@lurn/core';
import { bench } from '../../../state/bench';
import { pickAt } from '../../../state/picking';
import { pressing } from './drags';
import { Tool, type Drag, type Press } from './tool';

/** Takes a colour from the picture. */
export class PickTool extends Tool {
  hint(): string {
    return 'Press on the colour in the picture. Esc ends.';
  }

  protected press({ at, pane, pans }: Press): Drag {
    const { steady, frame } = bench();
    return pressing(
      at,
      pane,
      () => {
        const { x, y } = at.picture;
        const back = pane.kind === 'steadied' ? invert(pictureInSource(steady, frame)) : null;
        void pickAt(back ? apply(back, x, y) : { x, y });
      },
      pans,
    );
  }
}
