import { readFileSync } from 'node:fs';
import { LurnError, toWire, type WireError } from '@lurn/core';
import type { Scene } from '@lurn/core/compose';
import {
  fromJson,
  packColumns,
  toJson,
  unpackColumns,
  unpackScene,
  type MeasuredJson,
} from '@lurn/core/formats';
import { countSamples, measuredEnd, type Measured, type MeasuredKind } from '@lurn/core/track';
import {
  checked,
  parseDocument,
  readColumns,
  readShotBody,
  deliveredBy,
  SaveShotBody,
  type ClipInfo,
  type RasterSource,
  type ShotDocument,
} from '@lurn/model';

/** What would hold the server's own thread up for too long: reading what a page saves, and planning a render. */

/** A saved shot, checked, as it is written. */
export interface ReadSave {
  readonly revision: number;
  readonly document: ShotDocument;
  readonly measured: readonly {
    readonly item: string;
    readonly kind: MeasuredKind;
    readonly samples: number;
    /** Packed. */
    readonly columns: Uint8Array;
  }[];
}

export interface PlannedRender {
  readonly zoom: number;
  readonly delivery: { readonly width: number; readonly height: number };
  /** Of the frames of the range, in order. */
  readonly scenes: readonly Scene[];
  /** What their layers show. */
  readonly rasters: readonly RasterSource[];
}

type Answer<T> = { readonly value: T } | { readonly error: WireError };

function answered<T>(work: () => T): Answer<T> {
  try {
    return { value: work() };
  } catch (error) {
    if (error instanceof RangeError && /call stack/i.test(error.message))
      return { error: { code: 'bad-request', message: 'The body is nested too deeply.' } };
    return { error: toWire(error) };
  }
}

/** @param body  bytes of a {@link SaveShotBody} as JSON, or those of a packed shot */
export function readSave(request: { body: Uint8Array; packed: boolean; info: ClipInfo }): Answer<ReadSave> {
  return answered(() => {
    const { info } = request;
    const { revision, document: stored, measured } = request.packed ? fromPacked(request) : fromText(request);
    const document = parseDocument(stored, info);
    const ids = new Set(document.trackers.map((t) => t.id));
    const kept = measured
      .filter(({ item }) => ids.has(item))
      .map(({ item, read }) => {
        const columns = read();
        if (measuredEnd(columns) > info.frames) {
          throw new LurnError(
            'bad-track',
            `The track of "${item}" goes past the clip's ${info.frames} frames.`,
          );
        }
        return { item, kind: columns.kind, samples: countSamples(columns), columns: packColumns(columns) };
      });
    return { revision, document, measured: kept };
  });
}

interface Sent {
  readonly revision: number;
  readonly document: object;
  readonly measured: readonly { readonly item: string; readonly read: () => Measured }[];
}

function fromPacked({ body, info }: { body: Uint8Array; info: ClipInfo }): Sent {
  const { columns, ...head } = readShotBody(body);
  const { revision, document } = demanded({ ...head, measured: {} });
  const measured = [...columns].map(([item, bytes]) => ({
    item,
    read: () => unpackColumns(bytes, info.frames),
  }));
  return { revision, document, measured };
}

function fromText({ body }: { body: Uint8Array }): Sent {
  const { measured, ...head } = demanded(parse(body));
  const columns = Object.entries(measured).map(([item, json]) => ({
    item,
    read: () => fromJson(json as unknown as MeasuredJson),
  }));
  return { ...head, measured: columns };
}

function demanded(sent: unknown): SaveShotBody {
  const result = checked(SaveShotBody, sent, 'shot');
  if ('value' in result) return result.value;
  const { path, why } = result.fault;
  const where = path.replace(/^shot\./, '');
  throw new LurnError('bad-request', `The shot cannot be saved: ${where} ${why}.`, { path });
}

/** Stored columns as JSON text, for other programs. */
export function columnsAsJson({ columns }: { columns: Uint8Array }): Answer<string> {
  return answered(() => JSON.stringify(toJson(readColumns(columns))));
}

function parse(body: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(body));
  } catch {
    throw new LurnError('bad-request', 'The body is not JSON.');
  }
}

/** Plans a render of a shot. @param measured  stored columns by the trackers' ids */
export function planRender({
  document,
  measured,
  info,
  scene,
}: {
  document: ShotDocument;
  measured: Readonly<Record<string, Uint8Array>>;
  info: ClipInfo;
  /** The file of what is known of the whole picture; null where there is none. */
  scene: string | null;
}): Answer<PlannedRender> {
  return answered(() => {
    const columns = Object.entries(measured).map(([id, bytes]) => [id, readColumns(bytes)]);
    const state = { document, measured: Object.fromEntries(columns) };
    const known = scene === null ? null : unpackScene(readFileSync(scene));
    const delivered = deliveredBy(state, info, known);
    if (!delivered) throw nothingToRender();
    const { zoom, size, scenes, rasters } = delivered;
    return { zoom, delivery: size, scenes, rasters };
  });
}

export function nothingToRender(): LurnError {
  return new LurnError(
    'nothing-to-render',
    'Nothing has been tracked yet, so there is no motion to take out. Track a spot first.',
  );
}
