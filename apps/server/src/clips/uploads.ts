import { readdir, readFile, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import { LurnError } from '@lurn/core';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import type { Request, Response } from 'express';
import { demandRoom, fullDisk, isFullDisk } from '../common/full-disk.js';
import { ownOrigins } from '../common/own-origin.js';
import { Settings } from '../common/settings.js';
import { Assets } from '../assets/assets.js';
import { Clips } from './clips.js';

/** The largest file that is taken, in bytes. */
const LARGEST = 50e9;
/** An upload that was not gone on with for this long is given up. */
const KEEP_MS = 7 * 24 * 3600 * 1000;

/** Resumable uploads (tus 1.0) at /api/uploads; a finished one becomes a clip, or the file of a layer. */
@Injectable()
export class Uploads implements OnApplicationBootstrap {
  private readonly log = new Logger('Uploads');
  private readonly tus: Server;

  constructor(
    private readonly settings: Settings,
    private readonly clips: Clips,
    assets: Assets,
  ) {
    this.tus = new Server({
      path: '/api/uploads',
      allowedOrigins: ownOrigins(settings.port),
      datastore: new FileStore({ directory: settings.uploads, expirationPeriodInMilliseconds: KEEP_MS }),
      maxSize: LARGEST,
      respectForwardedHeaders: false,
      onUploadCreate: async (_request, upload) => {
        if (upload.size === 0)
          throw refusal(
            400,
            'empty-file',
            `"${upload.metadata?.filename ?? 'The file'}" is empty (0 bytes).`,
          );
        await demandRoom(settings.uploads, upload.size ?? 0, upload.metadata?.filename ?? 'The file').catch(
          (error: LurnError) => {
            throw refusal(507, error.code, error.message);
          },
        );
        return {};
      },
      onUploadFinish: async (_request, upload) => {
        const path = join(settings.uploads, upload.id);
        try {
          const name = upload.metadata?.filename ?? 'clip';
          const taken = isAsset(upload) ? await assets.take(path, name) : await this.takeClip(path, name);
          await rm(`${path}.json`, { force: true });
          return {
            status_code: 200,
            headers: { 'Content-Type': 'application/json' },
            body: JSON.stringify(taken),
          };
        } catch (error) {
          if (isFullDisk(error)) throw refusal(507, 'disk-full', fullDisk().message);
          const known =
            error instanceof LurnError ? error : new LurnError('fault', 'The file could not be taken over.');
          throw refusal(known.code === 'fault' ? 500 : 400, known.code, known.message);
        }
      },
      onResponseError: async (request, error) => {
        if (!isFullDisk(error)) return undefined;
        // What there is no room for takes none of what saving needs.
        await this.drop(new URL(request.url).pathname.split('/').pop() ?? '');
        return refusal(507, 'disk-full', fullDisk().message);
      },
    });
  }

  /** Takes over what had arrived whole when the server ended, and sweeps what was given up. */
  async onApplicationBootstrap(): Promise<void> {
    const { uploads } = this.settings;
    const names = await readdir(uploads);
    for (const name of names) {
      const path = join(uploads, name);
      try {
        if (name.endsWith('.json')) {
          if (!names.includes(name.slice(0, -5))) await rm(path, { force: true });
        } else await this.takeOver(path, names.includes(`${name}.json`));
      } catch (error) {
        this.log.error(error);
      }
    }
  }

  /** Removes what has come of an upload. */
  private async drop(id: string): Promise<void> {
    if (!/^[\w-]+$/.test(id)) return;
    for (const ending of ['', '.json'])
      await rm(join(this.settings.uploads, id + ending), { force: true }).catch(() => undefined);
  }

  private async takeClip(path: string, filename: string) {
    const { row, duplicate } = await this.clips.take(path, filename);
    return { id: row.id, name: row.name, duplicate };
  }

  private async takeOver(path: string, told: boolean): Promise<void> {
    const { size, mtimeMs } = await stat(path);
    if (told) {
      const upload = JSON.parse(await readFile(`${path}.json`, 'utf8')) as {
        size?: number;
        metadata?: Record<string, string | null>;
      };
      if (upload.size === size && size > 0) {
        // Whoever brought a graphic in never heard of it, and does so again.
        if (isAsset(upload)) await rm(path, { force: true });
        else await this.clips.take(path, upload.metadata?.filename ?? 'clip');
        await rm(`${path}.json`, { force: true });
        return;
      }
      if (Date.now() - mtimeMs < KEEP_MS && size > 0) return;
    }
    await rm(path, { force: true });
    await rm(`${path}.json`, { force: true });
  }

  handle(request: Request, response: Response): void {
    void this.tus.handle(request, response);
  }
}

/** True for the file of a layer; others are clips. */
const isAsset = ({ metadata }: { readonly metadata?: Record<string, string | null> }) =>
  metadata?.for === 'layer';

function refusal(status_code: number, code: string, message: string): { status_code: number; body: string } {
  return { status_code, body: JSON.stringify({ code, message }) };
}
