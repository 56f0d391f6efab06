import { parentPort } from 'node:worker_threads';
import { toWire } from '@lurn/core';
import { Gate } from './gate.js';
import { ingestClip, type IngestRequest } from './ingest.js';
import { everyFrame } from './quirks.js';

/** Of the clip that is being read. */
let gate = new Gate();

/** The thread of {@link ingestInThread}: reads the clips it is asked for, and answers with progress and the outcome. */
parentPort!.on('message', (request: IngestRequest | { readonly hold: boolean }) => {
  if ('hold' in request) {
    gate.hold(request.hold);
    return;
  }
  gate = new Gate();
  ingestClip(
    request,
    undefined,
    (progress) => parentPort!.postMessage({ progress }),
    (known) => parentPort!.postMessage({ known }),
    gate,
    (read) => parentPort!.postMessage({ read }),
  ).then(
    (clip) => parentPort!.postMessage({ clip }),
    (error: unknown) => parentPort!.postMessage({ error: toWire(error) }),
  );
});
// What has to be known of the tools is asked before the first clip comes.
everyFrame().catch(() => undefined);
