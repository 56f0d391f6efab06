import { trackerKind, type Measured, type MeasuredKind } from '@lurn/core/track';

/** What has been measured, by the trackers' ids. */
export interface Known {
  readonly measured: Readonly<Record<string, Measured>>;
}

/** What was measured of a tracker of a kind; nothing where it was not tracked, or is of another. */
export function measuredOf<K extends MeasuredKind>({ measured }: Known, kind: K, id: string): Measured<K> {
  const found: Measured | undefined = measured[id];
  return found?.kind === kind ? (found as Measured<K>) : trackerKind(kind).empty;
}
