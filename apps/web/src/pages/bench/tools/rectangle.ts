import { bench, setBench } from '../../../state/bench';
import { common } from './mark';
import { Tool, type Drag, type Press } from './tool';

/** Smaller than this, in pixels a side, it was no rectangle that was meant. */
const LEAST = 8;

/** Draws the rectangle within which spots are suggested. */
export class RectangleTool extends Tool {
  hint(): string {
    return 'Draw a rectangle over the part that should hold. Esc ends.';
  }

  protected press(press: Press): Drag {
    const first = common(press);
    if (first) return first;
    const from = press.at.picture;
    const { info, rectangle: before } = bench();
    const inside = (v: number, size: number) => Math.min(size, Math.max(0, v));
    return {
      move({ picture: to }) {
        const x = [inside(from.x, info.width), inside(to.x, info.width)].sort((a, b) => a - b);
        const y = [inside(from.y, info.height), inside(to.y, info.height)].sort((a, b) => a - b);
        setBench({ rectangle: [x[0], y[0], x[1], y[1]] });
      },
      up() {
        const { rectangle: r } = bench();
        const large = r && r[2] - r[0] > LEAST && r[3] - r[1] > LEAST;
        setBench(large ? { tool: { id: 'mark' } } : { rectangle: null });
      },
      cancel: () => setBench({ rectangle: before }),
    };
  }
}
