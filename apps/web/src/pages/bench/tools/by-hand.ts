import { pinSpot, placeSpot } from '../../../state/edit-spots';
import { bench, goTo, setBench } from '../../../state/bench';
import { spotById } from '@lurn/model';
import { beginGesture, shotDocument } from '../../../state/shot';
import { showsAt } from '../../../state/stations';
import { draggingSpot, panning } from './drags';
import { common } from './mark';
import { Tool, type Drag, type Press } from './tool';

/** Pins the selected spot where it is put, frame after frame; where there is none yet, it makes one. */
export class ByHandTool extends Tool {
  constructor(private readonly step: number) {
    super();
  }

  hint(): string {
    return 'Press where the spot is: it is pinned, and the playhead steps on. Esc ends.';
  }

  protected press(press: Press): Drag {
    const { at, pane } = press;
    const first = common(press);
    if (first) return first;
    if (!showsAt(bench().station).marks || bench().tracking) return panning(at, pane);
    const { selected } = bench();
    const chosen = spotById(shotDocument(), selected[0] ?? '');
    beginGesture();
    const id = chosen?.id ?? placeSpot(at.picture);
    if (chosen) pinSpot(id, at.picture);
    const drag = draggingSpot(id, at, true);
    return {
      move: drag.move,
      up: () => {
        drag.up();
        goTo(bench().frame + this.step);
      },
      cancel() {
        drag.cancel();
        setBench({ selected });
      },
    };
  }
}
