import {
  countSamples,
  fromJson,
  LurnError,
  mostZoom,
  planFor,
  sceneOf,
  toWire,
  type MeasuredJson,
  type MeasuredKind,
  type Scene,
  type WireError,
} from '@lurn/core';
import {
  checked,
  parseDocument,
  SaveShotBody,
  sceneLook,
  shotRequest,
  type ClipInfo,
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
    /** JSON text. */
    readonly columns: string;
  }[];
}

export interface PlannedRender {
  readonly zoom: number;
  readonly delivery: { readonly width: number; readonly height: number };
  /** Of the frames of the range, in order. */
  readonly scenes: readonly Scene[];
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

/** @param body  bytes of a {@link SaveShotBody} */
export function readSave({ body, info }: { body: Uint8Array; info: ClipInfo }): Answer<ReadSave> {
  return answered(() => {
    const result = checked(SaveShotBody, parse(body), 'shot');
    if ('fault' in result) {
      const { path, why } = result.fault;
      throw new LurnError('bad-request', `The shot cannot be saved: ${path.replace(/^shot\./, '')} ${why}.`, {
        path,
      });
    }
    const { revision } = result.value;
    const document = parseDocument(result.value.document, info);
    const ids = new Set(document.trackers.map((t) => t.id));
    const measured = Object.entries(result.value.measured)
      .filter(([item]) => ids.has(item))
      .map(([item, json]) => {
        const columns = json as unknown as MeasuredJson;
        const { start, state } = fromJson(columns);
        if (start + state.length > info.frames) {
          throw new LurnError(
            'bad-track',
            `The track of "${item}" goes past the clip's ${info.frames} frames.`,
          );
        }
        return { item, kind: json.kind, samples: countSamples({ state }), columns: JSON.stringify(columns) };
      });
    return { revision, document, measured };
  });
}

function parse(body: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(body));
  } catch {
    throw new LurnError('bad-request', 'The body is not JSON.');
  }
}

/** Plans a render of a shot. @param measured  JSON text by the trackers' ids */
export function planRender({
  document,
  measured,
  info,
}: {
  document: ShotDocument;
  measured: Readonly<Record<string, string>>;
  info: ClipInfo;
}): Answer<PlannedRender> {
  return answered(() => {
    const columns = Object.entries(measured).map(([id, text]) => [
      id,
      fromJson(JSON.parse(text) as MeasuredJson),
    ]);
    const state = { document, measured: Object.fromEntries(columns) };
    const plan = planFor(shotRequest(state, info));
    if (!plan) throw nothingToRender();
    const { range } = document;
    const look = sceneLook(document);
    return {
      zoom: mostZoom(plan, range.from, range.to),
      delivery: plan.delivery,
      scenes: Array.from({ length: range.to - range.from + 1 }, (_, i) =>
        sceneOf(plan, look, range.from + i, range.from, range.to),
      ),
    };
  });
}

export function nothingToRender(): LurnError {
  return new LurnError(
    'nothing-to-render',
    'Nothing has been tracked yet, so there is no motion to take out. Track a spot first.',
  );
}
