import { Worker } from 'node:worker_threads';
import { fromWire, LurnError, type WireError } from '@lurn/core';
import { threadFile } from './threads.js';
import type { IngestedClip, IngestProgress, IngestRequest } from './ingest.js';

interface Answer {
  readonly progress?: IngestProgress;
  readonly clip?: IngestedClip;
  readonly error?: WireError;
}

/** {@link ingestClip} in a thread of its own, so that whoever asks stays responsive. */
export function ingestInThread(
  request: IngestRequest,
  onProgress?: (progress: IngestProgress) => void,
): { readonly result: Promise<IngestedClip>; readonly stop: () => void } {
  const worker = new Worker(threadFile(import.meta.url, './ingest-thread-entry'), { workerData: request });
  const result = new Promise<IngestedClip>((resolve, reject) => {
    worker.on('message', ({ progress, clip, error }: Answer) => {
      if (progress) onProgress?.(progress);
      if (clip) resolve(clip);
      if (error) reject(fromWire(error));
    });
    worker.on('error', reject);
    worker.on('exit', () => reject(new LurnError('stopped', 'Reading the clip was stopped.')));
  });
  return { result, stop: () => void worker.terminate() };
}
