import { readdir } from 'node:fs/promises';
import { Logger } from '@nestjs/common';
import { fromWire, stoppedError, type WireError } from '@lurn/core';
import { joinParts, partName, partsOf, WorkFolder } from '@lurn/engine';
import { Rendering, type Rendered } from '../renders/rendering.js';
import { WorkerGateway } from './worker-gateway.js';
import { groupsOf, groupSubject } from './part-order.js';
import { RedisJobs } from './redis-jobs.js';
import { Workers } from './workers.js';

/** How often it is looked whether a part is still to be told of: a queue that was emptied forgets it. */
const LOOK_MS = 5_000;

/** Gives the parts of a render to workers, waits for them, and joins them: the same bits as on one machine. */
export class SharedRendering extends Rendering {
  private readonly log = new Logger('Workers');

  constructor(
    private readonly jobs: RedisJobs,
    private readonly door: WorkerGateway,
    private readonly workers: Workers,
  ) {
    super();
  }

  override async run(rendered: Rendered): Promise<void> {
    const { id, info, times, from, to, file, path: source, format, signal } = rendered;
    const parts = partsOf(info, from, to, format);
    const groups = groupsOf(parts);
    const folder = await WorkFolder.open(rendered.work, source, rendered.told);
    const { path: work } = folder;
    const { delivery, scenes, rasters, crf, compare } = rendered;
    const order = { info, times, from, to, delivery, scenes, rasters, crf, compare, format: format.id, source: rendered.source }; // prettier-ignore
    let failed: WireError | null = null;
    let wake: () => void = () => undefined;
    const woken = () => wake();
    signal.addEventListener('abort', woken);
    this.door.offer(id, {
      ...{ order, source, work, onPart: woken },
      onFailed: (error) => {
        failed = error;
        wake();
      },
    });
    const total = to - from + 1;
    try {
      for (;;) {
        const there = new Set(await readdir(work));
        const missing = parts.filter((p) => !there.has(partName(p, format)));
        const done = total - missing.reduce((n, p) => n + p.to - p.from + 1, 0);
        rendered.onProgress(
          Math.min(total, done + (missing.length > 0 ? this.workers.framesUnderWay(id) : 0)),
          total,
        );
        if (missing.length === 0) break;
        if (failed) throw fromWire(failed);
        if (signal.aborted) throw stoppedError('Rendering');
        const soon = new Promise<void>((resolve) => (wake = resolve));
        groups.forEach((group, g) => {
          if (group.some((p) => missing.includes(p))) this.tell(groupSubject(id, g));
        });
        const timer = setTimeout(woken, LOOK_MS / 5);
        await soon;
        clearTimeout(timer);
      }
      await folder.demandSameSource();
      await joinParts({ file, work, parts, source, info, times, format, delivery, compare, signal });
      await folder.remove();
    } finally {
      signal.removeEventListener('abort', woken);
      this.door.withdraw(id);
      for (const g of groups.keys()) {
        this.toldAt.delete(groupSubject(id, g));
        void this.jobs.cancel(groupSubject(id, g)).catch(() => undefined);
      }
    }
  }

  private readonly toldAt = new Map<string, number>();

  /** Puts a group into the queue, and again after a while: one that is there already is not added twice. */
  private tell(subject: string): void {
    const now = Date.now();
    if (now - (this.toldAt.get(subject) ?? 0) < LOOK_MS) return;
    this.toldAt.set(subject, now);
    this.jobs.add('part', subject).catch((error: unknown) => this.log.warn(String(error)));
  }
}
