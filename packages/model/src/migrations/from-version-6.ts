import { eachRecord, isRecord, type Stored } from './stored.js';

/** Version 6 had graphics alone among its files. */
export function fromVersion6(document: Stored): Stored {
  const cloned = (from: unknown) => (isRecord(from) ? { ...from, plate: null } : from);
  return {
    ...document,
    version: 7,
    assets: eachRecord(document.assets, (a) => ({ ...a, frames: 1, fps: 0 })),
    layers: eachRecord(document.layers, (layer) =>
      layer.kind === 'paint'
        ? { ...layer, strokes: eachRecord(layer.strokes, (s) => ({ ...s, from: cloned(s.from) })) }
        : layer,
    ),
  };
}
