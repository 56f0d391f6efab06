import * as Comlink from 'comlink';
import { trackSpots, type TrackRequest, type TrackStep } from '@lurn/core';
import { FrameReader, type ClipFile } from '@lurn/media';

const READER = { cacheBytes: 250e6, readAhead: 2 };
/** Steps are handed over in batches, about this often. */
const BATCH_MS = 80;

export type TrackOutcome =
  | { readonly ended: 'done' | 'stopped' }
  | { readonly ended: 'failed'; readonly code: string; readonly message: string };

/** Follows spots off the main thread, with a decoder of its own. */
class TrackWorker {
  private reader: FrameReader | null = null;
  private signal = { aborted: false };

  async open(file: ClipFile): Promise<void> {
    this.reader = await FrameReader.open(file, READER);
  }

  async track(request: TrackRequest, onSteps: (steps: TrackStep[]) => void): Promise<TrackOutcome> {
    this.signal = { aborted: false };
    let batch: TrackStep[] = [];
    let handed = performance.now();
    const hand = () => {
      if (batch.length > 0) onSteps(batch);
      batch = [];
      handed = performance.now();
    };
    try {
      for await (const step of trackSpots(this.reader!, request, this.signal)) {
        batch.push(step);
        if (performance.now() - handed > BATCH_MS) {
          hand();
          await new Promise((resume) => setTimeout(resume)); // lets a stop come through
        }
      }
      hand();
      return { ended: 'done' };
    } catch (error) {
      hand();
      const { code = 'fault', message } = error as { code?: string; message: string };
      return code === 'stopped' ? { ended: 'stopped' } : { ended: 'failed', code, message };
    }
  }

  stop(): void {
    this.signal.aborted = true;
  }
}

export type TrackApi = TrackWorker;
Comlink.expose(new TrackWorker());
