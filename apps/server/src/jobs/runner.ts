import { randomUUID } from 'node:crypto';
import { Injectable, Logger, type BeforeApplicationShutdown, type OnModuleInit } from '@nestjs/common';
import { isFullDisk, whenThereIsRoom } from '../common/full-disk.js';
import type { JobKind } from '../database/schema.js';
import { JobStore, type Job } from './job-store.js';

/** How many jobs of a kind run at a time here, as a rule. */
const AT_A_TIME = 1;

export interface RunnerSettings {
  readonly leaseMs?: number;
  readonly lookMs?: number;
  readonly atATime?: Partial<Readonly<Record<JobKind, number>>>;
}
/** A job whose worker is silent for so long is anybody's again. */
const LEASE_MS = 30_000;
const BEAT_MS = 8_000;
/** How often it is looked for jobs that nobody here has told of: put back, or left by another worker. */
const LOOK_MS = 3_000;
/** What stopped at a full disk is tried again after this long. */
const WHEN_FULL_MS = 10_000;

/** Does the work of one kind of job. What it throws but `stopped` and full disks it has told of itself. */
export interface JobHandler {
  run(job: Job, signal: AbortSignal, onPart: (part: number) => void): Promise<void>;
  /** Says why a job waits though it was begun; null when it is begun anew. */
  waiting(job: Job, error: unknown): Promise<void>;
}

interface Running {
  readonly job: Job;
  readonly abort: AbortController;
  readonly ended: Promise<void>;
  part: number;
}

/** Claims jobs and runs them, a bounded number at a time, and holds their leases while it does. */
@Injectable()
export class JobRunner implements OnModuleInit, BeforeApplicationShutdown {
  private readonly log = new Logger('Jobs');
  private readonly worker = randomUUID();
  private readonly handlers = new Map<JobKind, JobHandler>();
  /** By the jobs' ids. */
  private readonly running = new Map<string, Running>();
  private readonly claiming = new Set<JobKind>();
  private readonly timer: NodeJS.Timeout;
  private readonly leaseMs: number;
  private closing = false;

  constructor(
    private readonly store: JobStore,
    private readonly settings: RunnerSettings = {},
  ) {
    this.leaseMs = settings.leaseMs ?? LEASE_MS;
    this.timer = setInterval(() => this.look(), settings.lookMs ?? LOOK_MS);
    this.timer.unref();
  }

  /** What a server left running that was killed waits again, before anything is claimed. */
  async onModuleInit(): Promise<void> {
    await whenThereIsRoom(this.log, () => this.store.recover());
  }

  handle(kind: JobKind, handler: JobHandler): void {
    this.handlers.set(kind, handler);
  }

  async add(kind: JobKind, subject: string): Promise<void> {
    await this.store.add(kind, subject);
    void this.claim(kind);
  }

  /** Puts what waits for these subjects into this order. */
  arrange(kind: JobKind, subjects: readonly string[]): Promise<void> {
    return this.store.arrange(kind, subjects);
  }

  /** Looks for work of every kind. */
  look(): void {
    for (const kind of this.handlers.keys()) void this.claim(kind);
  }

  /** Frames done of what runs of a kind for a subject; null where nothing does. */
  partOf(kind: JobKind, subject: string): number | null {
    return this.of(subject).find((r) => r.job.kind === kind)?.part ?? null;
  }

  /** Stops what waits or runs for a subject, and returns when it has ended. @returns what it was doing */
  async stop(subject: string): Promise<'waiting' | 'running' | 'nothing'> {
    const running = this.of(subject);
    for (const { abort } of running) abort.abort();
    await Promise.all(running.map((r) => r.ended));
    if (running.length > 0) return 'running';
    return (await this.store.cancel(subject)) ? 'waiting' : 'nothing';
  }

  /** Nothing new is begun; what runs is put back. */
  async beforeApplicationShutdown(): Promise<void> {
    this.closing = true;
    clearInterval(this.timer);
    const all = [...this.running.values()];
    for (const { abort } of all) abort.abort();
    await Promise.all(all.map((r) => r.ended));
  }

  private async claim(kind: JobKind): Promise<void> {
    const handler = this.handlers.get(kind);
    if (!handler || this.closing || this.claiming.has(kind)) return;
    this.claiming.add(kind);
    try {
      while (!this.closing && this.count(kind) < (this.settings.atATime?.[kind] ?? AT_A_TIME)) {
        const job = await this.store.claim(kind, this.worker, this.leaseMs);
        if (!job) return;
        this.start(job, handler);
      }
    } catch (error) {
      // A full disk, as a rule: the next look tries again.
      this.log.warn(`No ${kind} job could be claimed: ${String(error)}`);
    } finally {
      this.claiming.delete(kind);
    }
  }

  private of(subject: string): Running[] {
    return [...this.running.values()].filter((r) => r.job.subject === subject);
  }

  private count(kind: JobKind): number {
    return [...this.running.values()].filter((r) => r.job.kind === kind).length;
  }

  private start(job: Job, handler: JobHandler): void {
    const abort = new AbortController();
    const beat = setInterval(
      () => {
        this.store.beat(job, this.worker, this.leaseMs, running.part).then(
          (held) => held || abort.abort(),
          () => undefined,
        );
      },
      (BEAT_MS * this.leaseMs) / LEASE_MS,
    );
    const ended = this.work(job, handler, abort.signal, (part) => (running.part = part)).finally(() => {
      clearInterval(beat);
      this.running.delete(job.id);
      void this.claim(job.kind);
    });
    const running: Running = { job, abort, ended, part: 0 };
    this.running.set(job.id, running);
  }

  private async work(
    job: Job,
    handler: JobHandler,
    signal: AbortSignal,
    onPart: (part: number) => void,
  ): Promise<void> {
    try {
      await handler.run(job, signal, onPart);
      await this.insist(() => this.store.end(job));
    } catch (error) {
      const full = isFullDisk(error);
      if (!full && !this.closing) {
        if (!signal.aborted) this.log.error(error);
        await this.insist(() => this.store.end(job));
        return;
      }
      await this.insist(async () => {
        await handler.waiting(job, full ? error : null);
        await this.store.release(job, full ? WHEN_FULL_MS : 0);
      });
    }
  }

  /** Records something however often that takes: a full disk must neither end the server nor lose an outcome. */
  private async insist(record: () => Promise<void>): Promise<void> {
    for (;;) {
      try {
        await record();
        return;
      } catch (error) {
        this.log.warn(`Could not be recorded, and is tried again: ${String(error)}`);
        if (this.closing) return;
        await new Promise((resume) => setTimeout(resume, LOOK_MS));
      }
    }
  }
}
