import { parentPort } from 'node:worker_threads';
import { warpPicture, type WarpJob } from './warp-job.js';

/** A worker thread of {@link WarpPool}: warps one picture a message and answers with its number. */
parentPort!.on('message', (job: WarpJob) => {
  warpPicture(job);
  parentPort!.postMessage(job.id);
});
