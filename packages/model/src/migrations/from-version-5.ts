import { eachRecord, type Stored } from './stored.js';

/** Version 5 had no layers, and delivered the steadied picture alone. */
export function fromVersion5(document: Stored): Stored {
  const deliveries = eachRecord(document.deliveries, (d) => ({ ...d, base: true }));
  return { ...document, version: 6, layers: [], assets: [], deliveries };
}
