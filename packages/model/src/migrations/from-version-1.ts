import { eachRecord, type Stored } from './stored.js';

/** Version 1 had neither groups nor the tracker's eye nor doubts; its confidence was a plain correlation. */
export function fromVersion1(document: Stored): Stored {
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
