import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, existsSync } from 'node:fs';
import { access, mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import { LurnError, stoppedError, toWire } from '@lurn/core';
import {
  ingestInThread,
  knowClip,
  makePart,
  makeSound,
  partFile,
  readyToIngest,
  type CopyKind,
  type Ingest,
  type KnownClip,
} from '@lurn/engine';
import { fittedTo, type ClipInfo, type ClipSummary } from '@lurn/model';
import { desc, eq, inArray, isNull, lt } from 'drizzle-orm';
import { notFound } from '../common/errors.js';
import { fullDisk, isFullDisk } from '../common/full-disk.js';
import { missingFile } from '../common/send-file.js';
import { Settings } from '../common/settings.js';
import { Database } from '../database/database.js';
import { clips, measured, renders, shots } from '../database/schema.js';
import { Events } from '../events/events.js';
import type { Job } from '../jobs/job-store.js';
import { JobRunner, type JobHandler } from '../jobs/runner.js';
import { AskedParts } from './asked-parts.js';

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

/** Clips: taken in, read one at a time in a thread, kept, deleted with a way back. */
@Injectable()
export class Clips implements OnApplicationBootstrap, JobHandler {
  /** Since when what is read is in its present phase, and of how many frames it is about. */
  private readonly paces = new Map<string, Pace>();
  /** Reading stands still while a part is made that somebody looks at. */
  private readonly asked = new AskedParts((busy) => this.ingest?.hold(busy));
  private ingest: Ingest | null = null;

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
  progress(row: ClipRow): Pick<ClipSummary, 'progress' | 'expected' | 'secondsLeft' | 'there'> {
    const { id, info, made } = row;
    const done = this.jobs.partOf(id) ?? 0;
    const pace = this.paces.get(id);
    const copied = this.copiedOf(row);
    const there = copied && made?.copy ? copied.copy : (info?.frames ?? 0);
    const known = { progress: done, expected: pace?.frames ?? null, there };
    if (!pace || done < 10) return { ...known, secondsLeft: null };
    const each = (Date.now() - pace.since) / 1000 / done;
    return { ...known, secondsLeft: pace.frames === null ? null : Math.max(0, pace.frames - done) * each };
  }

  /** Frames of each copy that are there while they are being made; null once they are there for good. */
  private copiedOf({ id, status }: ClipRow): Readonly<Record<CopyKind, number>> | null {
    if (status !== 'reading' && status !== 'copying') return null;
    return this.paces.get(id)?.copied ?? { copy: 0, reduced: 0 };
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

  private knownRow(row: ClipRow): KnownClipRow {
    const { name, info } = row;
    if (!info || !row.times) throw notReady(row);
    const { buffer, byteOffset, byteLength } = row.times;
    const times = new Float64Array(buffer.slice(byteOffset, byteOffset + byteLength));
    return { row, name, info, times, path: this.pathOf(row) };
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

  /**
   * A part of a copy.
   *
   * @throws LurnError `not-found`, and `not-read-yet` while it is not there: it is made out of turn then
   */
  async part(id: string, kind: CopyKind, part: number): Promise<{ path: string; name: string }> {
    const known = await this.known(id);
    const { row, name, info } = known;
    const copy = row.made?.[kind];
    if (!copy || part < 0 || part * copy.part >= info.frames) throw notFound('part', `${kind} ${part}`);
    const folder = this.settings.clipFolder(id);
    const copied = this.copiedOf(row);
    const last = Math.min(info.frames, (part + 1) * copy.part);
    if (!copied || last <= copied[kind]) return { path: join(folder, kind, partFile(part)), name };
    const asked = join(folder, ASKED, `${kind}-${partFile(part)}`);
    if (existsSync(asked)) return { path: asked, name };
    this.asked.want(asked, async (signal) => {
      await mkdir(join(folder, ASKED), { recursive: true });
      await makePart(known.path, known, part, { kind, ...copy }, asked, signal);
    });
    throw new LurnError(
      'not-read-yet',
      `Frames ${part * copy.part} to ${last - 1} of "${name}" are still being copied.`,
    );
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
    const waits = this.paces.size > 0;
    await this.jobs.add('read', id);
    this.events.emit({ kind: 'clip', id });
    if (waits) await this.know(id);
  }

  /** Finds out what a clip is that waits for another to be read, so that it can be opened meanwhile. */
  private async know(id: string): Promise<void> {
    const row = await this.even(id);
    // What is wrong with it is told when it is read.
    const clip = await knowClip({ path: this.pathOf(row), name: row.name }).catch(() => null);
    const now = await this.even(id);
    if (clip && !now.info && now.status !== 'ready') await this.change(id, valuesOf(clip));
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
    // What pages have been told of it until now, by this server or the one before.
    const told = row.info && row.times ? [this.knownRow(row).times] : [];
    this.paces.set(id, { since: Date.now(), frames: null, copied: { copy: 0, reduced: 0 } });
    signal.addEventListener('abort', () => this.paces.delete(id), { once: true });
    const ingest = ingestInThread(
      { path: this.pathOf(row), name: row.name, folder: this.settings.clipFolder(id) },
      ({ phase, frames, expected, copied }) => {
        onPart(frames);
        const since = phase === status ? this.paces.get(id)?.since : Date.now();
        if (since !== undefined) this.paces.set(id, { since, frames: expected, copied });
        // What is not recorded of the way is of no consequence.
        if (phase !== status) this.change(id, { status: (status = phase) }).catch(() => undefined);
        if (Date.now() - shown > 400) {
          shown = Date.now();
          this.events.emit({ kind: 'clip', id });
        }
      },
      // From now on it can be opened.
      (clip) => {
        told.push(clip.times);
        this.change(id, valuesOf(clip)).catch(() => undefined);
      },
    );
    this.ingest = ingest;
    signal.addEventListener('abort', ingest.stop, { once: true });
    if (signal.aborted) ingest.stop();
    const clip = await ingest.result.finally(() => {
      this.paces.delete(id);
      this.ingest = null;
    });
    if (signal.aborted) throw stoppedError('Reading the clip');
    if (!told.every((times) => sameFrames(times, clip.times))) await this.fit(id, clip);
    await this.change(id, { ...valuesOf(clip), status: 'ready', shakiness: clip.shakiness, error: null });
    await rm(join(this.settings.clipFolder(id), ASKED), { recursive: true, force: true });
  }

  /** What was measured of a clip whose frames turned out to be others than its container said is of no use. */
  private async fit(id: string, { info: { frames } }: KnownClip): Promise<void> {
    await this.database.write((db) =>
      db.transaction(async (tx) => {
        await tx.delete(measured).where(eq(measured.clipId, id));
        const [shot] = await tx.select().from(shots).where(eq(shots.clipId, id));
        if (!shot) return;
        const values = { document: fittedTo(shot.document, frames), revision: shot.revision + 1 };
        await tx.update(shots).set(values).where(eq(shots.clipId, id));
      }),
    );
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

/** How reading a clip goes. */
interface Pace {
  /** Milliseconds since 1970 at which its present phase began. */
  readonly since: number;
  /** Of about how many frames; null while that is not known. */
  readonly frames: number | null;
  readonly copied: Readonly<Record<CopyKind, number>>;
}

/** Where parts lie that were made out of turn, in a clip's folder, until it has been copied whole. */
const ASKED = 'asked';

const notReady = ({ name }: ClipRow) =>
  new LurnError('not-ready', `"${name}" is still being read. Try again when it is ready.`);

const valuesOf = ({ info, times, made, usesCopy }: KnownClip) => ({
  ...{ info, made, usesCopy },
  times: Buffer.from(times.buffer, times.byteOffset, times.byteLength),
});

const sameFrames = (a: Float64Array, b: Float64Array): boolean =>
  a.length === b.length && a.every((t, i) => Math.abs(t - b[i]) < 1e-4);

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
