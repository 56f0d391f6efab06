import type { JobKind } from '../database/schema.js';

/** A piece of work, as whoever has claimed it sees it. */
export interface Job {
  readonly id: string;
  readonly kind: JobKind;
  /** The id of what it is about. */
  readonly subject: string;
  readonly attempt: number;
}

/**
 * Where jobs live. Here they lie in the server's own SQLite file; for several machines a broker can stand behind the
 * same few words. Every call is safe to be made again.
 */
export abstract class JobStore {
  /** Adds a job unless one of its kind waits or runs for the subject already. */
  abstract add(kind: JobKind, subject: string): Promise<void>;
  /** The oldest job of a kind that waits or whose lease has run out, taken in one step; null where there is none. */
  abstract claim(kind: JobKind, worker: string, leaseMs: number): Promise<Job | null>;
  /** Holds a job for longer. @returns false when it is no longer this worker's */
  abstract beat(job: Job, worker: string, leaseMs: number, part: number): Promise<boolean>;
  /** Ends a job: it is gone. */
  abstract end(job: Job): Promise<void>;
  /** Puts a job back, to be begun no sooner than in so many milliseconds. */
  abstract release(job: Job, afterMs: number): Promise<void>;
  /** Takes away the jobs of a subject that wait. @returns true when there was one */
  abstract cancel(subject: string): Promise<boolean>;
  /** Puts the jobs of a kind that wait for these subjects into this order, among the places that they have. */
  abstract arrange(kind: JobKind, subjects: readonly string[]): Promise<void>;
  /** What was running when the server that ran it ended waits again. */
  abstract recover(): Promise<void>;
}
