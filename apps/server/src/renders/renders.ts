import { randomUUID } from 'node:crypto';
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { borrowFor, deliveredMatrix, LurnError, mostZoom, steady } from '@lurn/core';
import { render } from '@lurn/engine';
import { NEW_EDGES, soundIsCopied, steadyRequest, type RenderSummary } from '@lurn/model';
import { asc, desc, eq, inArray } from 'drizzle-orm';
import { Clips } from '../clips/clips.js';
import { notFound } from '../common/errors.js';
import { Settings } from '../common/settings.js';
import { Database } from '../database/database.js';
import { renders, type RenderOrder } from '../database/schema.js';
import { Events } from '../events/events.js';
import { Shots } from '../shots/shots.js';

type RenderRow = typeof renders.$inferSelect;

interface Running {
  readonly id: string;
  readonly abort: AbortController;
  readonly startedAt: number;
  done: number;
}

/** The queue of renders. It lives in the database: after a restart it goes on, an interrupted render from its start. */
@Injectable()
export class Renders implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly log = new Logger('Renders');
  private running: Running | null = null;
  private working: Promise<void> | null = null;
  private closing = false;

  constructor(
    private readonly database: Database,
    private readonly settings: Settings,
    private readonly clips: Clips,
    private readonly shots: Shots,
    private readonly events: Events,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    await this.database.orm
      .update(renders)
      .set({ status: 'waiting', done: 0 })
      .where(eq(renders.status, 'running'));
    const folder = join(this.settings.data, 'renders');
    for (const file of await readdir(folder)) {
      if (file.endsWith('.part')) await rm(join(folder, file), { force: true });
    }
    this.wake();
  }

  async onApplicationShutdown(): Promise<void> {
    this.closing = true;
    this.running?.abort.abort();
    await this.working;
  }

  async ofClip(clipId: string): Promise<RenderSummary[]> {
    const rows = await this.database.orm.query.renders.findMany({
      where: eq(renders.clipId, clipId),
      orderBy: desc(renders.createdAt),
    });
    return rows.map((row) => this.summary(row));
  }

  /** @throws LurnError `not-found` */
  async get(id: string): Promise<RenderRow> {
    const row = await this.database.orm.query.renders.findFirst({ where: eq(renders.id, id) });
    if (!row) throw notFound('render', id);
    return row;
  }

  /** The finished file. @throws LurnError `not-found`, `not-ready`, `missing-file` */
  async file(id: string): Promise<{ path: string; name: string }> {
    const row = await this.get(id);
    if (row.status !== 'done') throw new LurnError('not-ready', 'This render is not finished.');
    const clip = await this.clips.get(row.clipId);
    const clear = isTransparent(row.order);
    const path = this.settings.renderFile(id, clear);
    await this.clips.present(path, `render of ${clip.name}`);
    return { path, name: `${clip.name} steady.${clear ? 'mov' : 'mp4'}` };
  }

  /** Queues a render of the shot as it is saved now. @throws LurnError `nothing-to-render`, `conflict` */
  async order(clipId: string, revision: number, crf: number): Promise<RenderSummary> {
    const { info, row, path } = await this.clips.ready(clipId);
    await this.clips.present(path, row.name);
    const state = await this.shots.state(clipId);
    if (state.revision !== revision) {
      throw new LurnError(
        'conflict',
        'The shot was changed since this page saved it. Look at it again, then render.',
      );
    }
    const { range, edges } = state.document;
    const plan = steady(steadyRequest(state, info));
    if (!plan) {
      throw new LurnError(
        'nothing-to-render',
        'Nothing has been tracked yet, so there is no motion to take out. Track a spot first.',
      );
    }
    const frames = Array.from({ length: range.to - range.from + 1 }, (_, i) => range.from + i);
    const order: RenderOrder = {
      ...range,
      crf,
      zoom: mostZoom(plan, range.from, range.to),
      pictures: frames.map((f) => deliveredMatrix(plan, f)),
      delivery: plan.delivery,
      edges,
      ...(edges.mode === 'borrowed' && {
        donors: frames.map((f) => borrowFor(plan, f, range.from, range.to).donors),
      }),
    };
    const id = randomUUID();
    await this.database.orm
      .insert(renders)
      .values({ id, clipId, status: 'waiting', order, createdAt: new Date().toISOString() });
    this.wake();
    return this.tell(id);
  }

  /** Stops a render that waits or runs; one that has ended stays as it is. */
  async stop(id: string): Promise<RenderSummary> {
    const row = await this.get(id);
    if (this.running?.id === id) {
      this.running.abort.abort();
      await this.working;
    } else if (row.status === 'waiting') {
      await this.database.orm.update(renders).set({ status: 'stopped' }).where(eq(renders.id, id));
    }
    return this.tell(id);
  }

  /** Removes a render and its file. */
  async remove(id: string): Promise<void> {
    const { clipId, transparent } = await this.stop(id);
    await rm(this.settings.renderFile(id, transparent), { force: true });
    await this.database.orm.delete(renders).where(eq(renders.id, id));
    this.events.emit({ kind: 'clip', id: clipId });
  }

  private wake(): void {
    if (this.working || this.closing) return;
    this.working = this.work().finally(() => {
      this.working = null;
    });
  }

  private async work(): Promise<void> {
    while (!this.closing) {
      const row = await this.database.orm.query.renders.findFirst({
        where: inArray(renders.status, ['waiting']),
        orderBy: asc(renders.createdAt),
      });
      if (!row) return;
      await this.run(row);
    }
  }

  private async run(row: RenderRow): Promise<void> {
    const { id, order } = row;
    const running: Running = { id, abort: new AbortController(), startedAt: Date.now(), done: 0 };
    this.running = running;
    await this.set(id, { status: 'running', done: 0 });
    try {
      const { info, times, path, row: clip } = await this.clips.ready(row.clipId);
      await this.clips.present(path, clip.name);
      const file = this.settings.renderFile(id, isTransparent(order));
      let shown = 0;
      await render({
        source: path,
        info,
        times,
        file,
        from: order.from,
        to: order.to,
        delivery: order.delivery ?? info,
        picture: (frame) => order.pictures[frame - order.from],
        edges: order.edges ?? NEW_EDGES,
        donors: (frame) => order.donors?.[frame - order.from] ?? [],
        crf: order.crf,
        signal: running.abort.signal,
        onProgress: (done) => {
          running.done = done;
          if (Date.now() - shown < 250) return;
          shown = Date.now();
          void this.tell(id);
        },
      });
      const { size } = await stat(file);
      const encoded = info.audio && !soundIsCopied(info);
      const note = encoded
        ? `MP4 cannot carry ${info.audio!.codec} sound: it was encoded as AAC at 320 kbit/s.`
        : null;
      await this.set(id, { status: 'done', done: order.pictures.length, bytes: size, note, error: null });
    } catch (error) {
      if (this.closing) {
        await this.set(id, { status: 'waiting', done: 0 });
      } else if (running.abort.signal.aborted) {
        await this.set(id, { status: 'stopped' });
      } else {
        const known =
          error instanceof LurnError
            ? error.toJSON()
            : { code: 'fault', message: 'Rendering met a fault; the server log says more.' };
        if (!(error instanceof LurnError)) this.log.error(error);
        await this.set(id, { status: 'failed', error: known });
      }
    } finally {
      this.running = null;
    }
    await this.tell(id);
  }

  private async set(id: string, values: Partial<typeof renders.$inferInsert>): Promise<void> {
    await this.database.orm.update(renders).set(values).where(eq(renders.id, id));
    await this.tell(id);
  }

  private async tell(id: string): Promise<RenderSummary> {
    const summary = this.summary(await this.get(id));
    this.events.emit({ kind: 'render', render: summary });
    return summary;
  }

  private summary(row: RenderRow): RenderSummary {
    const live = this.running?.id === row.id ? this.running : null;
    const total = row.order.to - row.order.from + 1;
    const done = live ? live.done : row.done;
    const pace = live && live.done > 5 ? (Date.now() - live.startedAt) / live.done / 1000 : null;
    return {
      id: row.id,
      clipId: row.clipId,
      status: row.status,
      done,
      total,
      secondsLeft: pace === null ? null : pace * (total - done),
      from: row.order.from,
      to: row.order.to,
      zoom: row.order.zoom,
      transparent: isTransparent(row.order),
      crf: row.order.crf,
      bytes: row.bytes,
      error: row.error,
      note: row.note,
      createdAt: row.createdAt,
    };
  }
}

function isTransparent(order: RenderOrder): boolean {
  return order.edges?.mode === 'transparent';
}
