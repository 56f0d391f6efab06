import type { Doubt } from './doubts.js';

/** Doubts of one cause: what is wrong with one spot in one way, however often it shows. */
export interface DoubtGroup {
  /** The worst of it, which stands for all. */
  readonly lead: Doubt;
  /** All of it, the worst first. */
  readonly doubts: readonly Doubt[];
}

/** Stretches of one spot with no more frames than this between them are one place, whatever their reasons. */
const ONE_PLACE = 6;

/**
 * Doubts by their cause, the worst first. Reasons that show on the same frames of a spot have one cause, named by the
 * worst of them; and what shows again and again in the same way is one entry as well.
 */
export function groupDoubts(doubts: readonly Doubt[]): DoubtGroup[] {
  const bySpot = new Map<string, Doubt[]>();
  for (const d of doubts) bySpot.set(d.spot, [...(bySpot.get(d.spot) ?? []), d]);
  const groups: DoubtGroup[] = [];
  for (const own of bySpot.values()) {
    const byReason = new Map<string, Doubt[]>();
    for (const place of placesOf(own)) {
      const { reason } = worstOf(place);
      byReason.set(reason, [...(byReason.get(reason) ?? []), ...place]);
    }
    for (const all of byReason.values())
      groups.push({ lead: worstOf(all), doubts: [...all].sort(worstFirst) });
  }
  return groups.sort((a, b) => worstFirst(a.lead, b.lead));
}

/** Doubts in the order in which they are gone through: cause by cause, the worst first. */
export function orderDoubts(doubts: readonly Doubt[]): Doubt[] {
  return groupDoubts(doubts).flatMap((g) => g.doubts);
}

/** True for two findings of what is one doubt: after a change its frames may be others. */
export function sameDoubt(a: Doubt, b: Doubt): boolean {
  return a.spot === b.spot && a.reason === b.reason && a.from <= b.to && b.from <= a.to;
}

function placesOf(doubts: readonly Doubt[]): Doubt[][] {
  const places: Doubt[][] = [];
  let end = -Infinity;
  for (const d of [...doubts].sort((a, b) => a.from - b.from)) {
    if (d.from - end > ONE_PLACE) places.push([d]);
    else places[places.length - 1].push(d);
    end = Math.max(end, d.to);
  }
  return places;
}

function worstFirst(a: Doubt, b: Doubt): number {
  return b.severity - a.severity || a.from - b.from;
}

function worstOf(doubts: readonly Doubt[]): Doubt {
  return doubts.reduce((a, b) => (worstFirst(b, a) < 0 ? b : a));
}
