import { randomUUID } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { Database } from '../database/database.js';
import { jobs, type JobKind } from '../database/schema.js';
import { JobStore, type Job } from './job-store.js';

/** Jobs in the server's own file. */
@Injectable()
export class SqliteJobs extends JobStore {
  constructor(private readonly database: Database) {
    super();
  }

  async add(kind: JobKind, subject: string): Promise<void> {
    const now = Date.now();
    await this.database.write((db) =>
      db.run(sql`
      INSERT INTO ${jobs} (id, kind, subject, state, created_at)
      SELECT ${randomUUID()}, ${kind}, ${subject}, 'waiting', ${now}
      WHERE NOT EXISTS (SELECT 1 FROM ${jobs} WHERE kind = ${kind} AND subject = ${subject})`),
    );
  }

  async claim(kind: JobKind, worker: string, leaseMs: number): Promise<Job | null> {
    const now = Date.now();
    const [row] = await this.database.write((db) =>
      db.all<{ id: string; subject: string; attempt: number }>(sql`
      UPDATE ${jobs} SET state = 'running', worker = ${worker}, lease_until = ${now + leaseMs}, attempt = attempt + 1
      WHERE id = (
        SELECT id FROM ${jobs}
        WHERE kind = ${kind} AND ((state = 'waiting' AND not_before <= ${now}) OR (state = 'running' AND lease_until < ${now}))
        ORDER BY created_at, rowid LIMIT 1)
      RETURNING id, subject, attempt`),
    );
    return row ? { id: row.id, kind, subject: row.subject, attempt: row.attempt } : null;
  }

  async beat(job: Job, worker: string, leaseMs: number, part: number): Promise<boolean> {
    const held = await this.database.write((db) =>
      db
        .update(jobs)
        .set({ leaseUntil: Date.now() + leaseMs, part })
        .where(and(eq(jobs.id, job.id), eq(jobs.worker, worker), eq(jobs.attempt, job.attempt)))
        .returning({ id: jobs.id }),
    );
    return held.length > 0;
  }

  async end(job: Job): Promise<void> {
    await this.database.write((db) => db.delete(jobs).where(eq(jobs.id, job.id)));
  }

  async release(job: Job, afterMs: number): Promise<void> {
    await this.database.write((db) =>
      db
        .update(jobs)
        .set({ state: 'waiting', worker: null, leaseUntil: 0, notBefore: Date.now() + afterMs })
        .where(eq(jobs.id, job.id)),
    );
  }

  async cancel(subject: string): Promise<boolean> {
    const gone = await this.database.write((db) =>
      db
        .delete(jobs)
        .where(and(eq(jobs.subject, subject), eq(jobs.state, 'waiting')))
        .returning({ id: jobs.id }),
    );
    return gone.length > 0;
  }

  async arrange(kind: JobKind, subjects: readonly string[]): Promise<void> {
    await this.database.write((db) =>
      db.transaction(async (tx) => {
        const waiting = await tx
          .select({ id: jobs.id, subject: jobs.subject, createdAt: jobs.createdAt })
          .from(jobs)
          .where(and(eq(jobs.kind, kind), eq(jobs.state, 'waiting'), inArray(jobs.subject, [...subjects])))
          .orderBy(jobs.createdAt, sql`rowid`);
        const wanted = subjects.flatMap((s) => waiting.find((w) => w.subject === s) ?? []);
        let last = -Infinity;
        for (const [i, { id }] of wanted.entries()) {
          last = Math.max(last + 1, waiting[i].createdAt);
          await tx.update(jobs).set({ createdAt: last }).where(eq(jobs.id, id));
        }
      }),
    );
  }

  async recover(): Promise<void> {
    await this.database.write((db) =>
      db.update(jobs).set({ state: 'waiting', worker: null, leaseUntil: 0 }).where(eq(jobs.state, 'running')),
    );
  }
}
