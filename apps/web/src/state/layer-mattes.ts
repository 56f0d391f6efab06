import { addMatte, drawnOutline, NEW_RANGE, ON_FRAME, softById, type LayerMatte } from '@lurn/model';
import { toast } from 'sonner';
import { capital } from '../lib/format';
import { bench } from './bench';
import { selectedLayer } from './layers';
import { shapeOfMover } from './making-layers';
import { edit, shotDocument } from './shot';
import { borderShown } from './mesh-shown';

/** What limits the selected layer, and what stays in front of it; each is one step of undo. */

/** Keeps something that moves by itself in front of the selected layer. */
export function putMoverMatte(id: string): void {
  const layer = selectedLayer();
  const shape = layer && shapeOfMover(id);
  if (!shape) return;
  const { frame, scene } = bench();
  const name = scene?.movers.find((m) => m.id === id)?.name ?? 'mover';
  const matte: LayerMatte = {
    ...{ kind: 'area', id: crypto.randomUUID(), name: `${capital(name)} ${layer.mattes.length + 1}` },
    ...{ frame, rides: { ...ON_FRAME, on: 'mover', id }, outline: drawnOutline(frame, shape, false, 4) },
    outside: true,
  };
  edit((s) => addMatte(s, layer.id, matte));
}

/** Shows the selected layer within the border of a soft surface alone. */
export function putBorderMatte(id: string): void {
  const layer = selectedLayer();
  const soft = softById(shotDocument(), id);
  const { frame } = bench();
  const border = soft && borderShown(soft, frame);
  if (!layer || !soft) return;
  if (!border) {
    toast.warning(`"${soft.name}" is not known on this frame. Go to one on which it is.`, { id: 'layer' });
    return;
  }
  const shape = border.map(({ x, y }) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100] as const);
  const matte: LayerMatte = {
    ...{ kind: 'area', id: crypto.randomUUID(), name: `${soft.name} ${layer.mattes.length + 1}` },
    ...{ frame, rides: { ...ON_FRAME, on: 'soft', id }, outline: drawnOutline(frame, shape, false, 2) },
    outside: false,
  };
  edit((s) => addMatte(s, layer.id, matte));
}

/** Keeps a colour of the picture in front of the selected layer. */
export function putColourMatte(outside: boolean): void {
  const layer = selectedLayer();
  if (!layer) return;
  const name = `Colour ${layer.mattes.length + 1}`;
  const matte: LayerMatte = { kind: 'colour', id: crypto.randomUUID(), name, range: NEW_RANGE, outside };
  edit((s) => addMatte(s, layer.id, matte));
}

/** Keeps in front of the selected layer what passes before it: what was not there on the frame that it was made on. */
export function putPassingMatte(): void {
  const layer = selectedLayer();
  if (!layer) return;
  const matte: LayerMatte = {
    ...{ kind: 'passing', id: crypto.randomUUID(), name: `Passing ${layer.mattes.length + 1}` },
    ...{ frame: layer.frame, reach: 0.12, soften: 0.08, outside: true },
  };
  edit((s) => addMatte(s, layer.id, matte));
}
