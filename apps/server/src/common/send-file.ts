import { stat } from 'node:fs/promises';
import { LurnError } from '@lurn/core';
import type { Response } from 'express';

/**
 * Answers with a file, or the range of it that is asked for; past its end that is 416.
 *
 * @throws LurnError `missing-file` when it is not on the disk
 */
export async function sendFile(
  response: Response,
  path: string,
  name: string,
  headers: Readonly<Record<string, string>> = {},
): Promise<void> {
  await new Promise<void>((resolve, reject) => {
    response.sendFile(
      path,
      { headers, dotfiles: 'allow' },
      (error?: Error & { status?: number; code?: string }) => {
        if (!error) return resolve();
        // Whoever asked is gone, or has all that it wanted.
        if (error.code === 'ECONNABORTED' || error.code === 'EPIPE' || response.headersSent) return resolve();
        if (error.status === 416) {
          stat(path).then(({ size }) => {
            response
              .status(416)
              .type('json')
              .setHeader('Cache-Control', 'no-store')
              .setHeader('Content-Range', `bytes */${size}`)
              .json({
                code: 'bad-range',
                message: `The file has ${size} bytes; the range that was asked for lies past its end.`,
              });
            resolve();
          }, reject);
          return;
        }
        reject(error.status === 404 || error.code === 'ENOENT' ? missingFile(name) : error);
      },
    );
  });
}

export function missingFile(name: string): LurnError {
  return new LurnError(
    'missing-file',
    `The file of "${name}" is not on disk any more. Bring the clip in again.`,
  );
}
