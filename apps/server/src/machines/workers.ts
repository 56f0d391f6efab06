import { Injectable } from '@nestjs/common';
import type { WorkerSummary } from '@lurn/model';
import { Events } from '../events/events.js';

/** A worker that was silent for so long is told as gone; after the second it is told no more. */
const [GONE_MS, FORGOTTEN_MS] = [15_000, 3_600_000];

/** Workers that are known at a time. */
const MOST_KNOWN = 64;

/** What a worker says of itself every few seconds. */
export type Beat = Omit<WorkerSummary, 'silent' | 'gone'>;

/** The machines that render parts for this server, as far as they have told of themselves. */
@Injectable()
export class Workers {
  private readonly known = new Map<string, Beat & { seen: number; since: number }>();

  constructor(private readonly events: Events) {}

  heard(beat: Beat): void {
    const now = Date.now();
    const since = this.known.get(beat.id)?.since ?? now;
    this.known.delete(beat.id); // the last heard of is the last in the map
    this.known.set(beat.id, { ...beat, seen: now, since });
    for (const [id, { seen }] of this.known) {
      const many = this.known.size > MOST_KNOWN && now - seen > GONE_MS;
      if (many || now - seen > FORGOTTEN_MS) this.known.delete(id);
    }
    // Beyond, those that were heard of longest ago are no machines of this house.
    while (this.known.size > MOST_KNOWN) this.known.delete(this.known.keys().next().value!);
    this.events.emit({ kind: 'workers' });
  }

  left(id: string): void {
    if (this.known.delete(id)) this.events.emit({ kind: 'workers' });
  }

  /** Frames that are done of parts which are not finished yet. */
  framesUnderWay(render: string): number {
    const now = Date.now();
    return [...this.known.values()].reduce(
      (n, { doing, seen }) => n + (doing?.render === render && now - seen < GONE_MS ? doing.frames : 0),
      0,
    );
  }

  summaries(): WorkerSummary[] {
    const now = Date.now();
    return [...this.known.values()]
      .sort((a, b) => a.since - b.since)
      .map(({ seen, since: _, ...beat }, _i, all) => {
        const twins = all.filter((o) => o.name === beat.name);
        // Two of one name are told apart.
        const name =
          twins.length > 1 ? `${beat.name} (${twins.findIndex((o) => o.id === beat.id) + 1})` : beat.name;
        return { ...beat, name, silent: Math.round((now - seen) / 1000), gone: now - seen > GONE_MS };
      });
  }
}
