import { rectangle, simplified, type Point } from '@lurn/core/geometry';
import { pictureToPane } from '../../../lib/view';
import { bench, setBench, type DrawnKind } from '../../../state/bench';
import { asShotPlace } from './as-shot';
import { drawingOf } from './drawings';
import { common } from './mark';
import { Tool, type Drag, type PointerAt, type Press } from './tool';

/** So near, in screen pixels, a press meets a corner, and a drag has not begun. */
const NEAR = 9;
const STILL = 4;
/** A loop that is drawn becomes a curve that strays from it by no more than this, in screen pixels. */
const STRAY = 6;

/** Draws a closed shape: corner by corner, as one loop, or as a rectangle from corner to corner. */
export class AreaTool extends Tool {
  private corners: Point[] = [];

  constructor(
    private readonly kind: DrawnKind,
    private readonly box = false,
  ) {
    super();
  }

  hint(): string {
    if (this.box) return `Drag a rectangle over ${drawingOf(this.kind).what}. Esc ends.`;
    return `Press corner by corner round ${drawingOf(this.kind).what}, Enter closes; or drag a loop round it. Esc ends.`;
  }

  protected press(given: Press): Drag {
    const press = drawingOf(this.kind).forLayer ? asShotPress(given) : given;
    const { at, pane, pans } = press;
    const asShot = (to: PointerAt) => (drawingOf(this.kind).forLayer ? asShotPlace(to, pane) : to);
    const scale = pictureToPane(bench().camera, bench().info, pane)[0];
    const near = (p: Point) => Math.hypot(p.x - at.picture.x, p.y - at.picture.y) * scale < NEAR;
    const [first] = this.corners;
    const last = this.corners[this.corners.length - 1];
    if (this.corners.length >= 3 && (near(first) || (pans && near(last)))) {
      this.close();
      return RESTING;
    }
    const onSteadied = drawingOf(this.kind).forLayer && pane.kind === 'steadied' && !pans;
    const taken = onSteadied ? null : common(press);
    if (taken) return taken;
    if (this.box) return this.dragBox(at.picture, asShot);
    const loop: Point[] = [at.picture];
    const drawn = () => this.corners.length === 0 && loop.length > 2;
    return {
      move: (to) => {
        const { picture, screen } = asShot(to);
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

  private dragBox(from: Point, asShot: (at: PointerAt) => PointerAt): Drag {
    let corners: readonly Point[] = [];
    return {
      move: (moved) => {
        const { picture: to } = asShot(moved);
        const [l, r] = [Math.min(from.x, to.x), Math.max(from.x, to.x)];
        const [t, b] = [Math.min(from.y, to.y), Math.max(from.y, to.y)];
        corners = rectangle(l, t, r, b);
        setBench({ drawing: corners });
      },
      up: () => this.finish(corners, false),
      cancel: () => this.show([]),
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
    drawingOf(this.kind).finish(corners, smooth);
  }
}

/** Layers are drawn on either picture; what is drawn on the steadied one is told in places of the frame as shot. */
const asShotPress = (press: Press): Press => ({ ...press, at: asShotPlace(press.at, press.pane) });

const nothing = () => undefined;
const RESTING: Drag = { move: nothing, up: nothing, cancel: nothing };
