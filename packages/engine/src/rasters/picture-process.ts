import { fork, type ChildProcess } from 'node:child_process';
import { fromWire, LurnError, type Raster, type WireError } from '@lurn/core';
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

/** What the process ends with when a picture takes too much. */
export const TOO_LONG = 71;
export const TOO_LARGE = 72;

export type PictureAnswer = { readonly value: PictureFacts | Raster } | { readonly error: WireError };

/** How long the process is kept for a next picture, in milliseconds. */
const KEPT_MS = 10_000;

/**
 * The longest that reading one picture may take, in milliseconds of processor time, for on a busy machine every picture
 * takes its time; tests are in a hurry.
 */
export const pictureLimits = { longestMs: 8000 };
/** So many times as long the process is waited for. */
const PATIENCE = 10;

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

async function read(job: PictureJob): Promise<PictureFacts | Raster> {
  clearTimeout(idle);
  const process = (child ??= begun());
  process.ref();
  const answer = await new Promise<PictureAnswer>((resolve, reject) => {
    const tooLong = () => tooHeavy(job, `takes longer than ${job.longestMs / 1000} s to draw`);
    const timer = setTimeout(() => {
      process.kill('SIGKILL');
      reject(tooLong());
    }, PATIENCE * job.longestMs);
    process.removeAllListeners();
    process.once('message', (message) => {
      clearTimeout(timer);
      resolve(message as PictureAnswer);
    });
    process.once('error', (error) => reject(error));
    process.once('exit', (code) => {
      clearTimeout(timer);
      if (code === TOO_LONG) reject(tooLong());
      // The system ends what takes all memory, too.
      else if (code === TOO_LARGE || code === null)
        reject(tooHeavy(job, 'takes more memory to draw than it may'));
      else reject(tooHeavy(job, 'cannot be drawn: the program that reads it failed'));
    });
    process.send(job);
  }).catch((error: unknown) => {
    child = null;
    throw error;
  });
  process.unref();
  process.channel?.unref();
  idle = setTimeout(leave, KEPT_MS);
  idle.unref();
  if ('error' in answer) throw fromWire(answer.error);
  return answer.value;
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
