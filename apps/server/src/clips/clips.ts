import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { access, mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import { LurnError } from '@lurn/core';
import { makeSound } from '@lurn/engine';
import type { ClipInfo } from '@lurn/model';
import { and, desc, eq, inArray, isNull, lt, or } from 'drizzle-orm';
import { notFound } from '../common/errors.js';
import { whenThereIsRoom } from '../common/full-disk.js';
import { missingFile } from '../common/send-file.js';
import { Settings } from '../common/settings.js';
import { Database } from '../database/database.js';
import { clips, renders } from '../database/schema.js';
import { Events } from '../events/events.js';
import { JobRunner } from '../jobs/runner.js';

export type ClipRow = typeof clips.$inferSelect;

export interface KnownClipRow {
  readonly row: ClipRow;
  readonly name: string;
  readonly info: ClipInfo;
  readonly times: Float64Array;
  readonly path: string;
}

/** Deleted clips are kept this long for undo. */
const KEEP_DELETED_MS = 7 * 24 * 3600 * 1000;

/** Clips: taken in, kept, deleted with a way back. */
@Injectable()
export class Clips implements OnApplicationBootstrap {
  private readonly log = new Logger('Clips');
  /** Called with each clip that is to be read. */
  onQueued: ((id: string) => void) | null = null;

  constructor(
    private readonly database: Database,
    private readonly settings: Settings,
    private readonly events: Events,
    private readonly jobs: JobRunner,
  ) {}

  onApplicationBootstrap(): Promise<void> {
    return whenThereIsRoom(this.log, () => this.takeUp());
  }

  private async takeUp(): Promise<void> {
    await this.purge();
    const unfinished = await this.database.read.query.clips.findMany({
      columns: { id: true },
      where: inArray(clips.status, ['reading', 'copying']),
    });
    for (const { id } of unfinished) await this.jobs.add('read', id);
  }

  /**
   * Clips that are not deleted, newest first.
   *
   * @param after  of those that come after this one
   * @throws LurnError `not-found`
   */
  async list(limit?: number, after?: string): Promise<ClipRow[]> {
    const last = after === undefined ? null : await this.even(after);
    const older =
      last &&
      or(
        lt(clips.createdAt, last.createdAt),
        and(eq(clips.createdAt, last.createdAt), lt(clips.id, last.id)),
      );
    return this.database.read.query.clips.findMany({
      where: and(isNull(clips.deletedAt), older ?? undefined),
      orderBy: [desc(clips.createdAt), desc(clips.id)],
      limit,
    });
  }

  /** A clip whether it is deleted or not; undefined where there is none. */
  async find(id: string): Promise<ClipRow | undefined> {
    return this.database.read.query.clips.findFirst({ where: eq(clips.id, id) });
  }

  /** @throws LurnError `not-found` */
  async get(id: string): Promise<ClipRow> {
    const row = await this.find(id);
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
  async ready(id: string): Promise<KnownClipRow> {
    return this.readyRow(await this.get(id));
  }

  /** {@link ready}, of a row at hand. */
  readyRow(row: ClipRow): KnownClipRow {
    if (row.status !== 'ready') throw notReady(row);
    return this.knownRow(row);
  }

  /** A clip of which it is known what it is, though it may still be being read. @throws as {@link ready} */
  async known(id: string): Promise<KnownClipRow> {
    return this.knownRow(await this.get(id));
  }

  knownRow(row: ClipRow): KnownClipRow {
    const { name, info } = row;
    if (!info || !row.times) throw notReady(row);
    const { buffer, byteOffset, byteLength } = row.times;
    const times = new Float64Array(buffer.slice(byteOffset, byteOffset + byteLength));
    return { row, name, info, times, path: this.pathOf(row) };
  }

  /**
   * Where it lies what is known of a clip's whole picture; null where nothing is. What has gone from the disk is looked for
   * anew, and told of when it is there.
   */
  async sceneFile({ id, made }: Pick<ClipRow, 'id' | 'made'>): Promise<string | null> {
    if (!made?.scene) return null;
    const path = join(this.settings.clipFolder(id), 'scene.bin');
    const there = await access(path).then(
      () => true,
      () => false,
    );
    if (there) return path;
    await this.change(id, { made: { ...made, scene: null }, shakiness: null });
    await this.jobs.add('analyse', id);
    return null;
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
    const { row, info } = await this.known(id);
    if (!info.audio) throw new LurnError('no-sound', `"${row.name}" has no sound.`);
    const path = join(this.settings.clipFolder(id), 'sound.m4a');
    const made = await access(path).then(
      () => true,
      () => false,
    );
    if (!made) {
      let making = this.sounds.get(id);
      if (!making) {
        making = makeSound(this.pathOf(row), info, path).finally(() => this.sounds.delete(id));
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
    const hash = await hashFile(path);
    const known = await this.byHash(hash);
    if (known && known.status !== 'failed') {
      if (known.deletedAt) await this.restore(known.id);
      const lost = await access(this.pathOf(known)).then(
        () => false,
        () => true,
      );
      // Its file is gone, or the server ended between the row and the file: this is it.
      if (lost && known.hash === hash) await this.place(path, known);
      else if (lost) return this.takeNew(path, wishedName, hash);
      else await rm(path, { force: true });
      return { row: await this.get(known.id), duplicate: !lost };
    }
    return this.takeNew(path, wishedName, hash);
  }

  private async takeNew(
    path: string,
    wishedName: string,
    hash: string,
  ): Promise<{ row: ClipRow; duplicate: boolean }> {
    const name = displayName(wishedName);
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

  /** The clip that a file is, or that was made of it. */
  private byHash(hash: string): Promise<ClipRow | undefined> {
    const where = or(eq(clips.hash, hash), eq(clips.broughtHash, hash));
    return this.database.read.query.clips.findFirst({ where });
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
    if (await this.byHash(hash)) await rm(path, { force: true });
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

  /** A clip lies in another file of its folder from now on. @param note  why, for the person */
  async replaceFile(id: string, file: string, note: string): Promise<void> {
    const path = join(this.settings.clipFolder(id), file);
    const { size } = await stat(path);
    const { hash: brought, broughtHash } = await this.even(id);
    // Its hash tells machines whether they have it already; what it was made of is known when it comes again.
    const hashes = { hash: await hashFile(path), broughtHash: broughtHash ?? brought };
    await this.change(id, { file, note, bytes: size, ...hashes });
  }

  async change(id: string, values: Partial<typeof clips.$inferInsert>): Promise<void> {
    await this.database.write((db) => db.update(clips).set(values).where(eq(clips.id, id)));
    this.events.emit({ kind: 'clip', id });
  }

  private async enqueue(id: string): Promise<void> {
    await this.jobs.add('read', id);
    this.events.emit({ kind: 'clip', id });
    this.onQueued?.(id);
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
        await rm(join(this.settings.data, 'renders', file), { recursive: true, force: true });
      await this.database.write((db) => db.delete(clips).where(eq(clips.id, id)));
    }
  }
}

const notReady = ({ name, status, error }: ClipRow) =>
  new LurnError(
    'not-ready',
    status === 'failed'
      ? `"${name}" could not be read: ${error?.message ?? 'bring it in again.'}`
      : `"${name}" is still being read. Try again when it is ready.`,
  );

/** A file's name as it is shown: no folders, no control characters, no extension, never empty or endless. */
export function displayName(name: string): string {
  const last = name.split(/[/\\]/).pop()!;
  // oxlint-disable-next-line no-control-regex
  const clean = last.replace(/[\u0000-\u001f\u007f]/g, '').trim();
  const bare = clean
    .replace(/\.(mp4|m4v|mov|mkv|webm|avi|mpg|mpeg|ts|mts|mxf|ogv|wmv|flv|3gp|zip)$/i, '')
    .trim();
  return (bare || clean || 'clip').slice(0, 120);
}

async function hashFile(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(path)) hash.update(chunk as Buffer);
  return hash.digest('hex');
}
