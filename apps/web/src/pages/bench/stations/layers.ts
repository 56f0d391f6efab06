import { isRideGone } from '@lurn/model';
import { plural } from '../../../lib/format';
import { LayersPanel } from '../panels/layers/LayersPanel';
import type { Station } from './station';

export const layers: Station = {
  id: 'layers',
  name: 'Layers',
  Panel: LayersPanel,
  progress: ({ document, steady }) => {
    const { layers: all } = document;
    // A shot may well be finished without any.
    if (all.length === 0) return { done: steady !== null, text: 'None; work that rides goes here' };
    const gone = all.filter((l) => isRideGone({ document, measured: {} }, l)).length;
    if (gone > 0)
      return { done: false, text: `${plural(gone, 'layer')} ${gone === 1 ? 'rides' : 'ride'} on nothing` };
    const hidden = all.filter((l) => !l.shown).length;
    return { done: true, text: plural(all.length, 'layer') + (hidden > 0 ? `, ${hidden} hidden` : '') };
  },
};
