import { Worker } from 'node:worker_threads';
import { fromWire, LurnError, type WireError } from '@lurn/core';
import { threadFile } from './threads.js';
import type { IngestedClip, IngestProgress, IngestRequest, KnownClip } from './ingest.js';

interface Answer {
  readonly progress?: IngestProgress;
  readonly known?: KnownClip;
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
): Ingest {
  const worker = waiting ?? start();
  waiting = null;
  worker.ref();
  const result = new Promise<IngestedClip>((resolve, reject) => {
    const answered = ({ progress, known, clip, error }: Answer) => {
      if (known) onKnown?.(known);
      if (progress) onProgress?.(progress);
      if (clip) resolve(clip);
      if (error) reject(fromWire(error));
      if (!clip && !error) return;
      worker.off('message', answered).off('error', reject).off('exit', gone);
      layBy(worker);
    };
    const gone = () => reject(new LurnError('stopped', 'Reading the clip was stopped.'));
    worker.on('message', answered).on('error', reject).on('exit', gone);
    worker.postMessage(request);
  });
  return {
    result,
    stop: () => void worker.terminate(),
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
