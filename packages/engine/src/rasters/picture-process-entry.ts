import { toWire } from '@lurn/core';
import { readPicture, readPictureFacts } from './picture-file.js';
import type { PictureAnswer, PictureJob } from './picture-process.js';

/** The process of {@link factsOfPicture} and {@link pictureOf}: it ends itself when a picture takes too much memory. */

/** Bytes that this process may hold: a hundred million pixels with what is needed to make them smaller. */
const MOST_BYTES = 1.6e9;
const LOOK_MS = 20;

setInterval(() => {
  if (process.memoryUsage.rss() > MOST_BYTES) process.exit(1);
}, LOOK_MS);
// Whoever wanted a picture is gone.
process.on('disconnect', () => process.exit());

process.on('message', (job: PictureJob) => {
  const work = job.name === null ? readPicture(job.path) : readPictureFacts(job.path, job.name);
  work.then(
    (value) => process.send!({ value } satisfies PictureAnswer),
    (error: unknown) => process.send!({ error: toWire(error) } satisfies PictureAnswer),
  );
});
