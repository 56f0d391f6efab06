import { parentPort, workerData } from 'node:worker_threads';
import { toWire } from '@lurn/core';
import { ingestClip, type IngestRequest } from './ingest.js';

/** The thread of {@link ingestInThread}: reads one clip and answers with progress and the outcome. */
ingestClip(workerData as IngestRequest, undefined, (progress) => parentPort!.postMessage({ progress })).then(
  (clip) => parentPort!.postMessage({ clip }),
  (error: unknown) => parentPort!.postMessage({ error: toWire(error) }),
);
