import { outlineOf, rectangle, simplified, type Point } from '@lurn/core';
import { pictureToPane } from '../../../lib/view';
import { drawArea } from '../../../state/areas';
import { bench, setBench, type DrawnKind } from '../../../state/bench';
import { drawForLayer } from '../../../state/making-layers';
import { addHole, drawSoft } from '../../../state/soft';
import { addOutline, drawSurface } from '../../../state/surfaces';
import { asShotPlace } from './as-shot';
import { common } from './mark';
import { Tool, type Drag, type PointerAt, type Press } from './tool';

/** So near, in screen pixels, a press meets a corner, and a drag has not begun. */
const NEAR = 9;
const STILL = 4;
/** A loop that is drawn becomes a curve that strays from it by no more than this, in screen pixels. */
const STRAY = 6;
/** Of more corners the straight lines are smooth enough. */
const MOST_SMOOTH = 20;

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
    if (this.box) return `Drag a rectangle over ${WHAT[this.kind]}. Esc ends.`;
    return `Press corner by corner round ${WHAT[this.kind]}, Enter closes; or drag a loop round it. Esc ends.`;
  }

  protected press(given: Press): Drag {
    const press = isForLayer(this.kind) ? asShotPress(given) : given;
    const { at, pane, pans } = press;
    const asShot = (to: PointerAt) => (isForLayer(this.kind) ? asShotPlace(to, pane) : to);
    const scale = pictureToPane(bench().camera, bench().info, pane)[0];
    const near = (p: Point) => Math.hypot(p.x - at.picture.x, p.y - at.picture.y) * scale < NEAR;
    const [first] = this.corners;
    const last = this.corners[this.corners.length - 1];
    if (this.corners.length >= 3 && (near(first) || (pans && near(last)))) {
      this.close();
      return RESTING;
    }
    const onSteadied = isForLayer(this.kind) && pane.kind === 'steadied' && !pans;
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
    switch (this.kind) {
      case 'surface':
        return drawSurface(corners, smooth);
      case 'soft':
        return drawSoft(corners, smooth);
      case 'hole':
        return addHole(corners, smooth);
      case 'more':
        return addOutline('focus', corners, smooth);
      case 'less':
        return addOutline('ignore', corners, smooth);
      case 'regroup':
        // It stays on the picture until it is said what it goes with.
        return setBench({
          drawing: smooth && corners.length < MOST_SMOOTH ? outlineOf(corners, true) : corners,
          drawn: true,
        });
      case 'ignore':
      case 'focus':
        return drawArea(this.kind, corners, smooth);
      default:
        drawForLayer(this.kind, corners, smooth);
    }
  }
}

const FOR_LAYERS: ReadonlySet<DrawnKind> = new Set(['shape', 'conceal', 'tint', 'inside', 'in-front']);
const isForLayer = (kind: DrawnKind) => FOR_LAYERS.has(kind);

/** Layers are drawn on either picture; what is drawn on the steadied one is told in places of the frame as shot. */
const asShotPress = (press: Press): Press => ({ ...press, at: asShotPlace(press.at, press.pane) });

const WHAT = {
  ignore: 'what should not be measured',
  focus: 'what alone should be measured',
  regroup: 'what moves together',
  surface: 'a flat surface: loosely is enough',
  soft: 'cloth, skin, a leaf: whatever bends, loosely',
  hole: 'a hole in the mesh: an eye, a button',
  more: 'what belongs to the surface as well',
  less: 'what does not belong to the surface',
  shape: 'the shape',
  conceal: 'what is to be concealed',
  tint: 'what is to be tinted',
  inside: 'where alone the layer is to be seen',
  'in-front': 'what stays in front of the layer',
} as const;

const nothing = () => undefined;
const RESTING: Drag = { move: nothing, up: nothing, cancel: nothing };
