import { outlineOf, type AreaKind, type Point } from '@lurn/core';
import { simplified } from '../../../lib/simplify';
import { pictureToPane } from '../../../lib/view';
import { drawArea } from '../../../state/areas';
import { bench, setBench } from '../../../state/bench';
import { common } from './mark';
import { Tool, type Drag, type Press } from './tool';

/** So near, in screen pixels, a press meets a corner, and a drag has not begun. */
const NEAR = 9;
const STILL = 4;
/** A loop that is drawn becomes a curve that strays from it by no more than this, in screen pixels. */
const STRAY = 6;
/** Of more corners the straight lines are smooth enough. */
const MOST_SMOOTH = 20;

/** Draws what is not measured, or alone is: corner by corner, or as one loop. */
export class AreaTool extends Tool {
  private corners: Point[] = [];

  constructor(private readonly kind: AreaKind | 'regroup') {
    super();
  }

  hint(): string {
    return `Press corner by corner round ${WHAT[this.kind]}, Enter closes; or drag a loop round it. Esc ends.`;
  }

  protected press(press: Press): Drag {
    const { at, pane, pans } = press;
    const scale = pictureToPane(bench().camera, bench().info, pane)[0];
    const near = (p: Point) => Math.hypot(p.x - at.picture.x, p.y - at.picture.y) * scale < NEAR;
    const [first] = this.corners;
    const last = this.corners[this.corners.length - 1];
    if (this.corners.length >= 3 && (near(first) || (pans && near(last)))) {
      this.close();
      return RESTING;
    }
    const taken = common(press);
    if (taken) return taken;
    const loop: Point[] = [at.picture];
    const drawn = () => this.corners.length === 0 && loop.length > 2;
    return {
      move: ({ picture, screen }) => {
        if (this.corners.length > 0) return;
        if (loop.length === 1 && Math.hypot(screen.x - at.screen.x, screen.y - at.screen.y) < STILL) return;
        loop.push(picture);
        setBench({ drawing: loop });
      },
      up: () => {
        if (!drawn()) {
          this.show([...this.corners, at.picture]);
          return;
        }
        this.finish(simplified(loop, STRAY / scale), true);
      },
      cancel: () => this.show(this.corners),
    };
  }

  override key(key: string): boolean {
    if (super.key(key)) return true;
    if (this.corners.length === 0) return false;
    if (key === 'Enter') this.close();
    else if (key === 'Backspace') this.show(this.corners.slice(0, -1));
    else if (key === 'Escape') this.show([]);
    else return false;
    return true;
  }

  override enter(): void {
    setBench({ drawn: false });
  }

  override exit(): void {
    super.exit();
    this.show([]);
  }

  private show(corners: Point[]): void {
    this.corners = corners;
    setBench({ drawing: corners });
  }

  private close(): void {
    if (this.corners.length >= 3) this.finish(this.corners, false);
  }

  private finish(corners: readonly Point[], smooth: boolean): void {
    this.show([]);
    if (corners.length < 3) return;
    setBench({ tool: { id: 'mark' } });
    if (this.kind !== 'regroup') drawArea(this.kind, corners, smooth);
    // It stays on the picture until it is said what it goes with.
    else
      setBench({
        drawing: smooth && corners.length < MOST_SMOOTH ? outlineOf(corners, true) : corners,
        drawn: true,
      });
  }
}

const WHAT = {
  ignore: 'what should not be measured',
  focus: 'what alone should be measured',
  regroup: 'what moves together',
} as const;

const nothing = () => undefined;
const RESTING: Drag = { move: nothing, up: nothing, cancel: nothing };
