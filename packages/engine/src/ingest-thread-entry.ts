import { parentPort } from 'node:worker_threads';
import { toWire } from '@lurn/core';
import { ingestClip, type IngestRequest } from './ingest.js';
import { everyFrame } from './quirks.js';

/** The thread of {@link ingestInThread}: reads the clips it is asked for, and answers with progress and the outcome. */
parentPort!.on('message', (request: IngestRequest) => {
  ingestClip(request, undefined, (progress) => parentPort!.postMessage({ progress })).then(
    (clip) => parentPort!.postMessage({ clip }),
    (error: unknown) => parentPort!.postMessage({ error: toWire(error) }),
  );
});
// What has to be known of the tools is asked before the first clip comes.
everyFrame().catch(() => undefined);
