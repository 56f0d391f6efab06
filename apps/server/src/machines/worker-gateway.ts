import { createHash, timingSafeEqual } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, readdir, rename, rm } from 'node:fs/promises';
import type { Server } from 'node:http';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Injectable, Logger, type OnModuleDestroy } from '@nestjs/common';
import { LurnError, toWire, type WireError } from '@lurn/core';
import { demandPart, formatById, partName } from '@lurn/engine';
import express, { type NextFunction, type Request, type Response } from 'express';
import { Assets } from '../assets/assets.js';
import { isFullDisk } from '../common/full-disk.js';
import { Settings } from '../common/settings.js';
import { packOrder, partsOfOrder, WORK_VERSION, type PartOrder } from './part-order.js';
import { Workers, type Beat } from './workers.js';

/** A render whose parts are given away. */
export interface Offer {
  readonly order: PartOrder;
  /** The original on this machine. */
  readonly source: string;
  /** The folder that its parts are put in. */
  readonly work: string;
  readonly onPart: () => void;
  readonly onFailed: (error: WireError) => void;
}

/** The longest body of a few words. */
const WORDS = '10kb';

/**
 * Where workers of other machines come in: a listener of its own, that gives them what they need for the parts of a render
 * and takes the parts in, and nothing else. Whoever does not bring the token is sent away.
 */
@Injectable()
export class WorkerGateway implements OnModuleDestroy {
  private readonly log = new Logger('Workers');
  private readonly offers = new Map<string, Offer & { readonly packed: Buffer }>();
  private server: Server | null = null;

  constructor(
    private readonly settings: Settings,
    private readonly assets: Assets,
    private readonly workers: Workers,
  ) {}

  offer(render: string, offer: Offer): void {
    this.offers.set(render, { ...offer, packed: packOrder(offer.order) });
  }

  withdraw(render: string): void {
    this.offers.delete(render);
  }

  /** @returns the port that it listens at */
  async open(token: string): Promise<number> {
    const { host, port } = this.settings.work;
    const app = this.routes(token);
    await new Promise<void>((resolve, reject) => {
      this.server = app.listen(port, host, (error?: Error) => (error ? reject(error) : resolve()));
    });
    const address = this.server!.address();
    return typeof address === 'object' && address ? address.port : port;
  }

  onModuleDestroy(): void {
    this.server?.close();
    this.server?.closeAllConnections();
  }

  private routes(token: string): express.Express {
    const app = express();
    app.disable('x-powered-by');
    app.use((request, response, next) => this.admit(request, response, next, token));
    app.post('/beat', express.json({ limit: WORDS }), (request, response) => {
      this.workers.heard(beatOf(request.body));
      response.status(204).end();
    });
    app.post('/left', express.json({ limit: WORDS }), (request, response) => {
      this.workers.left(beatOf(request.body).id);
      response.status(204).end();
    });
    app.get('/renders/:id', (request, response) => {
      response.type('application/octet-stream').send(this.offered(request).packed);
    });
    app.get('/renders/:id/parts', async (request, response) => {
      const { work, order } = this.offered(request);
      const there = new Set(await readdir(work));
      const parts = partsOfOrder(order).filter((p) => there.has(partName(p, formatById(order.format))));
      response.json(parts.map((p) => p.index));
    });
    app.get('/renders/:id/source', (request, response) => {
      response.sendFile(this.offered(request).source, { dotfiles: 'allow', acceptRanges: true });
    });
    app.get('/assets/:hash', async (request, response) => {
      const path = await this.assets.path(String(request.params.hash));
      if (path) response.sendFile(path, { dotfiles: 'allow' });
      else response.status(404).json({ code: 'not-found', message: 'There is no such file of a layer.' });
    });
    app.put('/renders/:id/parts/:index/:file', (request, response) => this.take(request, response));
    app.post('/renders/:id/parts/:index', async (request, response) => {
      await this.finish(request);
      response.status(204).end();
    });
    app.post('/renders/:id/failed', express.json({ limit: WORDS }), (request, response) => {
      const { code, message } = request.body as Record<string, unknown>;
      this.offered(request).onFailed({
        code: String(code).slice(0, 100),
        message: String(message).slice(0, 1000),
      });
      response.status(204).end();
    });
    app.use((error: unknown, _request: Request, response: Response, next: NextFunction) => {
      if (response.headersSent) return next(error);
      if (isFullDisk(error)) return void response.status(507).json({ code: 'disk-full', message: 'The disk of the server is full.' }); // prettier-ignore
      const known = error instanceof LurnError;
      if (!known) this.log.error(error);
      response
        .status(known ? (error.code === 'not-found' ? 404 : 400) : 500)
        .json(known ? toWire(error) : { code: 'fault', message: 'The server met a fault.' });
    });
    return app;
  }

  private admit(request: Request, response: Response, next: NextFunction, token: string): void {
    const digest = (text: string) => createHash('sha256').update(text).digest();
    const brought = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? '';
    if (!timingSafeEqual(digest(brought), digest(token))) {
      response.status(401).json({ code: 'no-token', message: 'The token is not the one of this server.' });
      return;
    }
    const version = request.headers['x-lurn-work'];
    if (version !== WORK_VERSION) {
      const message = `This server works with version ${WORK_VERSION} of the parts, the worker with ${String(version)}. Install the same Lurn on both.`;
      response.status(409).json({ code: 'other-version', message });
      return;
    }
    next();
  }

  private offered({ params }: Request): Offer & { readonly packed: Buffer } {
    const offer = this.offers.get(String(params.id));
    if (!offer)
      throw new LurnError('not-found', 'This render needs no parts: it is finished, or was stopped.');
    return offer;
  }

  /** The part that a request is about, and where what comes of it is put by this worker. */
  private coming(request: Request) {
    const offer = this.offered(request);
    const part = partsOfOrder(offer.order).find((p) => p.index === Number(request.params.index));
    if (!part) throw new LurnError('not-found', 'This render has no such part.');
    const worker = String(request.headers['x-lurn-worker'] ?? '').slice(0, 8);
    if (!/^[0-9a-f]{8}$/.test(worker)) throw new LurnError('not-found', 'A worker says who it is.');
    const name = partName(part, formatById(offer.order.format));
    return { offer, part, name, folder: join(offer.work, `.${name}.${worker}.part`) };
  }

  private async take(request: Request, response: Response): Promise<void> {
    const { folder } = this.coming(request);
    const file = String(request.params.file);
    if (!/^\w[\w.-]{0,100}$/.test(file)) throw new LurnError('not-found', 'That is no name of a part.');
    await mkdir(folder, { recursive: true });
    const hash = createHash('sha256');
    const path = join(folder, file);
    try {
      await pipeline(
        request,
        async function* (source) {
          for await (const chunk of source as AsyncIterable<Buffer>) {
            hash.update(chunk);
            yield chunk;
          }
        },
        createWriteStream(path),
      );
    } catch (error) {
      await rm(path, { force: true });
      throw error;
    }
    if (hash.digest('hex') !== request.headers['x-sha256']) {
      await rm(path, { force: true });
      response.status(422).json({ code: 'part-broken', message: 'The part did not arrive as it was sent.' });
      return;
    }
    response.status(204).end();
  }

  /** Puts a part that has come whole into its place; one that is there already stays: it is the same. */
  private async finish(request: Request): Promise<void> {
    const { offer, part, name, folder } = this.coming(request);
    const format = formatById(offer.order.format);
    const brought = format.pictures ? folder : join(folder, name);
    try {
      const there = (await readdir(offer.work)).includes(name);
      if (!there) {
        await demandPart(brought, part, { ...offer.order, format });
        await rename(brought, join(offer.work, name));
      }
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
    offer.onPart();
  }
}

function beatOf(body: unknown): Beat {
  const { id, name, threads, doing, done, error } = (body ?? {}) as Partial<Beat>;
  return {
    id: String(id).slice(0, 60),
    name: String(name).slice(0, 60),
    threads: Number(threads) || 0,
    doing: doing
      ? { render: String(doing.render), part: Number(doing.part) || 0, frames: Number(doing.frames) || 0 }
      : null,
    done: Number(done) || 0,
    error: error ? String(error).slice(0, 500) : null,
  };
}
