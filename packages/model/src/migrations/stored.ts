/** A document as it was stored. */
export type Stored = Readonly<Record<string, unknown>>;

export function eachRecord(list: unknown, change: (item: Stored) => Stored): unknown {
  return Array.isArray(list) ? list.map((v: unknown) => (isRecord(v) ? change(v) : v)) : list;
}

export function isRecord(value: unknown): value is Stored {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}
