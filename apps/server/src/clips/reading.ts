import { existsSync } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import { LurnError, stoppedError, toWire } from '@lurn/core';
import {
  conform,
  fieldsOf,
  ingestInThread,
  isZip,
  knowClip,
  makePart,
  MOST_ANALYSED,
  MOST_ON_THE_WAY,
  partFile,
  readyToIngest,
  rowFile,
  type CopyKind,
  type Ingest,
  type KnownClip,
} from '@lurn/engine';
import { fittedTo, type ClipSummary } from '@lurn/model';
import { eq } from 'drizzle-orm';
import { notFound } from '../common/errors.js';
import { fullDisk, isFullDisk } from '../common/full-disk.js';
import { Settings } from '../common/settings.js';
import { Database } from '../database/database.js';
import { measured, shots } from '../database/schema.js';
import { Events } from '../events/events.js';
import type { Job } from '../jobs/job-store.js';
import { JobRunner, type JobHandler } from '../jobs/runner.js';
import { AskedParts } from './asked-parts.js';
import { Clips, type ClipRow } from './clips.js';

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

/** Reads clips, one at a time in a thread; what is known and what has been copied of one can be used meanwhile. */
@Injectable()
export class Reading implements OnApplicationBootstrap, JobHandler {
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
    private readonly clips: Clips,
  ) {
    jobs.handle('read', this);
    // What cannot be found out now is told when it is read.
    clips.onQueued = (id) => void this.know(id).catch(() => undefined);
  }

  onApplicationBootstrap(): void {
    readyToIngest();
  }

  /** How far reading a clip has come: frames done, of about how many, and seconds left where the pace tells. */
  progress(row: ClipRow): Pick<ClipSummary, 'progress' | 'expected' | 'secondsLeft' | 'there' | 'looked'> {
    const { id, info, made } = row;
    const done = this.jobs.partOf('read', id) ?? 0;
    const pace = this.paces.get(id);
    const copied = this.copiedOf(row);
    const there = copied && made?.copy ? copied.copy : (info?.frames ?? 0);
    const looked = this.jobs.partOf('analyse', id);
    const known = { progress: done, expected: pace?.frames ?? null, there, looked };
    if (!pace || done < 10) return { ...known, secondsLeft: null };
    const each = (Date.now() - pace.since) / 1000 / done;
    return { ...known, secondsLeft: pace.frames === null ? null : Math.max(0, pace.frames - done) * each };
  }

  /** Frames of each copy that are there while they are being made; null once they are there for good. */
  private copiedOf({ id, status }: ClipRow): Readonly<Record<CopyKind, number>> | null {
    if (status !== 'reading' && status !== 'copying') return null;
    return this.paces.get(id)?.copied ?? { copy: 0, reduced: 0 };
  }

  /**
   * A part of a copy.
   *
   * @throws LurnError `not-found`, and `not-read-yet` while it is not there: it is made out of turn then
   */
  async part(id: string, kind: CopyKind, part: number): Promise<{ path: string; name: string }> {
    const known = await this.clips.known(id);
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

  /**
   * A row of the film strip.
   *
   * @throws LurnError `not-found`, and `not-read-yet` while it is not there
   */
  async filmRow(id: string, row: number): Promise<{ path: string; name: string }> {
    const known = await this.clips.known(id);
    const film = known.row.made?.film;
    if (!film || row < 0 || row * film.row * film.every >= known.info.frames)
      throw notFound('row of the film', String(row));
    const path = join(this.settings.clipFolder(id), 'film', rowFile(row));
    // It grows in its place: it is whole once the next one has begun, or all has been read.
    const whole = known.row.status === 'ready' || existsSync(join(dirname(path), rowFile(row + 1)));
    if (!whole)
      throw new LurnError('not-read-yet', `Row ${row} of the film of "${known.name}" is still being made.`);
    return { path, name: known.name };
  }

  /** Of what waits to be read, this comes next: somebody looks at it. */
  async first(id: string): Promise<void> {
    const unread = (await this.clips.list()).filter((c) => c.status === 'reading' && c.id !== id);
    await this.jobs.arrange('read', [id, ...unread.map((c) => c.id).reverse()]);
  }

  /**
   * Finds out what a clip is that waits for another to be read, so that it can be opened meanwhile. What is read at once
   * is known as soon without it.
   */
  private async know(id: string): Promise<void> {
    await new Promise((resume) => setTimeout(resume, AT_ONCE_MS));
    const row = await this.clips.even(id);
    if (row.info || row.status !== 'reading') return;
    // What is wrong with it is told when it is read.
    if (row.file !== CONFORMED && (await isAwkward(this.clips.pathOf(row), row.name))) return;
    const clip = await knowClip({ path: this.clips.pathOf(row), name: row.name }).catch(() => null);
    const now = await this.clips.even(id);
    if (clip && !now.info && now.status !== 'ready') await this.clips.change(id, valuesWith(clip));
  }

  /** Reads a clip. One that was deleted meanwhile is left; its restoring asks again. */
  async run(job: Job, signal: AbortSignal, onPart: (part: number) => void): Promise<void> {
    const { subject: id } = job;
    const row = await this.clips.find(id);
    if (!row || row.deletedAt) return;
    if (row.status === 'ready') {
      // All but what is known of its whole picture: a server ended before that was there.
      if (row.shakiness === null) await this.jobs.add('analyse', id);
      return;
    }
    try {
      await this.read(row, signal, onPart);
    } catch (error) {
      if (isFullDisk(error) || signal.aborted) throw error;
      if (error instanceof LurnError && error.code === 'changing-size' && row.note === null) {
        // Known now: it is conformed before it is read again.
        await this.clips.change(id, { note: error.message });
        return this.run(job, signal, onPart);
      }
      await this.clips.change(id, { status: 'failed', error: toWire(error) });
    }
  }

  async waiting({ subject: id }: Job, error: unknown): Promise<void> {
    await this.clips.change(id, { status: 'reading', error: error === null ? null : fullDisk().toJSON() });
  }

  /**
   * Makes of pictures in a zip, and of a clip whose pictures are woven of two fields, a clip that can be worked on. What
   * was brought in stays beside it.
   *
   * @returns the clip's row as it is then
   */
  private async conformed(
    row: ClipRow,
    signal: AbortSignal,
    onPart: (part: number) => void,
  ): Promise<ClipRow> {
    const { id, name, file } = row;
    if (file === CONFORMED) return row;
    const path = this.clips.pathOf(row);
    const zip = await isZip(path);
    const changes = row.note !== null;
    if (!zip && !changes && (FIELDS_KEPT || !(await fieldsOf(path, name, signal)))) return row;
    const out = join(this.settings.clipFolder(id), CONFORMED);
    const made = await conform({
      path,
      name,
      out,
      rate: zip ? rateIn(name) : null,
      signal,
      onProgress: onPart,
    });
    const note = changes
      ? 'Its pictures changed their size on the way: all have that of the first.'
      : made.note;
    await this.clips.replaceFile(id, CONFORMED, note);
    return this.clips.get(id);
  }

  private async read(brought: ClipRow, signal: AbortSignal, onPart: (part: number) => void): Promise<void> {
    const row = await this.conformed(brought, signal, onPart);
    const { id } = row;
    const valuesOf = (clip: KnownClip) => valuesWith(clip, row.note);
    let shown = 0;
    let status = row.status;
    // What pages have been told of it until now, by this server or the one before.
    const told = row.info && row.times ? [this.clips.knownRow(row).times] : [];
    this.paces.set(id, { since: Date.now(), frames: null, copied: { copy: 0, reduced: 0 } });
    signal.addEventListener('abort', () => this.paces.delete(id), { once: true });
    let made: Promise<void> | null = null;
    /** All is there; what is known of its whole picture may follow. */
    const ready = async (clip: KnownClip) => {
      this.paces.delete(id);
      if (signal.aborted) throw stoppedError('Reading the clip');
      if (!told.every((times) => sameFrames(times, clip.times))) await this.fit(id, clip);
      await this.clips.change(id, { ...valuesOf(clip), status: 'ready', error: null });
      await rm(join(this.settings.clipFolder(id), ASKED), { recursive: true, force: true });
    };
    const ingest = ingestInThread(
      { path: this.clips.pathOf(row), name: row.name, folder: this.settings.clipFolder(id) },
      ({ phase, frames, expected, copied }) => {
        onPart(frames);
        const since = phase === status ? this.paces.get(id)?.since : Date.now();
        if (since !== undefined) this.paces.set(id, { since, frames: expected, copied });
        // What is not recorded of the way is of no consequence.
        if (phase !== status) this.clips.change(id, { status: (status = phase) }).catch(() => undefined);
        if (Date.now() - shown > 400) {
          shown = Date.now();
          this.events.emit({ kind: 'clip', id });
        }
      },
      // From now on it can be opened.
      (clip) => {
        told.push(clip.times);
        this.clips.change(id, valuesOf(clip)).catch(() => undefined);
      },
      (clip) => {
        made = ready(clip);
        // What goes wrong is met where it is waited for.
        made.catch(() => undefined);
      },
    );
    this.ingest = ingest;
    signal.addEventListener('abort', ingest.stop, { once: true });
    if (signal.aborted) ingest.stop();
    const clip = await ingest.result.finally(() => {
      this.paces.delete(id);
      this.ingest = null;
    });
    await (made ?? ready(clip));
    await this.clips.change(id, { made: clip.made, shakiness: clip.shakiness });
    const { frames } = clip.info;
    if (frames > MOST_ON_THE_WAY && frames <= MOST_ANALYSED) await this.jobs.add('analyse', id);
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
}

/** What waits no longer than this to be read is not looked at before. */
const AT_ONCE_MS = 400;
/** What is conformed lies beside what was brought in, under this name. */
const CONFORMED = 'conformed.mkv';
/** With LURN_FIELDS=keep the pictures of an interlaced clip stay as they are. */
const FIELDS_KEPT = process.env.LURN_FIELDS === 'keep';

/** A rate that a name tells, as "ridge 24fps"; null where it tells none. */
export function rateIn(name: string): number | null {
  const rate = Number(/(\d+(?:\.\d+)?) ?fps\b/i.exec(name)?.[1] ?? 0);
  return rate >= 1 && rate <= 240 ? rate : null;
}

/** @param note  what was made of it before it was read */
const valuesWith = ({ info, times, made, usesCopy }: KnownClip, note: string | null = null) => ({
  ...{ made, usesCopy },
  info: note ? { ...info, warning: [note, info.warning].filter(Boolean).join(' ') } : info,
  times: Buffer.from(times.buffer, times.byteOffset, times.byteLength),
});

/** True of what is conformed before it is read: nothing that its container says holds then. */
async function isAwkward(path: string, name: string): Promise<boolean> {
  return (await isZip(path).catch(() => false)) || (await fieldsOf(path, name).catch(() => null)) !== null;
}

const sameFrames = (a: Float64Array, b: Float64Array): boolean =>
  a.length === b.length && a.every((t, i) => Math.abs(t - b[i]) < 1e-4);
