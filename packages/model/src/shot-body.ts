import { LurnError } from '@lurn/core';
import {
  asciiBytes,
  asciiJson,
  asciiText,
  fromJson,
  unpackColumns,
  type MeasuredJson,
} from '@lurn/core/formats';
import type { Measured } from '@lurn/core/track';
import { migrateMeasured, type TrackColumns3 } from './migrations/migrate-measured.js';

/**
 * A shot as it goes between server and page: a length of four bytes (little-endian), so many bytes of JSON with the
 * revision, the document and which columns follow, then the columns of one tracker after the other as they lie in the
 * database. The API gives and takes the same as JSON, for other programs.
 */

export const SHOT_BODY_TYPE = 'application/vnd.lurn.shot';

export interface ShotBody {
  readonly revision: unknown;
  readonly document: unknown;
  /** Packed columns by the trackers' ids. */
  readonly columns: ReadonlyMap<string, Uint8Array>;
}

interface Head {
  readonly revision: unknown;
  readonly document: unknown;
  readonly columns: readonly (readonly [id: string, bytes: number])[];
}

/** What goes before the columns, which follow in their order. */
export function shotBodyHead({ revision, document, columns }: ShotBody): Uint8Array<ArrayBuffer> {
  const head: Head = { revision, document, columns: [...columns].map(([id, { length }]) => [id, length]) };
  const text = asciiBytes(asciiJson(head));
  const bytes = new Uint8Array(4 + text.length);
  new DataView(bytes.buffer).setUint32(0, text.length, true);
  bytes.set(text, 4);
  return bytes;
}

/** @throws LurnError `bad-request` when the bytes are not such a body; what is in it is not checked */
export function readShotBody(bytes: Uint8Array): ShotBody {
  const begin = bytes.length < 4 ? 0 : 4 + new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true);
  if (begin === 0 || begin > bytes.length) throw cut();
  const { revision, document, columns } = headOf(bytes.subarray(4, begin));
  const found = new Map<string, Uint8Array>();
  let at = begin;
  for (const [id, length] of columns) {
    if (!(length >= 0) || at + length > bytes.length) throw cut();
    found.set(id, bytes.subarray(at, at + length));
    at += length;
  }
  if (at !== bytes.length) throw cut();
  return { revision, document, columns: found };
}

function headOf(bytes: Uint8Array): Head {
  try {
    const head = JSON.parse(asciiText(bytes)) as Head;
    if (head.columns.every(([id, length]) => typeof id === 'string' && Number.isInteger(length))) return head;
  } catch {
    // Told below, like a head of another shape.
  }
  throw cut();
}

function cut(): LurnError {
  return new LurnError('bad-request', 'The shot cannot be read: its bytes are cut off, or not a shot.');
}

/**
 * Stored columns of any version: before they were packed they were JSON.
 *
 * @throws LurnError `bad-track` when they cannot be read or reach past the clip's end
 */
export function readColumns(bytes: Uint8Array, mostFrames?: number): Measured {
  if (bytes[0] !== '{'.charCodeAt(0)) return unpackColumns(bytes, mostFrames);
  return fromJson(migrateMeasured(JSON.parse(asciiText(bytes)) as MeasuredJson | TrackColumns3));
}
