import type { MeasuredJson } from '@lurn/core/formats';

/** What was measured of a spot, as it was stored beside documents up to version 3. */
export interface TrackColumns3 {
  readonly start: number;
  readonly x: readonly (number | null)[];
  readonly y: readonly (number | null)[];
  readonly confidence: readonly number[];
  readonly state: string;
  readonly mismatch?: readonly number[];
}

/** Columns that had other names up to version 10. */
const RENAMED: Readonly<Record<string, string>> = { sure: 'confidences', how: 'states' };

function withNamesOfNow(stored: MeasuredJson): MeasuredJson {
  if (stored.kind !== 'soft' || !stored.values) return stored;
  const values = Object.entries(stored.values).map(([name, column]) => [RENAMED[name] ?? name, column]);
  return { ...stored, values: Object.fromEntries(values) as MeasuredJson['values'] };
}

/** Stored measurements of any version, as they are stored now. */
export function migrateMeasured(stored: MeasuredJson | TrackColumns3): MeasuredJson {
  if ('kind' in stored) return withNamesOfNow(stored);
  const { start, state, confidence, x, y, mismatch } = stored;
  const values = { x, y, ...(mismatch && { mismatch }) };
  return { kind: 'spot', start, state, confidence, values } satisfies MeasuredJson<'spot'>;
}
