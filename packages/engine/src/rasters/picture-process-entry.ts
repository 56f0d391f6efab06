import { toWire } from '@lurn/core';
import { readPicture, readPictureFacts } from './picture-file.js';
import { TOO_LARGE, TOO_LONG, type PictureAnswer, type PictureJob } from './picture-process.js';

/** The process of {@link factsOfPicture} and {@link pictureOf}: it ends itself when a picture takes too much. */

/** Bytes that this process may hold: a hundred million pixels with what is needed to make them smaller. */
const MOST_BYTES = 1.6e9;
const LOOK_MS = 20;

/** Until when it may work on the picture, in milliseconds of its own processor time. */
let until = Infinity;

setInterval(() => {
  if (process.memoryUsage.rss() > MOST_BYTES) process.exit(TOO_LARGE);
  if (processorMs() > until) process.exit(TOO_LONG);
}, LOOK_MS);

function processorMs(): number {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1000;
}
// Whoever wanted a picture is gone.
process.on('disconnect', () => process.exit());

process.on('message', (job: PictureJob) => {
  until = processorMs() + job.longestMs;
  const work = job.name === null ? readPicture(job.path) : readPictureFacts(job.path, job.name);
  void work.finally(() => (until = Infinity)).catch(() => undefined);
  work.then(
    (value) => process.send!({ value } satisfies PictureAnswer),
    (error: unknown) => process.send!({ error: toWire(error) } satisfies PictureAnswer),
  );
});
