import { availableParallelism } from 'node:os';
import { fromWire, LurnError, type WireError } from '@lurn/core';
import { Tinypool } from 'tinypool';
import { threadFile } from '../threads.js';
import type { ComposeTask } from './compose-thread.js';

/** Threads that draw scenes, each whole scene in one of them; one that dies is replaced. */
export class Composer {
  private readonly pool: Tinypool;

  constructor(readonly size = Math.max(1, availableParallelism())) {
    this.pool = new Tinypool({
      filename: threadFile(import.meta.url, './compose-thread'),
      minThreads: size,
      maxThreads: size,
      isolateWorkers: false,
    });
  }

  /** Draws one scene; settles when its output is written. @throws LurnError `warp-failed`, and what drawing throws */
  async draw(task: ComposeTask): Promise<void> {
    const once = () => this.pool.run(task) as Promise<WireError | null>;
    // A thread that has died took this scene along; another draws it again.
    const fault = await once()
      .catch(once)
      .catch((error: Error) => {
        throw new LurnError('warp-failed', `A rendering thread failed twice: ${error.message}`);
      });
    if (fault) throw fromWire(fault);
  }

  close(): Promise<void> {
    return this.pool.destroy();
  }
}
