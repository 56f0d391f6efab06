import type { Point } from '@lurn/core/geometry';
import { layerById, type PaintLayer, type PaintStroke } from '@lurn/model';
import { toast } from 'sonner';
import { bench, setBench } from '../../../state/bench';
import { pictureToLayer } from '../../../state/layer-places';
import { paintStroke, plateFor, selectedLayer } from '../../../state/layers';
import { shotState } from '../../../state/shot';
import { common } from './mark';
import { Tool, type Drag, type Press } from './tool';

/** Places nearer than this, in pixels of the picture, add nothing to a stroke. */
const STEP = 0.7;

/** Paints strokes on the selected layer; with Alt a press says where cloned strokes take their picture from. */
export class PaintTool extends Tool {
  hint(): string {
    const { tool } = bench().brush;
    if (tool === 'clone' && bench().clonePlate !== null)
      return 'Drag to paint with the graphic that lies there. Esc ends.';
    if (tool === 'clone')
      return bench().cloneFrom
        ? 'Drag to paint with what is there. Alt and a press: take it from elsewhere. Esc ends.'
        : 'Hold Alt and press on what is to be painted with. Esc ends.';
    return tool === 'eraser' ? 'Drag to take paint away. Esc ends.' : 'Drag to paint. Esc ends.';
  }

  protected press(press: Press): Drag | null {
    const layer = selectedLayer();
    const { at, pane } = press;
    if (layer?.kind !== 'paint') return common(press);
    if (press.pans) return common({ ...press, target: { kind: 'empty' } });
    const own = pictureToLayer(layer, bench().frame, pane.kind);
    if (press.alt) return this.takeFrom(own(at.picture));
    if (bench().brush.tool === 'clone' && !bench().cloneFrom && !plateFor(layer)) {
      toast.warning('Say first what is to be painted with: hold Alt and press on it.', { id: 'layer' });
      return null;
    }
    return this.painting(layer, press, own);
  }

  private takeFrom({ x, y }: Point): null {
    if (bench().brush.tool === 'clone') setBench({ cloneFrom: { x, y, frame: bench().frame } });
    return null;
  }

  private painting(layer: PaintLayer, { at }: Press, own: (p: Point) => Point): Drag {
    const first = own(at.picture);
    const points: [number, number, number][] = [[first.x, first.y, at.pressure ?? 1]];
    setBench({ stroke: points });
    return {
      move({ picture, pressure = 1 }) {
        const { x, y } = own(picture);
        const [px, py] = points[points.length - 1];
        if (Math.hypot(x - px, y - py) < STEP) return;
        points.push([x, y, pressure]);
        setBench({ stroke: [...points] });
      },
      up: () => {
        setBench({ stroke: [] });
        if (layerById(shotState(), layer.id)) paintStroke(layer.id, this.strokeOf(layer, points));
      },
      cancel: () => setBench({ stroke: [] }),
    };
  }

  private strokeOf(layer: PaintLayer, points: readonly [number, number, number][]): PaintStroke {
    const { frame, brush } = bench();
    const rounded = points.map(
      ([x, y, p]) =>
        [Math.round(x * 100) / 100, Math.round(y * 100) / 100, Math.round(p * 100) / 100] as const,
    );
    const from = brush.tool === 'clone' ? this.clonedFrom(layer, points[0]) : null;
    return { ...brush, points: rounded, from, frame };
  }

  /** A plate shows what lies under the brush itself, unless it was said to be taken from elsewhere. */
  private clonedFrom(layer: PaintLayer, [x, y]: readonly [number, number, number]): PaintStroke['from'] {
    const { cloneFrom } = bench();
    const plate = plateFor(layer);
    if (plate) return { frame: null, x: 0, y: 0, plate };
    return cloneFrom && { frame: cloneFrom.frame, x: cloneFrom.x - x, y: cloneFrom.y - y, plate: null };
  }
}
