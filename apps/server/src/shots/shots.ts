import { Injectable } from '@nestjs/common';
import { LurnError } from '@lurn/core';
import {
  newDocument,
  parseDocument,
  shotBodyHead,
  type ClipInfo,
  type ClipSummary,
  type ShotDocument,
} from '@lurn/model';
import { and, eq, inArray, notInArray, sql } from 'drizzle-orm';
import { Clips } from '../clips/clips.js';
import { Database, type Writing } from '../database/database.js';
import { measured, renderInputs, shots } from '../database/schema.js';
import { Events } from '../events/events.js';
import { ShotThreads } from './shot-threads.js';

/** Trackers whose measurements are read in one go. */
const AT_ONCE = 8;

/** How far the work on a clip has come, for the list of shots. */
export type Work = ClipSummary['work'];

interface Saved {
  readonly revision: number;
  readonly document: ShotDocument;
  /** Packed columns. */
  readonly rows: readonly { readonly item: string; readonly columns: Buffer }[];
}

/** Shots: what an editor has made of a clip. A save is one transaction: document and measurements, or nothing. */
@Injectable()
export class Shots {
  constructor(
    private readonly database: Database,
    private readonly clips: Clips,
    private readonly events: Events,
    private readonly threads: ShotThreads,
  ) {}

  /** The document alone, with its revision; a new one where nothing was saved. */
  async document(clipId: string, info: ClipInfo): Promise<{ revision: number; document: ShotDocument }> {
    const row = await this.database.read.query.shots.findFirst({ where: eq(shots.clipId, clipId) });
    if (!row) {
      const clip = await this.clips.even(clipId);
      return { revision: 0, document: newDocument(info, clip.made?.scene) };
    }
    return { revision: row.revision, document: parseDocument(row.document, info) };
  }

  /** The saved shot in pieces of its bytes: what was measured passes through as it lies in the database. */
  async packed(clipId: string): Promise<Uint8Array[]> {
    const { rows, ...saved } = await this.saved(clipId);
    const columns = new Map(rows.map((r) => [r.item, r.columns]));
    return [shotBodyHead({ ...saved, columns }), ...columns.values()];
  }

  /** The same as pieces of JSON text, each made when it is asked for. */
  async asJson(clipId: string): Promise<AsyncIterable<string>> {
    return this.textOf(await this.saved(clipId));
  }

  private async *textOf({ rows, revision, document }: Saved): AsyncGenerator<string> {
    yield `{"revision":${revision},"document":${JSON.stringify(document)},"measured":{`;
    for (const [i, { item, columns }] of rows.entries()) {
      const text = await this.threads.run('columnsAsJson', { columns });
      yield `${i > 0 ? ',' : ''}${JSON.stringify(item)}:${text}`;
    }
    yield '}}';
  }

  /** Document and measurements, of one state. */
  private async saved(clipId: string): Promise<Saved> {
    const { info } = await this.clips.known(clipId);
    for (;;) {
      const saved = await this.document(clipId, info);
      const rows = await this.measuredOf(clipId);
      // Otherwise it was saved meanwhile.
      if ((await this.document(clipId, info)).revision === saved.revision) return { ...saved, rows };
    }
  }

  /** What was measured, a few trackers at a time: other requests have their turn in between. */
  private async measuredOf(clipId: string): Promise<Saved['rows']> {
    const own = eq(measured.clipId, clipId);
    const items = await this.database.read.select({ item: measured.item }).from(measured).where(own);
    const rows: { item: string; columns: Buffer }[] = [];
    for (let i = 0; i < items.length; i += AT_ONCE) {
      const some = items.slice(i, i + AT_ONCE).map((r) => r.item);
      rows.push(
        ...(await this.database.read
          .select({ item: measured.item, columns: measured.columns })
          .from(measured)
          .where(and(own, inArray(measured.item, some)))),
      );
      await new Promise((resume) => setImmediate(resume));
    }
    return rows;
  }

  /** @throws LurnError `conflict` when somebody saved in between; `bad-request`, `bad-document`, `bad-track` */
  async save(clipId: string, body: Uint8Array, packed: boolean): Promise<{ revision: number }> {
    const { info } = await this.clips.known(clipId);
    const save = await this.threads.run('readSave', { body, packed, info });
    const { document } = save;
    const ids = document.trackers.map((t) => t.id);
    const revision = save.revision + 1;
    await this.database.write((db) =>
      db.transaction(async (tx) => {
        await this.demand(tx, clipId, save.revision);
        const values = { clipId, revision, document, updatedAt: new Date().toISOString() };
        await tx.insert(shots).values(values).onConflictDoUpdate({ target: shots.clipId, set: values });
        for (const { item, kind, samples, columns: bytes } of save.measured) {
          const columns = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length);
          await tx
            .insert(measured)
            .values({ clipId, item, kind, samples, columns })
            .onConflictDoUpdate({
              target: [measured.clipId, measured.item],
              set: { kind, samples, columns },
            });
          // Each is written at once; between them other requests have their turn.
          await new Promise((resume) => setImmediate(resume));
        }
        await tx.delete(measured).where(and(eq(measured.clipId, clipId), notInArray(measured.item, ids)));
      }),
    );
    this.events.emit({ kind: 'shot', id: clipId, revision });
    return { revision };
  }

  /** Which trackers have samples. */
  async sampled(clipId: string): Promise<Set<string>> {
    const rows = await this.database.read
      .select({ item: measured.item })
      .from(measured)
      .where(and(eq(measured.clipId, clipId), sql`${measured.samples} > 0`));
    return new Set(rows.map((r) => r.item));
  }

  /** @throws LurnError `conflict` when the saved shot is another than the one that was looked at */
  async demand(tx: Writing, clipId: string, revision: number): Promise<void> {
    const [row] = await tx.select({ revision: shots.revision }).from(shots).where(eq(shots.clipId, clipId));
    const saved = row?.revision ?? 0;
    if (saved === revision) return;
    throw new LurnError(
      'conflict',
      'The shot was changed elsewhere in the meantime. Load it again and join the two.',
      { revision: saved },
    );
  }

  /** Keeps what is measured now for a render, as it is: copied by the database itself. */
  async keepFor(tx: Writing, renderId: string, clipId: string): Promise<void> {
    await tx.run(sql`
      INSERT INTO ${renderInputs} (render_id, item, columns)
      SELECT ${renderId}, item, columns FROM ${measured} WHERE clip_id = ${clipId}`);
  }

  /** How far the work on clips has come, by the clips' ids. */
  async work(clipIds: readonly string[]): Promise<Map<string, Work>> {
    // Before there were other kinds all were spots.
    const rows = await this.database.read.all<{ id: string; kinds: string; frames: number }>(sql`
      SELECT s.clip_id AS id,
        (SELECT json_group_object(kind, n) FROM (
          SELECT COALESCE(json_extract(t.value, '$.kind'), 'spot') AS kind, COUNT(*) AS n
          FROM json_each(s.document, CASE WHEN json_type(s.document, '$.trackers') IS NULL THEN '$.spots' ELSE '$.trackers' END) t
          GROUP BY kind)) AS kinds,
        (SELECT MAX(m.samples) FROM ${measured} m WHERE m.clip_id = s.clip_id) AS frames
      FROM ${shots} s WHERE s.clip_id IN (SELECT value FROM json_each(${JSON.stringify(clipIds)}))`);
    const trackersOf = (kinds: string) => JSON.parse(kinds) as Work['trackers'];
    return new Map(rows.map((r) => [r.id, { trackers: trackersOf(r.kinds), trackedFrames: r.frames ?? 0 }]));
  }
}
