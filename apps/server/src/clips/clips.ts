import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { access, mkdir, rename, rm, stat } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { LurnError } from '@lurn/core';
import { ingestInThread } from '@lurn/engine';
import type { ClipInfo } from '@lurn/model';
import { and, eq, inArray, isNull, lt } from 'drizzle-orm';
import { notFound } from '../common/errors.js';
import { Settings } from '../common/settings.js';
import { Database } from '../database/database.js';
import { clips, renders, shots, tracks } from '../database/schema.js';
import { Events } from '../events/events.js';

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
export class Clips implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly log = new Logger('Clips');
  private readonly waiting: string[] = [];
  private readonly progress = new Map<string, number>();
  private current: { id: string; stop: () => void } | null = null;
  private closing = false;

  constructor(
    private readonly database: Database,
    private readonly settings: Settings,
    private readonly events: Events,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    await this.purge();
    const unfinished = await this.database.orm.query.clips.findMany({
      where: and(inArray(clips.status, ['reading', 'copying']), isNull(clips.deletedAt)),
    });
    for (const { id } of unfinished) this.enqueue(id);
  }

  onApplicationShutdown(): void {
    this.closing = true;
    this.current?.stop();
  }

  /** Clips that are not deleted, newest first. */
  async list(): Promise<ClipRow[]> {
    const rows = await this.database.orm.query.clips.findMany({ where: isNull(clips.deletedAt) });
    return rows.sort((a, b) => b.createdAt.localeCompare(a.createdAt));
  }

  framesRead(id: string): number {
    return this.progress.get(id) ?? 0;
  }

  /** @throws LurnError `not-found` */
  async get(id: string): Promise<ClipRow> {
    const row = await this.database.orm.query.clips.findFirst({ where: eq(clips.id, id) });
    if (!row || row.deletedAt) throw notFound('clip', id);
    return row;
  }

  /** A clip that has been read. @throws LurnError `not-found`, `not-ready` */
  async ready(id: string): Promise<ReadyClip> {
    const row = await this.get(id);
    if (row.status !== 'ready' || !row.info || !row.times) {
      throw new LurnError('not-ready', `"${row.name}" is still being read. Try again when it is ready.`);
    }
    const { buffer, byteOffset, byteLength } = row.times;
    const times = new Float64Array(buffer.slice(byteOffset, byteOffset + byteLength));
    return { row, info: row.info, times, path: this.pathOf(row) };
  }

  pathOf(row: ClipRow): string {
    return join(this.settings.clipFolder(row.id), row.file);
  }

  /** The file that the page plays. @throws LurnError `missing-file` */
  async playable(id: string): Promise<string> {
    const row = await this.get(id);
    const path = row.usesCopy ? join(this.settings.clipFolder(id), 'copy.mp4') : this.pathOf(row);
    await this.present(path, row.name);
    return path;
  }

  /** @throws LurnError `missing-file` when a clip's file is no longer on disk. */
  async present(path: string, name: string): Promise<void> {
    await access(path).catch(() => {
      throw new LurnError(
        'missing-file',
        `The file of "${name}" is not on disk any more: ${path}. Bring the clip in again.`,
      );
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
    const known = await this.database.orm.query.clips.findFirst({ where: eq(clips.hash, hash) });
    if (known && known.status !== 'failed') {
      await rm(path, { force: true });
      if (known.deletedAt) await this.restore(known.id);
      return { row: await this.get(known.id), duplicate: true };
    }
    const id = randomUUID();
    const file = `original${extname(wishedName)
      .replace(/[^.\w]/g, '')
      .slice(0, 8)
      .toLowerCase()}`;
    await mkdir(this.settings.clipFolder(id), { recursive: true });
    await rename(path, join(this.settings.clipFolder(id), file));
    const { size } = await stat(join(this.settings.clipFolder(id), file));
    const row: typeof clips.$inferInsert = {
      id,
      name,
      file,
      bytes: size,
      hash,
      status: 'reading',
      createdAt: new Date().toISOString(),
    };
    await this.database.orm.insert(clips).values(row);
    this.enqueue(id);
    return { row: await this.get(id), duplicate: false };
  }

  /** {@link take}, unless the very file was here before, deleted or not: then nothing changes. */
  async takeOnce(path: string, name: string): Promise<void> {
    const hash = await hashFile(path);
    const known = await this.database.orm.query.clips.findFirst({ where: eq(clips.hash, hash) });
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
    const row = await this.database.orm.query.clips.findFirst({ where: eq(clips.id, id) });
    if (!row) throw notFound('clip', id);
    await this.change(id, { deletedAt: null });
  }

  private async change(id: string, values: Partial<typeof clips.$inferInsert>): Promise<void> {
    await this.database.orm.update(clips).set(values).where(eq(clips.id, id));
    this.events.emit({ kind: 'clip', id });
  }

  private enqueue(id: string): void {
    this.waiting.push(id);
    this.events.emit({ kind: 'clip', id });
    if (!this.current) void this.work();
  }

  private async work(): Promise<void> {
    for (let id = this.waiting.shift(); id && !this.closing; id = this.waiting.shift()) {
      await this.read(id).catch((error: unknown) => this.log.error(error));
      this.progress.delete(id);
    }
    this.current = null;
  }

  private async read(id: string): Promise<void> {
    const row = await this.get(id);
    let shown = 0;
    let status = row.status;
    const { result, stop } = ingestInThread(
      { path: this.pathOf(row), name: row.name, folder: this.settings.clipFolder(id) },
      ({ phase, frames }) => {
        this.progress.set(id, frames);
        if (phase !== status) void this.change(id, { status: (status = phase) });
        if (Date.now() - shown > 400) {
          shown = Date.now();
          this.events.emit({ kind: 'clip', id });
        }
      },
    );
    this.current = { id, stop };
    try {
      const { info, times, shakiness, usesCopy } = await result;
      const stamps = Buffer.from(times.buffer, times.byteOffset, times.byteLength);
      await this.change(id, { status: 'ready', info, times: stamps, shakiness, usesCopy, error: null });
    } catch (error) {
      if (this.closing) return;
      const known = error instanceof LurnError ? error.toJSON() : { code: 'fault', message: String(error) };
      await this.change(id, { status: 'failed', error: known });
    }
  }

  /** Removes for good what was deleted long ago. */
  private async purge(): Promise<void> {
    const before = new Date(Date.now() - KEEP_DELETED_MS).toISOString();
    const old = await this.database.orm.query.clips.findMany({ where: lt(clips.deletedAt, before) });
    for (const { id } of old) {
      await rm(this.settings.clipFolder(id), { recursive: true, force: true });
      await this.database.orm.delete(tracks).where(eq(tracks.clipId, id));
      await this.database.orm.delete(shots).where(eq(shots.clipId, id));
      await this.database.orm.delete(renders).where(eq(renders.clipId, id));
      await this.database.orm.delete(clips).where(eq(clips.id, id));
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
