import { addAsset, addMatte, layerById, NEW_RANGE, type LayerMatte } from '@lurn/model';
import { toast } from 'sonner';
import { api, messageOf } from '../lib/api';
import { capital } from '../lib/format';
import { bench, setBench } from './bench';
import { selectedLayer } from './layers';
import { sceneNow } from './scene';
import { edit, shotDocument, shotState } from './shot';

/** What limits the selected layer, and what stays in front of it; each is one step of undo. */

/**
 * Keeps something that moves by itself in front of the selected layer, by its masks, which are made first: the layer gets
 * them when they are there, also when something else is selected by then.
 */
export async function putMoverMatte(id: string): Promise<void> {
  const layer = selectedLayer();
  if (!layer || bench().masking) return;
  const { range, regroups } = shotDocument();
  const { from, to } = layer.range ?? range;
  const name = capital(sceneNow()?.movers.find((m) => m.id === id)?.name ?? 'mover');
  const stopping = new AbortController();
  const stop = () => {
    stopping.abort();
    setBench({ masking: null });
  };
  const tell = (done: number) =>
    stopping.signal.aborted || setBench({ masking: { name, done, total: to - from + 1, stop } });
  tell(0);
  try {
    const ask = { mover: id, regroups, from, to, name };
    const { asset, scale } = await api.mask(bench().clip.id, ask, stopping.signal, tell);
    if (stopping.signal.aborted || !layerById(shotState(), layer.id)) return;
    const matte: LayerMatte = {
      ...{ kind: 'mask', id: crypto.randomUUID(), name, asset: asset.hash, from, scale },
      outside: true,
    };
    edit((s) => addMatte(addAsset(s, asset), layer.id, matte));
  } catch (error) {
    if (!stopping.signal.aborted) toast.error(`${name} cannot be kept in front. ${messageOf(error)}`);
  } finally {
    if (!stopping.signal.aborted) setBench({ masking: null });
  }
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
    ...{ frame: layer.frame, reach: 0.025, soften: 0.02, outside: true },
  };
  edit((s) => addMatte(s, layer.id, matte));
}
