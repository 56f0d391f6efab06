import { addMatte, drawnOutline, NEW_RANGE, ON_FRAME, type LayerMatte } from '@lurn/model';
import { capital } from '../lib/format';
import { bench } from './bench';
import { selectedLayer } from './layers';
import { shapeOfMover } from './making-layers';
import { edit } from './shot';

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
