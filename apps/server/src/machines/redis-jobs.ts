import { createHash } from 'node:crypto';
import { Queue, Worker, type Job as QueuedJob } from 'bullmq';
import { Redis } from 'ioredis';
import type { JobKind } from '../database/schema.js';
import { JobStore, type Job } from '../jobs/job-store.js';

/** How often it is looked for jobs whose worker is silent. */
const STALLED_MS = 5_000;
/** A job that its workers were lost with so often is looked at by a person; who claims it decides sooner. */
const MOST_STALLS = 1_000;

interface Told {
  readonly subject: string;
}

/** Servers that share a Redis do not see each other's jobs: a server and its workers find theirs by their token. */
export function prefixOf(token: string): string {
  return `lurn-${createHash('sha256').update(token).digest('hex').slice(0, 12)}`;
}

/** Jobs in Redis, for several machines: one BullMQ queue a kind. What Redis cannot take at the moment waits for it. */
export class RedisJobs extends JobStore {
  private readonly connection: Redis;
  private readonly queues = new Map<JobKind, Queue<Told>>();
  private readonly workers = new Map<JobKind, Worker<Told>>();
  private readonly held = new Map<string, QueuedJob<Told>>();

  /** @param prefix  of all keys, {@link prefixOf} a server's token */
  constructor(
    url: string,
    private readonly prefix: string,
  ) {
    super();
    this.connection = new Redis(url, { maxRetriesPerRequest: null });
    // It is tried again for as long as it takes; `away` says so meanwhile.
    this.connection.on('error', () => undefined);
  }

  /** True while Redis does not answer. */
  get away(): boolean {
    return this.connection.status !== 'ready';
  }

  async add(kind: JobKind, subject: string): Promise<void> {
    const options = { jobId: subject, removeOnComplete: true, removeOnFail: true };
    await this.queue(kind).add(kind, { subject }, options);
  }

  async claim(kind: JobKind, worker: string, leaseMs: number): Promise<Job | null> {
    const job = (await this.worker(kind, leaseMs).getNextJob(worker, { block: false })) as
      | QueuedJob<Told>
      | undefined;
    if (!job?.id) return null;
    this.held.set(job.id, job);
    return { id: job.id, kind, subject: job.data.subject, attempt: Math.max(1, job.attemptsStarted) };
  }

  async beat(job: Job, worker: string, leaseMs: number): Promise<boolean> {
    const held = await this.held
      .get(job.id)
      ?.extendLock(worker, leaseMs)
      .catch((error: Error) => {
        // The lock is another's, or gone; that Redis does not answer says nothing of it.
        if (/lock/i.test(error.message)) return 0;
        throw error;
      });
    return !!held;
  }

  async end(job: Job): Promise<void> {
    const held = this.held.get(job.id);
    this.held.delete(job.id);
    // Whose lock has run out has been given to another, who ends it.
    await held?.moveToCompleted(undefined as never, held.token!, false).catch(lost);
  }

  async release(job: Job, afterMs: number): Promise<void> {
    const held = this.held.get(job.id);
    this.held.delete(job.id);
    await held?.moveToDelayed(Date.now() + afterMs, held.token).catch(lost);
  }

  async cancel(subject: string): Promise<boolean> {
    let any = false;
    for (const queue of this.queues.values()) any = (await queue.remove(subject)) > 0 || any;
    return any;
  }

  arrange(): Promise<void> {
    return Promise.resolve();
  }

  /** What a worker left that is gone waits again when its lease has run out: others may well be at work. */
  recover(): Promise<void> {
    return Promise.resolve();
  }

  async close(): Promise<void> {
    const all = [...this.workers.values(), ...this.queues.values()];
    await Promise.all(all.map((one) => one.close().catch(() => undefined)));
    this.connection.disconnect();
  }

  private queue(kind: JobKind): Queue<Told> {
    let queue = this.queues.get(kind);
    if (!queue) {
      queue = new Queue<Told>(kind, { connection: this.connection, prefix: this.prefix });
      queue.on('error', () => undefined);
      this.queues.set(kind, queue);
    }
    return queue;
  }

  private worker(kind: JobKind, leaseMs: number): Worker<Told> {
    let worker = this.workers.get(kind);
    if (!worker) {
      worker = new Worker<Told>(kind, null, {
        ...{ connection: this.connection, prefix: this.prefix, autorun: false },
        ...{ lockDuration: leaseMs, stalledInterval: Math.min(STALLED_MS, leaseMs) },
        maxStalledCount: MOST_STALLS,
      });
      worker.on('error', () => undefined);
      void worker.startStalledCheckTimer();
      this.workers.set(kind, worker);
    }
    return worker;
  }
}

/** An outcome that comes too late: the job is another's by now. */
function lost(error: Error): void {
  if (!/lock|missing key|not in the active state/i.test(error.message)) throw error;
}
