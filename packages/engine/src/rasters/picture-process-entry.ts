import { toWire } from '@lurn/core';
import { readPicture, readPictureFacts } from './picture-file.js';
import type { PictureAnswer, PictureJob } from './picture-process.js';

/** The process of {@link factsOfPicture} and {@link pictureOf}: it says so when a picture takes too much. */

/** Bytes that this process may hold: a hundred million pixels with what is needed to make them smaller. */
const MOST_BYTES = 1.6e9;
const LOOK_MS = 20;

/** Until when it may work on the picture, in milliseconds of its own processor time. */
let until = Infinity;

setInterval(() => {
  if (until === Infinity) return;
  if (process.memoryUsage.rss() > MOST_BYTES) answer({ takes: 'too much memory' });
  else if (processorMs() > until) answer({ takes: 'too long' });
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
  work.then(
    (value) => answer({ value }),
    (error: unknown) => answer({ error: toWire(error) }),
  );
});

function answer(answer: PictureAnswer): void {
  until = Infinity;
  process.send!(answer);
}
