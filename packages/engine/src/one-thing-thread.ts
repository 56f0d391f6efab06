import { parentPort, Worker } from 'node:worker_threads';
import { fromWire, LurnError, stoppedError, toWire, type WireError } from '@lurn/core';

/** Threads that do one thing and tell how far it has come, each for one request. */

interface Answer {
  readonly done?: number;
  readonly value?: unknown;
  readonly error?: WireError;
}

export interface ThreadWork {
  /** Its file ({@link threadFile}). */
  readonly thread: string;
  /** Can be cloned. */
  readonly request: unknown;
  /** What it does, at the beginning of a sentence. */
  readonly doing: string;
  /** Ends the thread. */
  readonly signal: AbortSignal;
  readonly onProgress?: (done: number) => void;
}

/** Runs a thread that {@link serveThread} answers in. @throws LurnError `stopped`, `thread-died`, and what its work throws */
export function runInThread<T>({ thread, request, doing, signal, onProgress }: ThreadWork): Promise<T> {
  if (signal.aborted) return Promise.reject(stoppedError(doing));
  const worker = new Worker(thread);
  const answer = new Promise<T>((resolve, reject) => {
    signal.addEventListener('abort', () => reject(stoppedError(doing)), { once: true });
    const gone = () => reject(new LurnError('thread-died', `${doing} ended unexpectedly.`));
    worker.on('error', gone).on('exit', gone);
    worker.on('message', ({ done, value, error }: Answer) => {
      if (done !== undefined) onProgress?.(done);
      else if (error) reject(fromWire(error));
      else resolve(value as T);
    });
    worker.postMessage(request);
  });
  return answer.finally(() => void worker.terminate());
}

/** What the thread itself calls. */
export function serveThread<R>(
  work: (request: R, onProgress: (done: number) => void) => Promise<unknown>,
): void {
  const post = (answer: Answer) => parentPort!.postMessage(answer);
  parentPort!.on('message', (request: R) => {
    work(request, (done) => post({ done })).then(
      (value) => post({ value }),
      (error: unknown) => post({ error: toWire(error) }),
    );
  });
}
