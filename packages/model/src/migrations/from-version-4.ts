import type { Stored } from './stored.js';

/** Version 4 showed every picture as it was read out, with its movers as they were found. */
export function fromVersion4(document: Stored): Stored {
  return { ...document, version: 5, rowByRow: false, regroups: [] };
}
