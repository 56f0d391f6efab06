import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { LurnError } from '@lurn/core';
import type { WarpJob } from './warp-job.js';

/** Worker threads that warp pictures, each whole picture in one of them. */
export class WarpPool {
  private readonly workers: Worker[];
  private readonly waiting = new Map<number, { done: () => void; failed: (error: Error) => void }>();
  private next = 0;

  constructor(readonly size = Math.max(1, availableParallelism())) {
    // The same relative place from src (tests) and dist: workers run the built file.
    const file = new URL('../../dist/render/warp-worker.js', import.meta.url);
    this.workers = Array.from({ length: size }, () => {
      const worker = new Worker(file);
      worker.on('message', (id: number) => {
        this.waiting.get(id)?.done();
        this.waiting.delete(id);
      });
      worker.on('error', (error) => {
        for (const { failed } of this.waiting.values()) {
          failed(new LurnError('warp-failed', `A rendering thread failed: ${error.message}`));
        }
        this.waiting.clear();
      });
      return worker;
    });
  }

  /** Warps one picture; settles when its output is written. */
  warp(job: Omit<WarpJob, 'id'>): Promise<void> {
    const id = this.next++;
    return new Promise((done, failed) => {
      this.waiting.set(id, { done, failed });
      this.workers[id % this.size].postMessage({ ...job, id });
    });
  }

  async close(): Promise<void> {
    await Promise.all(this.workers.map((worker) => worker.terminate()));
  }
}
