import { fromVersion1 } from './from-version-1.js';
import { fromVersion2 } from './from-version-2.js';
import { fromVersion3 } from './from-version-3.js';
import { fromVersion4 } from './from-version-4.js';
import { fromVersion5 } from './from-version-5.js';
import { fromVersion6 } from './from-version-6.js';
import { fromVersion7 } from './from-version-7.js';
import { fromVersion8 } from './from-version-8.js';
import { fromVersion9 } from './from-version-9.js';
import { isRecord, type Stored } from './stored.js';

/**
 * Stored documents of earlier versions, brought to the present one step by step. What a version added is written here in
 * literals: what new shots begin with may change, what old ones meant does not.
 */

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
