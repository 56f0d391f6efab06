import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable } from '@nestjs/common';
import { LurnError } from '@lurn/core';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import type { Request, Response } from 'express';
import { Settings } from '../common/settings.js';
import { Clips } from './clips.js';

/** The largest file that is taken, in bytes. */
const LARGEST = 50e9;

/** Resumable uploads (tus 1.0) at /api/uploads; a finished one becomes a clip. */
@Injectable()
export class Uploads {
  private readonly tus: Server;

  constructor(settings: Settings, clips: Clips) {
    this.tus = new Server({
      path: '/api/uploads',
      datastore: new FileStore({ directory: settings.uploads }),
      maxSize: LARGEST,
      respectForwardedHeaders: false,
      onUploadCreate: async (_request, upload) => {
        if (upload.size === 0)
          throw refusal(
            400,
            'empty-file',
            `"${upload.metadata?.filename ?? 'The file'}" is empty (0 bytes).`,
          );
        return {};
      },
      onUploadFinish: async (_request, upload) => {
        const path = join(settings.uploads, upload.id);
        try {
          const { row, duplicate } = await clips.take(path, upload.metadata?.filename ?? 'clip');
          await rm(`${path}.json`, { force: true });
          return {
            status_code: 200,
            headers: { 'Content-Type': 'application/json' },
            body: JSON.stringify({ id: row.id, name: row.name, duplicate }),
          };
        } catch (error) {
          const known =
            error instanceof LurnError ? error : new LurnError('fault', 'The file could not be taken over.');
          throw refusal(500, known.code, known.message);
        }
      },
      onResponseError: (_request, error) => {
        const full = (error as NodeJS.ErrnoException).code === 'ENOSPC';
        if (full)
          return refusal(
            507,
            'disk-full',
            'The disk is full. Free some space; the upload then goes on by itself.',
          );
        return undefined;
      },
    });
  }

  handle(request: Request, response: Response): void {
    void this.tus.handle(request, response);
  }
}

function refusal(status_code: number, code: string, message: string): { status_code: number; body: string } {
  return { status_code, body: JSON.stringify({ code, message }) };
}
