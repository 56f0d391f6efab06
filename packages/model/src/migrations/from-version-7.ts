import type { Stored } from './stored.js';

/** Version 7 had no soft surfaces: nothing of it is told otherwise now. */
export function fromVersion7(document: Stored): Stored {
  return { ...document, version: 8 };
}
