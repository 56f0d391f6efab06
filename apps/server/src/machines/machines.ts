import { randomBytes } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { Settings } from '../common/settings.js';
import { Rendering } from '../renders/rendering.js';
import { WorkerGateway } from './worker-gateway.js';
import { prefixOf, RedisJobs } from './redis-jobs.js';
import { SharedRendering } from './shared-rendering.js';
import { Workers } from './workers.js';

/** Whether renders are drawn here or by several machines, and what those need to come in. */
@Injectable()
export class Machines implements OnApplicationBootstrap, OnApplicationShutdown {
  readonly rendering: Rendering;
  private readonly jobs: RedisJobs | null;

  constructor(
    private readonly settings: Settings,
    private readonly door: WorkerGateway,
    workers: Workers,
  ) {
    const { queue } = settings;
    this.jobs = queue === null ? null : new RedisJobs(queue, prefixOf(this.token));
    this.rendering = this.jobs ? new SharedRendering(this.jobs, door, workers) : new Rendering();
  }

  /** null where there is this machine alone. */
  get queue(): { readonly away: boolean } | null {
    return this.jobs && { away: this.jobs.away };
  }

  async onApplicationBootstrap(): Promise<void> {
    if (!this.jobs) return;
    const { token } = this;
    const port = await this.door.open(token);
    const { host } = this.settings.work;
    new Logger('Workers').log(`Workers come in at ${host}:${port}`);
    process.stdout.write(
      `Workers: LURN_QUEUE=${this.settings.queue} LURN_SERVER=http://${host}:${port} LURN_TOKEN=${token} npm run worker\n`,
    );
  }

  async onApplicationShutdown(): Promise<void> {
    await this.jobs?.close();
  }

  /** What workers show: given, or made once and kept where only this person reads it. */
  private get token(): string {
    if (process.env.LURN_TOKEN) return process.env.LURN_TOKEN;
    const file = join(this.settings.data, 'token');
    const known = existsSync(file) ? readFileSync(file, 'utf8').trim() : '';
    if (known) return known;
    const token = randomBytes(24).toString('hex');
    writeFileSync(file, `${token}\n`, { mode: 0o600 });
    return token;
  }
}
