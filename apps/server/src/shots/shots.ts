import { Injectable } from '@nestjs/common';
import { LurnError } from '@lurn/core';
import { newDocument, parseDocument, type ClipInfo, type ShotDocument } from '@lurn/model';
import { and, eq, inArray, notInArray, sql } from 'drizzle-orm';
import { Clips } from '../clips/clips.js';
import { Database, type Writing } from '../database/database.js';
import { measured, renderInputs, shots } from '../database/schema.js';
import { Events } from '../events/events.js';
import { ShotThreads } from './shot-threads.js';

/** Trackers whose measurements are read in one go. */
const AT_ONCE = 8;

/** How far the work on a clip has come, for the list of shots. */
export interface Work {
  readonly spots: number;
  readonly trackedFrames: number;
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
    if (!row) return { revision: 0, document: newDocument(info) };
    return { revision: row.revision, document: parseDocument(row.document, info) };
  }

  /** The saved shot as JSON text, piece by piece: what was measured passes through as it lies in the database. */
  async pieces(clipId: string): Promise<string[]> {
    const { info } = await this.clips.known(clipId);
    const saved = await this.document(clipId, info);
    const rows = await this.measuredOf(clipId);
    // Saved meanwhile: document and measurements are to be of one state.
    if ((await this.document(clipId, info)).revision !== saved.revision) return this.pieces(clipId);
    const columns = rows.map((r, i) => `${i > 0 ? ',' : ''}${JSON.stringify(r.item)}:${r.columns}`);
    const head = `{"revision":${saved.revision},"document":${JSON.stringify(saved.document)},"measured":{`;
    return [head, ...columns, '}}'];
  }

  /** What was measured, a few trackers at a time: other requests have their turn in between. */
  private async measuredOf(clipId: string): Promise<{ item: string; columns: string }[]> {
    const own = eq(measured.clipId, clipId);
    const items = await this.database.read.select({ item: measured.item }).from(measured).where(own);
    const rows: { item: string; columns: string }[] = [];
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
  async save(clipId: string, body: Uint8Array): Promise<{ revision: number }> {
    const { info } = await this.clips.known(clipId);
    const save = await this.threads.run('readSave', { body, info });
    const { document } = save;
    const ids = document.trackers.map((t) => t.id);
    const revision = save.revision + 1;
    await this.database.write((db) =>
      db.transaction(async (tx) => {
        await this.demand(tx, clipId, save.revision);
        const values = { clipId, revision, document, updatedAt: new Date().toISOString() };
        await tx.insert(shots).values(values).onConflictDoUpdate({ target: shots.clipId, set: values });
        for (const { item, kind, samples, columns } of save.measured) {
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

  /** How far the work on every clip has come, by the clips' ids. */
  async work(): Promise<Map<string, Work>> {
    const rows = await this.database.read.all<{ id: string; spots: number; frames: number }>(sql`
      SELECT s.clip_id AS id,
        json_array_length(s.document, CASE WHEN json_type(s.document, '$.trackers') IS NULL THEN '$.spots' ELSE '$.trackers' END) AS spots,
        (SELECT MAX(m.samples) FROM ${measured} m WHERE m.clip_id = s.clip_id) AS frames
      FROM ${shots} s`);
    return new Map(rows.map((r) => [r.id, { spots: r.spots ?? 0, trackedFrames: r.frames ?? 0 }]));
  }
}
