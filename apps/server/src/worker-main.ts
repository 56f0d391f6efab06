import { hostname } from 'node:os';
import { resolve } from 'node:path';
import { LurnError } from '@lurn/core';
import { JobRunner } from './jobs/runner.js';
import { prefixOf, RedisJobs } from './machines/redis-jobs.js';
import { PartWorker } from './machines/worker.js';

/** A worker: renders parts for a server on this or another machine, until it is stopped. */
const { LURN_QUEUE, LURN_SERVER, LURN_TOKEN, LURN_NAME, LURN_DATA, LURN_SOURCES, LURN_LEASE } = process.env;
for (const [name, value] of Object.entries({ LURN_QUEUE, LURN_SERVER, LURN_TOKEN }))
  if (!value) leave(`${name} is not set. A worker needs LURN_QUEUE (redis://...), LURN_SERVER (http://host:4781) and LURN_TOKEN; the server prints the last two when it starts.`); // prettier-ignore

const worker = new PartWorker({
  server: LURN_SERVER!.replace(/\/$/, ''),
  token: LURN_TOKEN!,
  name: LURN_NAME ?? hostname(),
  data: resolve(LURN_DATA ?? 'worker-data'),
  sources: LURN_SOURCES ? resolve(LURN_SOURCES) : null,
  say: (line) => process.stdout.write(`${line}\n`),
});
await begun();
const jobs = new RedisJobs(LURN_QUEUE!, prefixOf(LURN_TOKEN!));
const runner = new JobRunner(jobs, { leaseMs: Number(LURN_LEASE ?? 30) * 1000, lookMs: 500 });
runner.handle('part', worker);
runner.look();
process.stdout.write(`${LURN_NAME ?? hostname()} renders parts for ${LURN_SERVER} (Ctrl-C stops it)\n`);

/** A server that does not answer yet is waited for; one that does not want this worker is told of. */
async function begun(): Promise<void> {
  for (let told = false; ; told = true) {
    try {
      return await worker.begin();
    } catch (error) {
      if (!(error instanceof LurnError)) throw error;
      if (error.code !== 'offline') leave(error.message);
      if (!told) process.stdout.write(`${error.message} It is tried again.\n`);
      await new Promise((r) => setTimeout(r, 2_000));
    }
  }
}

function leave(message: string): never {
  process.stderr.write(`${message}\n`);
  process.exit(1);
}

for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () => {
    void (async () => {
      await runner.beforeApplicationShutdown();
      await worker.end();
      await jobs.close();
      process.exit(0);
    })();
  });
