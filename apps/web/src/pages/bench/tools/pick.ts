import { apply, invert, pictureInSource } from '@lurn/core';
import { bench } from '../../../state/bench';
import { pickAt } from '../../../state/picking';
import { panning } from './drags';
import { Tool, type Drag, type Press } from './tool';

/** Takes a colour from the picture. */
export class PickTool extends Tool {
  hint(): string {
    return 'Press on the colour in the picture. Esc ends.';
  }

  protected press({ at, pane, pans }: Press): Drag {
    const { steady, frame } = bench();
    const pan = panning(at, pane);
    let moved = pans;
    return {
      move(to) {
        moved ||= Math.hypot(to.screen.x - at.screen.x, to.screen.y - at.screen.y) > 4;
        if (moved) pan.move(to);
      },
      up() {
        pan.up();
        if (moved) return;
        const { x, y } = at.picture;
        const asShot =
          pane.kind === 'steadied' ? apply(invert(pictureInSource(steady, frame)), x, y) : { x, y };
        void pickAt(asShot);
      },
      cancel: () => pan.cancel(),
    };
  }
}
