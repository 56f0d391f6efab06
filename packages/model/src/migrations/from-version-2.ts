import { eachRecord, isRecord, type Stored } from './stored.js';

/** Version 2 knew Still alone, with each component on or off, a zoom that fits or is set, and black edges. */
export function fromVersion2(document: Stored): Stored {
  const { use, goal: _goal, framing, ...rest } = document;
  const on = isRecord(use) ? use : {};
  const amount = (part: string) => (on[part] === false ? 0 : 1);
  const { mode, zoom, shiftX, shiftY } = isRecord(framing) ? framing : {};
  return {
    ...rest,
    version: 3,
    spots: eachRecord(document.spots, (s) => ({ ...s, role: 'both' })),
    goal: {
      goal: 'still',
      amounts: { x: amount('x'), y: amount('y'), rotation: amount('rotation'), scale: amount('scale') },
      pose: 'frame',
      calm: { method: 'gaussian', smoothing: { x: 1, y: 1, rotation: 1, scale: 1 }, maxZoom: 1.15 },
      lock: { place: 'reference', x: 0, y: 0, tolerance: 0, easeIn: 0, easeOut: 0 },
      keys: [],
    },
    framing: {
      mode: mode === 'hand' ? 'none' : mode,
      zoom: mode === 'hand' ? zoom : 1,
      rate: 0.05,
      shiftX,
      shiftY,
      delivery: null,
    },
    edges: { mode: 'colour', colour: '#000000' },
  };
}
