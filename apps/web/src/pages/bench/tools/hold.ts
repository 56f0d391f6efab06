import { bench, setBench } from '../../../state/bench';
import { holdAt } from '../../../state/scene';
import { pressing } from './drags';
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
    return pressing(at, pane, () => {
      if (holdAt(at.picture, frame)) setBench({ tool: { id: 'mark' } });
    });
  }
}
