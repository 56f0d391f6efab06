import { Worker } from 'node:worker_threads';
import { fromWire, LurnError, type WireError } from '@lurn/core';
import { threadFile } from './threads.js';
import type { IngestedClip, IngestProgress, IngestRequest, KnownClip } from './ingest.js';

interface Answer {
  readonly progress?: IngestProgress;
  readonly known?: KnownClip;
  readonly read?: KnownClip;
  readonly clip?: IngestedClip;
  readonly error?: WireError;
}

/** A thread that waits for the next clip: starting one takes longer than reading a short clip. */
let waiting: Worker | null = null;

function start(): Worker {
  const worker = new Worker(threadFile(import.meta.url, './ingest-thread-entry'));
  const gone = () => {
    if (waiting === worker) waiting = null;
  };
  return worker.on('exit', gone).on('error', gone);
}

/** Has a thread ready before the first clip comes. */
export function readyToIngest(): void {
  waiting ??= start();
  waiting.unref();
}

/** A clip that is being read. */
export interface Ingest {
  readonly result: Promise<IngestedClip>;
  readonly stop: () => void;
  /** Lets it stand still, or go on. */
  readonly hold: (still: boolean) => void;
}

/** {@link ingestClip} in a thread of its own, so that whoever asks stays responsive. */
export function ingestInThread(
  request: IngestRequest,
  onProgress?: (progress: IngestProgress) => void,
  onKnown?: (clip: KnownClip) => void,
  onRead?: (clip: KnownClip) => void,
): Ingest {
  let worker: Worker;
  let stopped = false;
  /** Reads it in a thread; one that dies is replaced, and reading begun again, so many times. */
  const read = async (again: number): Promise<IngestedClip> => {
    worker = waiting ?? start();
    waiting = null;
    worker.ref();
    const answer = await new Promise<IngestedClip | 'died'>((resolve, reject) => {
      const own = worker;
      const answered = ({ progress, known, read, clip, error }: Answer) => {
        if (known) onKnown?.(known);
        if (read) onRead?.(read);
        if (progress) onProgress?.(progress);
        if (clip) resolve(clip);
        if (error) reject(fromWire(error));
        if (!clip && !error) return;
        own.off('message', answered).off('error', gone).off('exit', gone);
        layBy(own);
      };
      const gone = () => resolve('died');
      own.on('message', answered).on('error', gone).on('exit', gone);
      own.postMessage(request);
    });
    if (answer !== 'died') return answer;
    if (stopped) throw new LurnError('stopped', 'Reading the clip was stopped.');
    if (again > 0) return read(again - 1);
    throw new LurnError('thread-died', 'Reading the clip ended unexpectedly, twice. Bring it in again.');
  };
  return {
    result: read(1),
    stop: () => {
      stopped = true;
      void worker.terminate();
    },
    hold: (still) => worker.postMessage({ hold: still }),
  };
}

/** Puts a thread that is done by for the next clip. It does not keep the program from ending. */
function layBy(worker: Worker): void {
  if (waiting) {
    void worker.terminate();
    return;
  }
  waiting = worker;
  worker.unref();
}
