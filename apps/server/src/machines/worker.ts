import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { fromWire, LurnError, stoppedError, toWire, type WireError } from '@lurn/core';
import { formatById, LayerRasters, partName, renderParts, sweepParts, type Part } from '@lurn/engine';
import { isHash } from '@lurn/model';
import type { Job } from '../jobs/job-store.js';
import type { JobHandler } from '../jobs/runner.js';
import {
  groupsOf,
  ofSubject,
  partsOfOrder,
  unpackOrder,
  WORK_VERSION,
  type PartOrder,
} from './part-order.js';
import type { Beat } from './workers.js';

export interface WorkerSettings {
  /** The server's door for workers. */
  readonly server: string;
  readonly token: string;
  readonly name: string;
  /** Where sources and parts are kept. */
  readonly data: string;
  /** A folder that has the originals too, under the names of their hashes or their own; null where there is none. */
  readonly sources: string | null;
  readonly version?: string;
  /** Says something to whoever started it. */
  readonly say?: (line: string) => void;
}

const BEAT_MS = 3_000;
/** Parts that so many workers were lost with are given up. */
const MOST_ATTEMPTS = 5;
/** A folder that nobody has touched for so long is nobody's, in milliseconds. */
const LEFT_MS = 6 * 3_600_000;
/** Bytes of originals that are kept, but for the one in use. */
const KEPT_BYTES = 50e9;

interface Drawing {
  readonly render: string;
  readonly order: PartOrder;
  readonly parts: readonly Part[];
  readonly source: string;
  readonly work: string;
}

/** Renders parts for a server: it fetches what they need, and brings them. It does nothing else, whatever a job says. */
export class PartWorker implements JobHandler {
  readonly id = randomUUID();
  private readonly rendered = new Map<string, Promise<PartOrder>>();
  private doing: Beat['doing'] = null;
  private done = 0;
  private error: string | null = null;
  private readonly timer = setInterval(() => void this.beat(), BEAT_MS);

  constructor(private readonly settings: WorkerSettings) {
    this.timer.unref();
  }

  /** @throws LurnError `no-token`, `other-version`, `offline`: it cannot work for this server */
  async begin(): Promise<void> {
    await mkdir(join(this.settings.data, 'sources'), { recursive: true });
    await sweepParts(join(this.settings.data, 'sources'));
    await this.sweepLeft();
    await this.post('/beat', this.told());
  }

  /** Folders of workers that were killed: another one of this machine touches its own all the time. */
  private async sweepLeft(): Promise<void> {
    const { data } = this.settings;
    for (const name of (await readdir(data)).filter((n) => /^parts-[0-9a-f]{8}$/.test(n))) {
      const { mtimeMs } = await stat(join(data, name)).catch(() => ({ mtimeMs: Infinity }));
      if (Date.now() - mtimeMs > LEFT_MS) await rm(join(data, name), { recursive: true, force: true });
    }
  }

  async end(): Promise<void> {
    clearInterval(this.timer);
    await this.post('/left', this.told()).catch(() => undefined);
  }

  async run({ subject, attempt }: Job, signal: AbortSignal, onPart: (part: number) => void): Promise<void> {
    const { render, group } = ofSubject(subject);
    this.doing = { render, part: 0, frames: 0 };
    const work = join(this.settings.data, `parts-${this.id.slice(0, 8)}`);
    try {
      const order = await this.order(render);
      const parts = await this.missingOf(render, groupsOf(partsOfOrder(order))[group] ?? []);
      if (parts.length === 0) return;
      if (attempt > MOST_ATTEMPTS)
        throw new LurnError(
          'part-failed',
          `Frames ${parts[0].from} to ${parts[parts.length - 1].to} were begun ${MOST_ATTEMPTS} times and never finished. ${this.error ? `${this.settings.name} says: ${this.error}` : 'Each time the worker was lost.'}`,
        );
      const source = await this.source(render, order, signal);
      await rm(work, { recursive: true, force: true });
      await mkdir(work, { recursive: true });
      await this.draw({ render, order, parts, source, work }, signal, onPart);
      this.error = null;
    } catch (error) {
      if (signal.aborted) throw stoppedError('Rendering');
      await this.tellOf(render, error);
    } finally {
      this.doing = null;
      await rm(work, { recursive: true, force: true });
      void this.beat();
    }
  }

  /** Draws parts, and brings each as soon as it is finished. */
  private async draw(
    { render, order, parts, source, work }: Drawing,
    signal: AbortSignal,
    onPart: (part: number) => void,
  ): Promise<void> {
    const rasters = await LayerRasters.open(order.rasters, (hash) => this.asset(hash, signal));
    const format = formatById(order.format);
    const { info, times, from, to, delivery, scenes, crf, compare } = order;
    let brought: Promise<void> = Promise.resolve();
    // What a part has brought is seen on the server: from then on its frames are not this worker's to tell of.
    let gone = 0;
    await renderParts(
      {
        ...{ source, info, times, file: '', from, to, delivery, format, crf, compare, work, rasters, signal },
        scene: (frame) => scenes[frame - from],
        onPart: (part, state) => {
          if (state === 'begun') return;
          brought = brought.then(async () => {
            await this.bring(
              render,
              part.index,
              join(work, partName(part, format)),
              !!format.pictures,
              signal,
            );
            gone += part.to - part.from + 1;
            this.done++;
            this.settings.say?.(`${order.source.name}: frames ${part.from} to ${part.to}`);
          });
          brought.catch(() => undefined);
        },
        onProgress: (frames) => {
          onPart(frames);
          this.doing = { render, part: parts[0].index, frames: Math.max(0, frames - gone) };
        },
      },
      parts,
    ).finally(() => rasters.close());
    await brought;
  }

  private async missingOf(render: string, parts: readonly Part[]): Promise<Part[]> {
    const there = (await (await this.call(`/renders/${render}/parts`)).json()) as number[];
    return parts.filter((p) => !there.includes(p.index));
  }

  waiting(): Promise<void> {
    return Promise.resolve();
  }

  /** What the server is to know of a part that failed: what is the order's own fault ends it, the rest is tried again. */
  private async tellOf(render: string, error: unknown): Promise<void> {
    const known = toWire(error);
    this.error = known.message;
    this.settings.say?.(this.error);
    if (known.code === 'not-found') return; // the render was stopped, or is finished
    if (!(error instanceof LurnError) || AGAIN.includes(known.code)) throw error;
    await this.post(`/renders/${render}/failed`, known);
  }

  private order(render: string): Promise<PartOrder> {
    let order = this.rendered.get(render);
    if (!order) {
      order = this.call(`/renders/${render}`).then(async (r) =>
        unpackOrder(new Uint8Array(await r.arrayBuffer())),
      );
      this.rendered.clear();
      this.rendered.set(render, order);
      order.catch(() => this.rendered.delete(render));
    }
    return order;
  }

  /** The original: from the folder that is shared, from before, or from the server; it is what its hash says. */
  private async source(render: string, { source }: PartOrder, signal: AbortSignal): Promise<string> {
    const { sources } = this.settings;
    for (const name of sources ? [source.hash, source.name] : []) {
      const path = join(sources!, name);
      const size = await stat(path).then((s) => s.size, () => -1); // prettier-ignore
      if (size === source.bytes && (await hashOf(path)) === source.hash) return path;
    }
    const kept = join(this.settings.data, 'sources', source.hash);
    if (await this.isWhole(kept, source)) return kept;
    await this.makeRoom(source.bytes);
    return this.fetched(`/renders/${render}/source`, kept, source.hash, signal);
  }

  /** Files that are what their names say, as far as this worker has looked. */
  private readonly whole = new Set<string>();

  private async isWhole(kept: string, { hash, bytes }: PartOrder['source']): Promise<boolean> {
    const size = await stat(kept).then((s) => s.size, () => -1); // prettier-ignore
    if (size !== bytes) return false;
    if (!this.whole.has(kept) && (await hashOf(kept)) === hash) this.whole.add(kept);
    return this.whole.has(kept);
  }

  private async asset(hash: string, signal: AbortSignal): Promise<string | null> {
    if (!isHash(hash)) return null;
    const kept = join(this.settings.data, 'sources', hash);
    if (await stat(kept).catch(() => null)) return kept;
    return this.fetched(`/assets/${hash}`, kept, hash, signal);
  }

  /** The oldest originals go where all of them would be too large. */
  private async makeRoom(bytes: number): Promise<void> {
    const folder = join(this.settings.data, 'sources');
    const files = await Promise.all(
      (await readdir(folder)).map(async (name) => ({ name, ...(await stat(join(folder, name))) })),
    );
    files.sort((a, b) => a.atimeMs - b.atimeMs);
    let all = bytes + files.reduce((n, f) => n + f.size, 0);
    for (const { name, size } of files) {
      if (all <= KEPT_BYTES) return;
      await rm(join(folder, name), { force: true });
      all -= size;
    }
  }

  private async fetched(path: string, file: string, hash: string, signal: AbortSignal): Promise<string> {
    const coming = `${file}.${randomUUID().slice(0, 8)}.part`;
    try {
      const { body } = await this.call(path, { signal });
      await pipeline(Readable.fromWeb(body as never), createWriteStream(coming), { signal });
      if ((await hashOf(coming)) !== hash)
        throw new LurnError(
          'source-changed',
          'What the server sent is not the file that the render was ordered of.',
        );
      await rename(coming, file);
      return file;
    } finally {
      await rm(coming, { force: true });
    }
  }

  /** Brings a part to the server. */
  private async bring(render: string, index: number, path: string, folder: boolean, signal: AbortSignal) {
    const files = folder ? (await readdir(path)).sort().map((name) => join(path, name)) : [path];
    const at = `/renders/${render}/parts/${index}`;
    for (const file of files) {
      const { size } = await stat(file);
      await this.call(`${at}/${file.split(/[\\/]/).pop()!}`, {
        ...{ method: 'PUT', signal, duplex: 'half', body: Readable.toWeb(createReadStream(file)) as never },
        headers: { 'x-sha256': await hashOf(file), 'content-length': String(size) },
      } as RequestInit);
    }
    await this.call(at, { method: 'POST', signal });
  }

  private told(): Beat {
    const { id, doing, done, error } = this;
    return { id, name: this.settings.name, threads: availableParallelism(), doing, done, error };
  }

  private async beat(): Promise<void> {
    await this.post('/beat', this.told()).catch((error: Error) => {
      if (error instanceof LurnError && error.code !== 'offline') this.settings.say?.(error.message);
    });
  }

  private async post(path: string, body: object): Promise<void> {
    await this.call(path, {
      ...{ method: 'POST', body: JSON.stringify(body) },
      headers: { 'content-type': 'application/json' },
    });
  }

  private async call(path: string, init: RequestInit = {}): Promise<Response> {
    const { server, token, version = WORK_VERSION } = this.settings;
    const headers = {
      ...(init.headers as Record<string, string>),
      ...{ authorization: `Bearer ${token}`, 'x-lurn-work': version, 'x-lurn-worker': this.id.slice(0, 8) },
    };
    let response: Response;
    try {
      response = await fetch(`${server}${path}`, { ...init, headers });
    } catch (error) {
      if (init.signal?.aborted) throw stoppedError('Rendering');
      throw new LurnError('offline', `The server at ${server} does not answer: ${(error as Error).message}.`);
    }
    if (response.ok) return response;
    const told = (await response.json().catch(() => null)) as WireError | null;
    throw fromWire(told ?? { code: 'fault', message: `The server answered ${response.status}.` });
  }
}

/** What another try may mend. */
const AGAIN = [
  'offline',
  'fault',
  'part-broken',
  'disk-full',
  'stopped',
  'tool-crashed',
  'source-changed',
  'no-token',
];

async function hashOf(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}
