import { parentPort } from 'node:worker_threads';
import { toWire } from '@lurn/core';
import { analyseClip, type AnalyseRequest } from './analyse.js';
import { giveWay } from './threads.js';

/** The thread of {@link analyseInThread}. */
giveWay();
parentPort!.on('message', (request: AnalyseRequest) => {
  analyseClip(request, (frames) => parentPort!.postMessage({ frames })).then(
    (looked) => parentPort!.postMessage({ looked }),
    (error: unknown) => parentPort!.postMessage({ error: toWire(error) }),
  );
});
