import { eachRecord, isRecord, type Stored } from './stored.js';

/** Version 3 had spots in groups without a name of their own, and one file of one kind. */
export function fromVersion3(document: Stored): Stored {
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
