import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import { fromWire, LurnError, type WireError } from '@lurn/core';
import { threadFile } from '@lurn/engine';
import { Tinypool } from 'tinypool';
import type { columnsAsJson, planRender, readSave } from './shot-thread.js';

type Threaded = {
  readSave: typeof readSave;
  planRender: typeof planRender;
  columnsAsJson: typeof columnsAsJson;
};
type Value<K extends keyof Threaded> = Extract<ReturnType<Threaded[K]>, { value: unknown }>['value'];

/** Runs what {@link ./shot-thread} has in threads of their own. */
@Injectable()
export class ShotThreads implements OnApplicationShutdown {
  private readonly pool = new Tinypool({
    filename: threadFile(import.meta.url, './shot-thread'),
    minThreads: 0,
    maxThreads: 2,
    idleTimeout: 60_000,
    isolateWorkers: false,
  });

  /** @throws LurnError whatever the work throws, whole; `stopped` at the signal */
  async run<K extends keyof Threaded>(
    name: K,
    request: Parameters<Threaded[K]>[0],
    signal?: AbortSignal,
  ): Promise<Value<K>> {
    let answer: { value: Value<K> } | { error: WireError };
    try {
      answer = (await this.pool.run(request, { name, signal })) as typeof answer;
    } catch (error) {
      if (signal?.aborted) throw new LurnError('stopped', 'Planning the render was stopped.');
      throw error;
    }
    if ('error' in answer) throw fromWire(answer.error);
    return answer.value;
  }

  async onApplicationShutdown(): Promise<void> {
    await this.pool.destroy();
  }
}
