import { bench, setBench } from '../../../state/bench';
import { holdAt } from '../../../state/scene';
import { panning } from './drags';
import { common } from './mark';
import { Tool, type Drag, type Press } from './tool';

/** Points at what is to be held. */
export class HoldTool extends Tool {
  hint(): string {
    return 'Press on what should be held. Esc ends.';
  }

  protected press(press: Press): Drag {
    const { at, pane } = press;
    const first = common(press);
    if (first) return first;
    const { frame } = bench();
    const pan = panning(at, pane);
    let moved = false;
    return {
      move(to) {
        moved ||= Math.hypot(to.screen.x - at.screen.x, to.screen.y - at.screen.y) > 4;
        if (moved) pan.move(to);
      },
      up() {
        pan.up();
        if (!moved && holdAt(at.picture, frame)) setBench({ tool: { id: 'mark' } });
      },
      cancel: () => pan.cancel(),
    };
  }
}
