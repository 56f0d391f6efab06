import { randomUUID } from 'node:crypto';
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import { LurnError, toWire } from '@lurn/core';
import type { Scene } from '@lurn/core/compose';
import { invert, matrixWarp } from '@lurn/core/geometry';
import type { Size } from '@lurn/core/plan';
import {
  formatById,
  formatFor,
  lastPictureOf,
  soundLost,
  sweepParts,
  whyNot,
  type Format,
} from '@lurn/engine';
import {
  comparedBy,
  edgesLook,
  forDelivery,
  NEW_DELIVERY,
  type ClipInfo,
  type QueuedRender,
  type RasterSource,
  type RenderSummary,
} from '@lurn/model';
import { desc, eq, inArray, sql } from 'drizzle-orm';
import { Assets } from '../assets/assets.js';
import { Clips, type KnownClipRow } from '../clips/clips.js';
import { notFound } from '../common/errors.js';
import { fullDisk, isFullDisk, whenThereIsRoom } from '../common/full-disk.js';
import { Settings } from '../common/settings.js';
import { Database } from '../database/database.js';
import { clips, renderInputs, renders, type RenderOrder, type RenderOrder1 } from '../database/schema.js';
import { Events } from '../events/events.js';
import type { Job } from '../jobs/job-store.js';
import { JobRunner, type JobHandler } from '../jobs/runner.js';
import { nothingToRender } from '../shots/shot-thread.js';
import { ShotThreads } from '../shots/shot-threads.js';
import { Shots } from '../shots/shots.js';
import { Rendering } from './rendering.js';

type RenderRow = typeof renders.$inferSelect;

/** Renders that have ended which the queue still shows. */
const ENDED_SHOWN = 20;

/** What a render draws. */
interface Drawn {
  readonly delivery: Size;
  readonly scenes: readonly Scene[];
  readonly rasters?: readonly RasterSource[];
}

/** Renders: ordered, queued, planned in a thread, drawn in parts, kept. One that was interrupted or stopped goes on where it was. */
@Injectable()
export class Renders implements OnApplicationBootstrap, JobHandler {
  private readonly log = new Logger('Renders');
  /** When those that run began, and with how many frames done. */
  private readonly startedAt = new Map<string, { readonly time: number; readonly done: number }>();
  /** Bytes of the parts of those that run. */
  private readonly grown = new Map<string, number>();

  constructor(
    private readonly database: Database,
    private readonly settings: Settings,
    private readonly clips: Clips,
    private readonly shots: Shots,
    private readonly threads: ShotThreads,
    private readonly assets: Assets,
    private readonly events: Events,
    private readonly jobs: JobRunner,
    private readonly rendering: Rendering,
  ) {
    jobs.handle('render', this);
  }

  onApplicationBootstrap(): Promise<void> {
    return whenThereIsRoom(this.log, () => this.takeUp());
  }

  private async takeUp(): Promise<void> {
    await sweepParts(join(this.settings.data, 'renders'));
    const unfinished = await this.database.read.query.renders.findMany({
      columns: { id: true },
      where: inArray(renders.status, ['waiting', 'running']),
      orderBy: renders.createdAt,
    });
    for (const { id } of unfinished) {
      await this.set(id, { status: 'waiting' });
      await this.jobs.add('render', id);
    }
  }

  /** The renders of every clip, or of one, newest first. */
  async byClip(clipIds: readonly string[]): Promise<Map<string, RenderSummary[]>> {
    const rows = await this.database.read.query.renders.findMany({
      where: sql`${renders.clipId} IN (SELECT value FROM json_each(${JSON.stringify(clipIds)}))`,
      orderBy: desc(renders.createdAt),
    });
    const out = new Map<string, RenderSummary[]>();
    for (const row of rows) out.set(row.clipId, [...(out.get(row.clipId) ?? []), this.summary(row)]);
    return out;
  }

  /** What runs and what waits, in that order, and what has ended of late. */
  async queued(): Promise<QueuedRender[]> {
    const rows = await this.database.read
      .select({ render: renders, clip: clips.name })
      .from(renders)
      .innerJoin(clips, eq(clips.id, renders.clipId))
      .orderBy(renders.createdAt);
    const rank = { running: 0, waiting: 1, failed: 2, stopped: 2, done: 3 };
    const live = rows.filter((r) => rank[r.render.status] < 2);
    const ended = rows
      .filter((r) => rank[r.render.status] >= 2)
      .slice(-ENDED_SHOWN)
      .reverse();
    return [...live.sort((a, b) => rank[a.render.status] - rank[b.render.status]), ...ended].map(
      ({ render, clip }) => ({ ...this.summary(render), clip }),
    );
  }

  /** @throws LurnError `not-found` */
  async get(id: string): Promise<RenderRow> {
    const row = await this.database.read.query.renders.findFirst({ where: eq(renders.id, id) });
    if (!row) throw notFound('render', id);
    return row;
  }

  /** The finished file. @throws LurnError `not-found`, `not-ready`, `missing-file` */
  async file(id: string): Promise<{ path: string; name: string }> {
    const row = await this.get(id);
    if (row.status !== 'done') throw new LurnError('not-ready', 'This render is not finished.');
    const clip = await this.clips.get(row.clipId);
    const { extension } = formatOf(row.order);
    return {
      path: this.settings.renderFile(id, extension),
      name: `${clip.name} ${deliveryOf(row.order)}.${extension}`,
    };
  }

  /** Queues a render of the shot as it is saved now. @throws LurnError `nothing-to-render`, `conflict` */
  async order(clipId: string, revision: number, crf: number, deliveryId?: string): Promise<RenderSummary> {
    const { info, row, path } = await this.clips.ready(clipId);
    await this.clips.present(path, row.name);
    const saved = (await this.shots.document(clipId, info)).document;
    const document = forDelivery(saved, deliveryId ?? saved.deliveries[0].id);
    const sampled = await this.shots.sampled(clipId);
    const tracked = document.trackers.some((t) => t.used && sampled.has(t.id));
    const [delivery] = document.deliveries;
    if (delivery.picture === 'steadied' && !tracked && !row.made?.scene) throw nothingToRender();
    const edges = delivery.picture === 'steadied' ? document.edges.mode : 'colour';
    const format = formatFor(delivery.format, edges, !delivery.base);
    await this.check(format, info);
    const id = randomUUID();
    const order: RenderOrder = { ...document.range, crf, zoom: null, format: format.id, document };
    const createdAt = new Date().toISOString();
    await this.database.write((db) =>
      db.transaction(async (tx) => {
        // Document and measurements of the very state that was asked for, whoever saves meanwhile.
        await this.shots.demand(tx, clipId, revision);
        await tx.insert(renders).values({ id, clipId, status: 'waiting', order, createdAt });
        await this.shots.keepFor(tx, id, clipId);
      }),
    );
    await this.jobs.add('render', id);
    return this.tell(id);
  }

  /** Tells at once what would fail later. @throws LurnError `no-encoder`, `no-alpha` */
  private async check(format: Format, info: ClipInfo): Promise<void> {
    const missing = await whyNot(format);
    if (missing)
      throw new LurnError(
        'no-encoder',
        `${format.name} cannot be written here: ${missing}. Choose another format.`,
      );
    const why = format.refuses(info);
    if (why) throw new LurnError('no-alpha', why);
  }

  /** Stops a render that waits or runs; one that has ended stays as it is. */
  async stop(id: string): Promise<RenderSummary> {
    await this.get(id);
    const was = await this.jobs.stop(id);
    if (was === 'waiting') await this.set(id, { status: 'stopped' });
    return this.tell(id);
  }

  /** Goes on with a render that was stopped or has failed, where it was. @throws LurnError `not-stopped` */
  async goOn(id: string): Promise<RenderSummary> {
    const { status } = await this.get(id);
    if (status !== 'stopped' && status !== 'failed')
      throw new LurnError('not-stopped', 'This render was not stopped: it waits, runs or is finished.');
    await this.set(id, { status: 'waiting', error: null });
    await this.jobs.add('render', id);
    return this.tell(id);
  }

  /** Puts renders that wait into this order. */
  async arrange(ids: readonly string[]): Promise<void> {
    await this.jobs.arrange('render', ids);
    // The list shows them in the order in which they will be made.
    const rows = await this.database.read.query.renders.findMany({ where: inArray(renders.id, [...ids]) });
    const waiting = ids.filter((id) => rows.some((r) => r.id === id && r.status === 'waiting'));
    const times = rows.filter((r) => r.status === 'waiting').map((r) => r.createdAt);
    times.sort();
    for (const [i, id] of waiting.entries()) await this.set(id, { createdAt: times[i] });
  }

  /** The last picture that was made of a render, as a JPEG file; null while there is none. */
  async lastPicture(id: string): Promise<Buffer | null> {
    const { order, status } = await this.get(id);
    const format = formatOf(order);
    const work = this.settings.renderParts(id);
    const names = (await readdir(work).catch(() => [])).filter((n) => /^\d{5}(\.|$)/.test(n)).sort();
    const part = names[names.length - 1];
    const file =
      status === 'done' ? this.settings.renderFile(id, format.extension) : part && join(work, part);
    if (!file || (format.pictures && status === 'done')) return null;
    return lastPictureOf(file, format);
  }

  /** Removes a render and its file. */
  async remove(id: string): Promise<void> {
    const { clipId } = await this.stop(id);
    const { order } = await this.get(id);
    await rm(this.settings.renderFile(id, formatOf(order).extension), { force: true });
    await rm(this.settings.renderParts(id), { recursive: true, force: true });
    await this.database.write((db) => db.delete(renders).where(eq(renders.id, id)));
    this.events.emit({ kind: 'clip', id: clipId });
  }

  async run({ subject: id }: Job, signal: AbortSignal, onPart: (part: number) => void): Promise<void> {
    const row = await this.database.read.query.renders.findFirst({ where: eq(renders.id, id) });
    if (!row || !['waiting', 'running'].includes(row.status)) return;
    try {
      await this.set(id, { status: 'running', error: null });
      await this.draw(row, signal, onPart);
    } catch (error) {
      if (isFullDisk(error)) throw error;
      if (signal.aborted) {
        // At the person's word; at the server's end it is put back instead.
        await this.set(id, { status: 'stopped', done: this.jobs.partOf('render', id) ?? 0 });
        throw error;
      }
      if (!(error instanceof LurnError)) this.log.error(error);
      const known = error instanceof LurnError;
      const told = { code: 'fault', message: 'Rendering met a fault; the server log says more.' };
      await this.set(id, { status: 'failed', error: known ? toWire(error) : told });
    } finally {
      this.startedAt.delete(id);
      this.grown.delete(id);
    }
  }

  async waiting({ subject: id }: Job, error: unknown): Promise<void> {
    const told = error === null ? null : fullDisk().toJSON();
    await this.set(id, { status: 'waiting', error: told });
  }

  private async draw(row: RenderRow, signal: AbortSignal, onPart: (part: number) => void): Promise<void> {
    const { id, order } = row;
    const clip = this.clips.readyRow(await this.clips.even(row.clipId));
    const { info, times, path } = clip;
    await this.clips.present(path, clip.row.name);
    const {
      scenes,
      delivery,
      rasters = [],
    } = 'pictures' in order ? drawnBefore(order, info) : await this.plan(id, order, clip, signal);
    const format = formatOf(order);
    const file = this.settings.renderFile(id, format.extension);
    const drawn = await this.assets.rasters(rasters, 'document' in order ? order.document.assets : []);
    let shown = 0;
    const { row: clipRow } = clip;
    await this.rendering
      .run({
        ...{ id, info, times, file, path, from: order.from, to: order.to, delivery, scenes, rasters, signal },
        ...{ format, crf: order.crf, layers: drawn },
        compare: 'document' in order ? comparedBy(order.document.deliveries[0]) : null,
        source: { hash: clipRow.hash, bytes: clipRow.bytes, name: clipRow.name },
        work: this.settings.renderParts(id),
        told: JSON.stringify({ ...order, zoom: null }),
        onProgress: (done) => {
          onPart(done);
          if (!this.startedAt.has(id)) this.startedAt.set(id, { time: Date.now(), done });
          if (Date.now() - shown < 250) return;
          shown = Date.now();
          void this.measureGrown(id);
          this.tell(id).catch(() => undefined);
        },
      })
      .finally(() => drawn.close());
    const { size } = await stat(file);
    const coded = info.audio && soundLost(format.sound, info.audio.codec);
    const note = coded
      ? `${format.extension.toUpperCase()} cannot carry ${info.audio!.codec} sound: it was encoded as ${coded}.`
      : null;
    await this.set(id, { status: 'done', done: scenes.length, bytes: size, note, error: null });
    await this.database.write((db) => db.delete(renderInputs).where(eq(renderInputs.renderId, id)));
  }

  /** How large the parts of a render are by now. */
  private async measureGrown(id: string): Promise<void> {
    const work = this.settings.renderParts(id);
    const entries = await readdir(work, { withFileTypes: true, recursive: true }).catch(() => []);
    const sizes = await Promise.all(
      entries.map((e) =>
        e.isFile()
          ? stat(join(e.parentPath, e.name)).then(
              (s) => s.size,
              () => 0,
            )
          : 0,
      ),
    );
    if (this.startedAt.has(id))
      this.grown.set(
        id,
        sizes.reduce((a, b) => a + b, 0),
      );
  }

  /** Plans a render in a thread, from what was measured when it was ordered. */
  private async plan(
    id: string,
    order: RenderOrder,
    { info, row }: Pick<KnownClipRow, 'info' | 'row'>,
    signal: AbortSignal,
  ): Promise<Drawn> {
    const rows = await this.database.read.query.renderInputs.findMany({
      where: eq(renderInputs.renderId, id),
    });
    const measured = Object.fromEntries(rows.map((r) => [r.item, r.columns]));
    const scene = await this.clips.sceneFile(row);
    if (row.made?.scene && !scene) {
      throw new LurnError(
        'not-ready',
        `What is known of the whole picture of "${row.name}" has gone from the disk and is looked for anew: render again in a moment.`,
      );
    }
    const planned = await this.threads.run(
      'planRender',
      { document: order.document, measured, info, scene },
      signal,
    );
    await this.set(id, { order: { ...order, zoom: planned.zoom } });
    return planned;
  }

  private async set(id: string, values: Partial<typeof renders.$inferInsert>): Promise<void> {
    await this.database.write((db) => db.update(renders).set(values).where(eq(renders.id, id)));
    await this.tell(id).catch(() => undefined);
  }

  private async tell(id: string): Promise<RenderSummary> {
    const summary = this.summary(await this.get(id));
    this.events.emit({ kind: 'render', render: summary });
    return summary;
  }

  private summary(row: RenderRow): RenderSummary {
    const { id, order } = row;
    const part = row.status === 'running' ? this.jobs.partOf('render', id) : null;
    const total = order.to - order.from + 1;
    const done = part ?? row.done;
    const since = this.startedAt.get(id);
    const more = since ? done - since.done : 0;
    const pace = since && more > 5 ? (Date.now() - since.time) / more / 1000 : null;
    return {
      ...{ id, clipId: row.clipId, status: row.status, done, total },
      secondsLeft: pace === null || row.status !== 'running' ? null : pace * (total - done),
      ...{ from: order.from, to: order.to, zoom: order.zoom, crf: order.crf },
      delivery: 'document' in order ? order.document.deliveries[0].name : NEW_DELIVERY.name,
      format: formatOf(order).name,
      plays: formatOf(order).plays,
      ...{
        bytes: row.bytes ?? this.grown.get(id) ?? null,
        error: row.error,
        note: row.note,
        createdAt: row.createdAt,
      },
    };
  }
}

/** What a delivery is called in the name of its file. */
function deliveryOf(order: RenderOrder | RenderOrder1): string {
  const first = 'document' in order ? order.document.deliveries[0] : NEW_DELIVERY;
  return first.id === NEW_DELIVERY.id ? 'steady' : first.name.replace(/[\\/:*?"<>|\p{Cc}]/gu, '-');
}

function formatOf(order: RenderOrder | RenderOrder1): Format {
  return 'format' in order ? formatById(order.format) : formatFor('h264-mp4', order.edges?.mode ?? 'colour');
}

/** The scenes of an order that came with its matrices. */
function drawnBefore(order: RenderOrder1, info: ClipInfo): Drawn {
  const delivery = order.delivery ?? { width: info.width, height: info.height };
  const edges = edgesLook(order.edges ?? { mode: 'colour', colour: '#000000' });
  const scenes = order.pictures.map((picture, i): Scene => ({
    size: delivery,
    base: {
      frame: order.from + i,
      toSource: matrixWarp(invert(picture)),
      edges,
      donors: (order.donors?.[i] ?? []).map((d) => ({ frame: d.frame, toSource: matrixWarp(d.toSource) })),
    },
    layers: [],
  }));
  return { delivery, scenes };
}
