import type { MeasuredJson } from '@lurn/core';

/**
 * Stored documents of earlier versions, brought to the present one step by step. What a version added is written here in
 * literals: what new shots begin with may change, what old ones meant does not.
 */

type Stored = Readonly<Record<string, unknown>>;

const STEPS: Readonly<Record<number, (document: Stored) => Stored>> = {
  1: fromVersion1,
  2: fromVersion2,
  3: fromVersion3,
  4: fromVersion4,
  5: fromVersion5,
  6: fromVersion6,
  7: fromVersion7,
  8: fromVersion8,
  9: fromVersion9,
};

export function migrate(value: unknown): unknown {
  let document = value;
  while (isRecord(document)) {
    const step = STEPS[Number(document.version)];
    if (!step) break;
    document = step(document);
  }
  return document;
}

/** Version 1 had neither groups nor the tracker's eye nor doubts; its confidence was a plain correlation. */
function fromVersion1(document: Stored): Stored {
  return {
    ...document,
    version: 2,
    accepted: [],
    spots: eachRecord(document.spots, (s) => ({
      group: '',
      eye: { channel: 'luma', soften: 0, detail: 0, localContrast: 0 },
      allow: 'similarity',
      refresh: 'auto',
      lowMatch: 'coast',
      joins: [],
      ...s,
    })),
  };
}

/** Version 2 knew Still alone, with each component on or off, a zoom that fits or is set, and black edges. */
function fromVersion2(document: Stored): Stored {
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

/** Version 3 had spots in groups without a name of their own, and one file of one kind. */
function fromVersion3(document: Stored): Stored {
  const { spots, framing, crf, ...rest } = document;
  const groups = new Set<string>(['']);
  eachRecord(spots, (s) => {
    if (typeof s.group === 'string') groups.add(s.group);
    return s;
  });
  const ids = new Map([...groups].map((group, i) => [group, `mover-${i + 1}`]));
  const { delivery = null, ...kept } = isRecord(framing) ? framing : {};
  return {
    ...rest,
    version: 4,
    movers: [...ids].map(([name, id]) => ({ id, name })),
    held: null,
    trackers: eachRecord(spots, ({ group, ...s }) => ({
      kind: 'spot',
      ...s,
      mover: ids.get(typeof group === 'string' ? group : ''),
    })),
    areas: [],
    framing: isRecord(framing) ? kept : framing,
    layers: [],
    deliveries: [
      {
        id: 'steadied',
        name: 'Steadied',
        picture: 'steadied',
        format: 'h264-mp4',
        size: delivery,
        settings: { crf },
      },
    ],
  };
}

/** Version 4 showed every picture as it was read out, with its movers as they were found. */
function fromVersion4(document: Stored): Stored {
  return { ...document, version: 5, rowByRow: false, regroups: [] };
}

/** Version 5 had no layers, and delivered the steadied picture alone. */
function fromVersion5(document: Stored): Stored {
  const deliveries = eachRecord(document.deliveries, (d) => ({ ...d, base: true }));
  return { ...document, version: 6, layers: [], assets: [], deliveries };
}

/** Version 6 had graphics alone among its files. */
function fromVersion6(document: Stored): Stored {
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

/** Version 7 had no soft surfaces: nothing of it is told otherwise now. */
function fromVersion7(document: Stored): Stored {
  return { ...document, version: 8 };
}

/** Version 8 had no notes, and soft surfaces always looked as on their own frame. */
function fromVersion8(document: Stored): Stored {
  const trackers = eachRecord(document.trackers, (t) => (t.kind === 'soft' ? { ...t, refresh: 'never' } : t));
  return { ...document, version: 9, notes: [], trackers };
}

/** Version 9 had no cuts but those that were found in the picture. */
function fromVersion9(document: Stored): Stored {
  return { ...document, version: 10, cuts: [] };
}

/** What was measured of a spot, as it was stored beside documents up to version 3. */
export interface TrackColumns3 {
  readonly start: number;
  readonly x: readonly (number | null)[];
  readonly y: readonly (number | null)[];
  readonly confidence: readonly number[];
  readonly state: string;
  readonly mismatch?: readonly number[];
}

/** Stored measurements of any version, as they are stored now. */
export function migrateMeasured(stored: MeasuredJson | TrackColumns3): MeasuredJson {
  if ('kind' in stored) return stored;
  const { start, state, confidence, x, y, mismatch } = stored;
  const values = { x, y, ...(mismatch && { mismatch }) };
  return { kind: 'spot', start, state, confidence, values } satisfies MeasuredJson<'spot'>;
}

function eachRecord(list: unknown, change: (item: Stored) => Stored): unknown {
  return Array.isArray(list) ? list.map((v: unknown) => (isRecord(v) ? change(v) : v)) : list;
}

function isRecord(value: unknown): value is Stored {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}
