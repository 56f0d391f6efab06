import { eachRecord, type Stored } from './stored.js';

/** Version 8 had no notes, and soft surfaces always looked as on their own frame. */
export function fromVersion8(document: Stored): Stored {
  const trackers = eachRecord(document.trackers, (t) => (t.kind === 'soft' ? { ...t, refresh: 'never' } : t));
  return { ...document, version: 9, notes: [], trackers };
}
