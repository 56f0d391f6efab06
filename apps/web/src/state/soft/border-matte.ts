import { addMatte, drawnOutline, ON_FRAME, softById, type LayerMatte } from '@lurn/model';
import { toast } from 'sonner';
import { bench } from '../bench';
import { selectedLayer } from '../layers';
import { pairs } from '../../lib/places';
import { edit, shotDocument } from '../shot';
import { borderShown } from './mesh-shown';

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
  const matte: LayerMatte = {
    ...{ kind: 'area', id: crypto.randomUUID(), name: `${soft.name} ${layer.mattes.length + 1}` },
    ...{
      frame,
      rides: { ...ON_FRAME, on: 'soft', id },
      outline: drawnOutline(frame, pairs(border), false, 2),
    },
    outside: false,
  };
  edit((s) => addMatte(s, layer.id, matte));
}
