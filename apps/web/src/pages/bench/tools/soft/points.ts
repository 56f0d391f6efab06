import type { Point } from '@lurn/core/geometry';
import { bench, setBench } from '../../../../state/bench';
import { addVertex, choosePoints, cutMesh } from '../../../../state/soft/mesh-points';
import { draggingVertex } from './dragging-vertex';
import { common } from '../mark';
import { Tool, type Drag, type Press } from '../tool';

/** So far, in screen pixels, a press may move and still be one. */
const STILL = 4;

/** Points of a mesh: a press puts one, a dragged box chooses those in it, with Alt a dragged line cuts the mesh. */
export class PointsTool extends Tool {
  hint(): string {
    return 'Press to put a point, drag one to move it, drag a box to choose several, Alt and drag to cut. Delete takes them out, Esc ends.';
  }

  protected press(press: Press): Drag {
    const { at, target, alt } = press;
    if (target.kind === 'vertex' && !press.pans) return draggingVertex(target, press);
    const taken = common(press);
    if (taken) return taken;
    const from = at.picture;
    let to: Point | null = null;
    const show = () => {
      if (!to) return;
      if (alt) setBench({ drawing: [from, to] });
      else setBench({ rectangle: boxOf(from, to) });
    };
    const clear = () => setBench({ drawing: [], rectangle: null });
    return {
      move({ picture, screen }) {
        if (!to && Math.hypot(screen.x - at.screen.x, screen.y - at.screen.y) < STILL) return;
        to = picture;
        show();
      },
      up() {
        clear();
        if (!to) addVertex(from);
        else if (alt) cutMesh(from, to);
        else choosePoints(bench().frame, boxOf(from, to));
      },
      cancel: clear,
    };
  }

  override key(key: string): boolean {
    if (super.key(key)) return true;
    if (key !== 'Escape') return false;
    setBench({ tool: { id: 'mark' } });
    return true;
  }
}

function boxOf(a: Point, b: Point): [number, number, number, number] {
  return [Math.min(a.x, b.x), Math.min(a.y, b.y), Math.max(a.x, b.x), Math.max(a.y, b.y)];
}
