import { Injectable } from '@nestjs/common';
import { analyseInThread } from '@lurn/engine';
import { isFullDisk } from '../common/full-disk.js';
import { Settings } from '../common/settings.js';
import { Events } from '../events/events.js';
import type { Job } from '../jobs/job-store.js';
import { JobRunner, type JobHandler } from '../jobs/runner.js';
import { Clips } from './clips.js';

/** How often pages are told how far it has come, in milliseconds. */
const TELL_MS = 1000;

/** Looks at the whole picture of clips that were too long for that while they were read, one at a time. */
@Injectable()
export class Analysing implements JobHandler {
  constructor(
    private readonly settings: Settings,
    private readonly clips: Clips,
    private readonly events: Events,
    jobs: JobRunner,
  ) {
    jobs.handle('analyse', this);
  }

  async run({ subject: id }: Job, signal: AbortSignal, onPart: (part: number) => void): Promise<void> {
    const row = await this.clips.find(id);
    if (!row || row.deletedAt || row.status !== 'ready' || row.made?.scene) return;
    const { info, path } = this.clips.knownRow(row);
    const folder = this.settings.clipFolder(id);
    // Without it a clip is usable all the same.
    let told = 0;
    const frames = (done: number) => {
      onPart(done);
      if (Date.now() - told < TELL_MS) return;
      told = Date.now();
      this.events.emit({ kind: 'clip', id });
    };
    const looked = await analyseInThread({ path, folder, info }, signal, frames).catch((error: unknown) => {
      if (isFullDisk(error) || signal.aborted) throw error;
      return null;
    });
    if (!looked) return;
    const { shakiness, ...seen } = looked;
    const now = await this.clips.even(id);
    await this.clips.change(id, { made: { ...now.made!, ...seen }, shakiness });
  }

  waiting(): Promise<void> {
    return Promise.resolve();
  }
}
