import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { access, mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import { LurnError, stoppedError, toWire } from '@lurn/core';
import { ingestInThread, makeSound, readyToIngest } from '@lurn/engine';
import type { ClipInfo, ClipSummary } from '@lurn/model';
import { desc, eq, inArray, isNull, lt } from 'drizzle-orm';
import { notFound } from '../common/errors.js';
import { fullDisk, isFullDisk } from '../common/full-disk.js';
import { missingFile } from '../common/send-file.js';
import { Settings } from '../common/settings.js';
import { Database } from '../database/database.js';
import { clips, renders } from '../database/schema.js';
import { Events } from '../events/events.js';
import type { Job } from '../jobs/job-store.js';
import { JobRunner, type JobHandler } from '../jobs/runner.js';

export type ClipRow = typeof clips.$inferSelect;

export interface ReadyClip {
  readonly row: ClipRow;
  readonly info: ClipInfo;
  readonly times: Float64Array;
  readonly path: string;
}

/** Deleted clips are kept this long for undo. */
const KEEP_DELETED_MS = 7 * 24 * 3600 * 1000;

/** Clips: taken in, read one at a time in a thread, kept, deleted with a way back. */
@Injectable()
export class Clips implements OnApplicationBootstrap, JobHandler {
  /** Since when what is read is in its present phase, and of how many frames it is about. */
  private readonly paces = new Map<string, { readonly since: number; readonly frames: number | null }>();

  constructor(
    private readonly database: Database,
    private readonly settings: Settings,
    private readonly events: Events,
    private readonly jobs: JobRunner,
  ) {
    jobs.handle('read', this);
  }

  async onApplicationBootstrap(): Promise<void> {
    readyToIngest();
    await this.purge();
    const unfinished = await this.database.read.query.clips.findMany({
      columns: { id: true },
      where: inArray(clips.status, ['reading', 'copying']),
    });
    for (const { id } of unfinished) await this.jobs.add('read', id);
  }

  /** Clips that are not deleted, newest first. */
  async list(): Promise<ClipRow[]> {
    return this.database.read.query.clips.findMany({
      where: isNull(clips.deletedAt),
      orderBy: desc(clips.createdAt),
    });
  }

  /** How far reading a clip has come: frames done, of about how many, and seconds left where the pace tells. */
  progress(id: string): Pick<ClipSummary, 'progress' | 'expected' | 'secondsLeft'> {
    const done = this.jobs.partOf(id) ?? 0;
    const pace = this.paces.get(id);
    if (!pace || done < 10) return { progress: done, expected: pace?.frames ?? null, secondsLeft: null };
    const each = (Date.now() - pace.since) / 1000 / done;
    const left = pace.frames === null ? null : Math.max(0, pace.frames - done) * each;
    return { progress: done, expected: pace.frames, secondsLeft: left };
  }

  /** @throws LurnError `not-found` */
  async get(id: string): Promise<ClipRow> {
    const row = await this.database.read.query.clips.findFirst({ where: eq(clips.id, id) });
    if (!row || row.deletedAt) throw notFound('clip', id);
    return row;
  }

  /** A clip whether it is deleted or not: what runs for it goes on, since a deletion can be taken back. */
  async even(id: string): Promise<ClipRow> {
    const row = await this.database.read.query.clips.findFirst({ where: eq(clips.id, id) });
    if (!row) throw notFound('clip', id);
    return row;
  }

  /** A clip that has been read. @throws LurnError `not-found`, `not-ready` */
  async ready(id: string): Promise<ReadyClip> {
    return this.readyRow(await this.get(id));
  }

  /** {@link ready}, of a row at hand. */
  readyRow(row: ClipRow): ReadyClip {
    if (row.status !== 'ready' || !row.info || !row.times) {
      throw new LurnError('not-ready', `"${row.name}" is still being read. Try again when it is ready.`);
    }
    const { buffer, byteOffset, byteLength } = row.times;
    const times = new Float64Array(buffer.slice(byteOffset, byteOffset + byteLength));
    return { row, info: row.info, times, path: this.pathOf(row) };
  }

  pathOf(row: Pick<ClipRow, 'id' | 'file'>): string {
    return join(this.settings.clipFolder(row.id), row.file);
  }

  /** The file that the page plays. */
  async playable(id: string): Promise<{ path: string; name: string }> {
    const row = await this.get(id);
    const path = row.usesCopy ? join(this.settings.clipFolder(id), 'copy.mp4') : this.pathOf(row);
    return { path, name: row.name };
  }

  /** Sounds that are being taken out, by the clip. */
  private readonly sounds = new Map<string, Promise<void>>();

  /** The clip's sound alone, frame 0's moment at its beginning; taken out when it is first asked for. */
  async sound(id: string): Promise<{ path: string; name: string }> {
    const { row } = await this.ready(id);
    if (!row.info?.audio) throw new LurnError('no-sound', `"${row.name}" has no sound.`);
    const path = join(this.settings.clipFolder(id), 'sound.m4a');
    const made = await access(path).then(
      () => true,
      () => false,
    );
    if (!made) {
      let making = this.sounds.get(id);
      if (!making) {
        making = makeSound(this.pathOf(row), row.info, path).finally(() => this.sounds.delete(id));
        this.sounds.set(id, making);
      }
      await making;
    }
    return { path, name: row.name };
  }

  /** @throws LurnError `missing-file` when a clip's file is no longer on disk. */
  async present(path: string, name: string): Promise<void> {
    await access(path).catch(() => {
      throw missingFile(name);
    });
  }

  /**
   * Takes a file over as a new clip and begins to read it. The file is moved.
   *
   * @returns the clip, and whether it was here already (then the file is removed and nothing is added)
   */
  async take(path: string, wishedName: string): Promise<{ row: ClipRow; duplicate: boolean }> {
    const name = displayName(wishedName);
    const hash = await hashFile(path);
    const known = await this.database.read.query.clips.findFirst({ where: eq(clips.hash, hash) });
    if (known && known.status !== 'failed') {
      if (known.deletedAt) await this.restore(known.id);
      const lost = await access(this.pathOf(known)).then(
        () => false,
        () => true,
      );
      // Its file is gone, or the server ended between the row and the file: this is it.
      if (lost) await this.place(path, known);
      else await rm(path, { force: true });
      return { row: await this.get(known.id), duplicate: !lost };
    }
    const file = `original${extname(wishedName)
      .replace(/[^.\w]/g, '')
      .slice(0, 8)
      .toLowerCase()}`;
    const { size } = await stat(path);
    const row = {
      ...{ id: randomUUID(), name, file, bytes: size, hash },
      status: 'reading' as const,
      createdAt: new Date().toISOString(),
    };
    await this.database.write((db) => db.insert(clips).values(row));
    await this.place(path, row);
    return { row: await this.get(row.id), duplicate: false };
  }

  private async place(path: string, row: Pick<ClipRow, 'id' | 'file' | 'status'>): Promise<void> {
    await mkdir(this.settings.clipFolder(row.id), { recursive: true });
    await rename(path, this.pathOf(row));
    if (row.status === 'ready') this.events.emit({ kind: 'clip', id: row.id });
    else await this.enqueue(row.id);
  }

  /** {@link take}, unless the very file was here before, deleted or not: then nothing changes. */
  async takeOnce(path: string, name: string): Promise<void> {
    const hash = await hashFile(path);
    const known = await this.database.read.query.clips.findFirst({ where: eq(clips.hash, hash) });
    if (known) await rm(path, { force: true });
    else await this.take(path, name);
  }

  async rename(id: string, name: string): Promise<void> {
    await this.get(id);
    await this.change(id, { name: displayName(name) });
  }

  async remove(id: string): Promise<void> {
    await this.get(id);
    await this.change(id, { deletedAt: new Date().toISOString() });
  }

  /** Takes a deletion back. @throws LurnError `not-found` when it is gone for good */
  async restore(id: string): Promise<void> {
    const row = await this.database.read.query.clips.findFirst({ where: eq(clips.id, id) });
    if (!row) throw notFound('clip', id);
    await this.change(id, { deletedAt: null });
    if (row.status === 'reading' || row.status === 'copying') await this.enqueue(id);
  }

  private async change(id: string, values: Partial<typeof clips.$inferInsert>): Promise<void> {
    await this.database.write((db) => db.update(clips).set(values).where(eq(clips.id, id)));
    this.events.emit({ kind: 'clip', id });
  }

  private async enqueue(id: string): Promise<void> {
    await this.jobs.add('read', id);
    this.events.emit({ kind: 'clip', id });
  }

  /** Reads a clip. One that was deleted meanwhile is left; its restoring asks again. */
  async run({ subject: id }: Job, signal: AbortSignal, onPart: (part: number) => void): Promise<void> {
    const row = await this.database.read.query.clips.findFirst({ where: eq(clips.id, id) });
    if (!row || row.deletedAt || row.status === 'ready') return;
    try {
      await this.read(row, signal, onPart);
    } catch (error) {
      if (isFullDisk(error) || signal.aborted) throw error;
      await this.change(id, { status: 'failed', error: toWire(error) });
    }
  }

  async waiting({ subject: id }: Job, error: unknown): Promise<void> {
    await this.change(id, { status: 'reading', error: error === null ? null : fullDisk().toJSON() });
  }

  private async read(row: ClipRow, signal: AbortSignal, onPart: (part: number) => void): Promise<void> {
    const { id } = row;
    let shown = 0;
    let status = row.status;
    this.paces.set(id, { since: Date.now(), frames: null });
    signal.addEventListener('abort', () => this.paces.delete(id), { once: true });
    const { result, stop } = ingestInThread(
      { path: this.pathOf(row), name: row.name, folder: this.settings.clipFolder(id) },
      ({ phase, frames, expected }) => {
        onPart(frames);
        const pace = this.paces.get(id);
        if (phase !== status) this.paces.set(id, { since: Date.now(), frames: expected });
        else if (pace) this.paces.set(id, { ...pace, frames: expected });
        // What is not recorded of the way is of no consequence.
        if (phase !== status) this.change(id, { status: (status = phase) }).catch(() => undefined);
        if (Date.now() - shown > 400) {
          shown = Date.now();
          this.events.emit({ kind: 'clip', id });
        }
      },
    );
    signal.addEventListener('abort', stop, { once: true });
    if (signal.aborted) stop();
    const { info, times, shakiness, usesCopy } = await result.finally(() => this.paces.delete(id));
    if (signal.aborted) throw stoppedError('Reading the clip');
    const stamps = Buffer.from(times.buffer, times.byteOffset, times.byteLength);
    await this.change(id, { status: 'ready', info, times: stamps, shakiness, usesCopy, error: null });
  }

  /** Removes for good what was deleted long ago; what hangs on it in the database goes with it. */
  private async purge(): Promise<void> {
    const before = new Date(Date.now() - KEEP_DELETED_MS).toISOString();
    const old = await this.database.read.query.clips.findMany({
      columns: { id: true },
      where: lt(clips.deletedAt, before),
    });
    const files = await readdir(join(this.settings.data, 'renders'));
    for (const { id } of old) {
      await rm(this.settings.clipFolder(id), { recursive: true, force: true });
      const made = await this.database.read.query.renders.findMany({
        columns: { id: true },
        where: eq(renders.clipId, id),
      });
      for (const file of files.filter((f) => made.some((r) => f.startsWith(r.id))))
        await rm(join(this.settings.data, 'renders', file), { force: true });
      await this.database.write((db) => db.delete(clips).where(eq(clips.id, id)));
    }
  }
}

/** A file's name as it is shown: no folders, no control characters, no extension, never empty or endless. */
export function displayName(name: string): string {
  const last = name.split(/[/\\]/).pop()!;
  // eslint-disable-next-line no-control-regex
  const clean = last.replace(/[\u0000-\u001f\u007f]/g, '').trim();
  const bare = clean.replace(/\.(mp4|m4v|mov|mkv|webm|avi|mpg|mpeg|ts|mts|mxf|ogv|wmv|flv|3gp)$/i, '').trim();
  return (bare || clean || 'clip').slice(0, 120);
}

async function hashFile(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(path)) hash.update(chunk as Buffer);
  return hash.digest('hex');
}
