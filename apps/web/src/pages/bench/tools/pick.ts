import { pickAt } from '../../../state/picking';
import { asShotPlace } from './as-shot';
import { pressing } from './drags';
import { Tool, type Drag, type Press } from './tool';

/** Takes a colour from the picture. */
export class PickTool extends Tool {
  hint(): string {
    return 'Press on the colour in the picture. Esc ends.';
  }

  protected press({ at, pane, pans }: Press): Drag {
    return pressing(at, pane, () => void pickAt(asShotPlace(at, pane).picture), pans);
  }
}
