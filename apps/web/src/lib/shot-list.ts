import type { ClipSummary } from '@lurn/model';

/** What the list of shots can be sorted by. */
export const SHOT_ORDERS = { date: 'Date', name: 'Name', shake: 'Shake', state: 'State' } as const;
export type ShotOrder = keyof typeof SHOT_ORDERS;

/** How far the work on a clip has come. */
export function stageOf({ status, work, renders }: ClipSummary): number {
  if (status === 'failed') return 0;
  if (status !== 'ready') return 1;
  if (renders.some((r) => r.status === 'done')) return 5;
  if (work.trackedFrames > 1) return 4;
  return Object.keys(work.trackers).length > 0 ? 3 : 2;
}

const names = new Intl.Collator(undefined, { numeric: true, sensitivity: 'base' });

const COMPARE: Record<ShotOrder, (a: ClipSummary, b: ClipSummary) => number> = {
  date: (a, b) => a.createdAt.localeCompare(b.createdAt),
  name: (a, b) => names.compare(a.name, b.name),
  shake: (a, b) => (a.shakiness ?? -1) - (b.shakiness ?? -1),
  state: (a, b) => stageOf(a) - stageOf(b),
};

/** The clips whose names have every word that is searched for, in order; those that are equal stay as they came. */
export function arranged(
  clips: readonly ClipSummary[],
  search: string,
  order: ShotOrder,
  down: boolean,
): ClipSummary[] {
  const plain = (text: string) => text.normalize('NFKD').replace(/\p{M}/gu, '').toLocaleLowerCase();
  const words = plain(search).split(/\s+/).filter(Boolean);
  const found = clips.filter((c) => words.every((w) => plain(c.name).includes(w)));
  return found.sort((a, b) => (down ? -1 : 1) * COMPARE[order](a, b));
}
