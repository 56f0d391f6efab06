import { fork, type ChildProcess } from 'node:child_process';
import { fromWire, LurnError, type WireError } from '@lurn/core';
import type { Raster } from '@lurn/core/compose';
import { threadFile } from '../threads.js';
import type { PictureFacts } from './picture-file.js';

/**
 * Pictures that people bring are read in a process of its own, one after the other. A drawing can be made so that it
 * takes minutes, or all memory there is; such a one is ended, and nothing else waits for it or falls with it.
 */

/** @param name  what the person calls it; null where its samples are wanted */
export interface PictureJob {
  readonly path: string;
  readonly name: string | null;
  /** The longest that reading it may take, in milliseconds of processor time. */
  readonly longestMs: number;
}

/** `takes`: more than it may; the process cannot end by itself while the picture is drawn, and is ended. */
export type PictureAnswer =
  | { readonly value: PictureFacts | Raster }
  | { readonly error: WireError }
  | { readonly takes: 'too long' | 'too much memory' };

/** How long the process is kept for a next picture, in milliseconds. */
const KEPT_MS = 10_000;

/**
 * The longest that reading one picture may take, in milliseconds of processor time, for on a busy machine every picture
 * takes its time; so many times as long the process is waited for. Tests are in a hurry.
 */
export const pictureLimits = { longestMs: 8000, patience: 10 };

const TAKES = {
  'too long': (ms: number) => `takes longer than ${ms / 1000} s to draw`,
  'too much memory': () => 'takes more memory to draw than it may',
};

let child: ChildProcess | null = null;
let idle: ReturnType<typeof setTimeout> | undefined;
let last: Promise<unknown> = Promise.resolve();

/** What is known of a picture file. @throws LurnError `bad-picture`, `too-large`, `too-heavy` */
export function factsOfPicture(path: string, name: string): Promise<PictureFacts> {
  return inTurn({ path, name, longestMs: pictureLimits.longestMs }) as Promise<PictureFacts>;
}

/** The picture of a file as a raster. @throws LurnError `bad-picture`, `too-heavy` */
export function pictureOf(path: string): Promise<Raster> {
  return inTurn({ path, name: null, longestMs: pictureLimits.longestMs }) as Promise<Raster>;
}

function inTurn(job: PictureJob): Promise<PictureFacts | Raster> {
  const turn = last.then(() => read(job));
  last = turn.catch(() => undefined);
  return turn;
}

function read(job: PictureJob): Promise<PictureFacts | Raster> {
  clearTimeout(idle);
  const process = (child ??= begun());
  process.ref();
  return new Promise<PictureFacts | Raster>((resolve, reject) => {
    const lost = (error: Error) => {
      child = null;
      reject(error);
    };
    const take = (answer: PictureAnswer) => {
      if ('value' in answer) resolve(answer.value);
      else if ('error' in answer) reject(fromWire(answer.error));
      else {
        process.kill('SIGKILL');
        lost(tooHeavy(job, TAKES[answer.takes](job.longestMs)));
      }
    };
    const waited = setTimeout(() => take({ takes: 'too long' }), pictureLimits.patience * job.longestMs);
    process.removeAllListeners();
    process.once('message', (message) => {
      clearTimeout(waited);
      take(message as PictureAnswer);
    });
    process.once('error', lost);
    process.once('exit', (code) => {
      clearTimeout(waited);
      // The system ends what takes all memory.
      const why =
        code === null ? TAKES['too much memory']() : 'cannot be drawn: the program that reads it failed';
      lost(tooHeavy(job, why));
    });
    process.send(job);
  }).finally(() => {
    process.unref();
    process.channel?.unref();
    idle = setTimeout(leave, KEPT_MS);
    idle.unref();
  });
}

function begun(): ChildProcess {
  return fork(threadFile(import.meta.url, './picture-process-entry'), {
    // Samples come as the bytes that they are.
    serialization: 'advanced',
    execArgv: [],
  });
}

function leave(): void {
  child?.disconnect();
  child = null;
}

function tooHeavy({ name }: PictureJob, what: string): LurnError {
  const which = name === null ? 'A graphic' : `"${name}"`;
  return new LurnError(
    'too-heavy',
    `${which} ${what}. Make it simpler, or bring it in as a PNG of the size that is needed.`,
  );
}
