import { parentPort } from 'node:worker_threads';
import { toWire } from '@lurn/core';
import { ingestClip, type IngestRequest } from './ingest.js';
import type { RunningTool } from './tools.js';
import { everyFrame } from './quirks.js';

/** The thread of {@link ingestInThread}: reads the clips it is asked for, and answers with progress and the outcome. */
let tool: RunningTool | null = null;

parentPort!.on('message', (request: IngestRequest | { readonly hold: boolean }) => {
  if ('hold' in request) {
    tool?.hold(request.hold);
    return;
  }
  ingestClip(
    request,
    undefined,
    (progress) => parentPort!.postMessage({ progress }),
    (known) => parentPort!.postMessage({ known }),
    (started) => (tool = started),
  ).then(
    (clip) => parentPort!.postMessage({ clip }),
    (error: unknown) => parentPort!.postMessage({ error: toWire(error) }),
  );
});
// What has to be known of the tools is asked before the first clip comes.
everyFrame().catch(() => undefined);
