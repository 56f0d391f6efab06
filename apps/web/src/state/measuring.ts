import * as Comlink from 'comlink';
import { toast } from 'sonner';
import { apply, chain, invert, motionMatrix, pictureMatrix, type Matrix3, type Point } from '@lurn/core';
import type { ClipFile } from '@lurn/media';
import type { Box, MeasureApi } from '../workers/measure.worker';
import { bench, setBench } from './bench';
import { shotDocument } from './shot';

/** A held thing is looked at this far round its spots, as a share of the picture's height. */
const ROUND = 0.05;

/** Measures what is left of the shake on the pictures, as shot and steadied. */
export class Measurer {
  private worker: { readonly thread: Worker; readonly api: Comlink.Remote<MeasureApi> } | null = null;

  constructor(private readonly file: ClipFile) {}

  close(): void {
    this.worker?.thread.terminate();
    this.worker = null;
  }

  /** Begins, or stops what is under way. */
  async run(): Promise<void> {
    const { steady, measuring } = bench();
    if (measuring) {
      this.close();
      setBench({ measuring: null });
      return;
    }
    if (!steady) return;
    const { range, goal } = shotDocument();
    const frames = Array.from({ length: range.to - range.from + 1 }, (_, i) => range.from + i);
    const onlySubject = goal.goal === 'lock' || goal.keys.some((k) => k.goal === 'lock');
    const rests = steady.motion.rest.filter((r): r is Point => r !== null);
    setBench({ measuring: { done: 0, total: frames.length } });
    try {
      const { api } = await this.open();
      const measured = await api.measure(
        {
          ...range,
          toSource: frames.map((f) => invert(pictureMatrix(steady, f))),
          subject: onlySubject
            ? frames.map((f) => {
                const m = motionMatrix(steady.motion, f);
                return [this.boxOf(rests, m), this.boxOf(rests, chain(pictureMatrix(steady, f), m))] as const;
              })
            : null,
        },
        Comlink.proxy((done, total) => setBench({ measuring: { done, total } })),
      );
      if (bench().steady === steady) setBench({ measured });
      else toast.info('The motion was changed meanwhile: measure again.', { id: 'measure' });
    } catch (error) {
      toast.error(`The pictures could not be measured. ${(error as Error).message}`, { id: 'measure' });
    } finally {
      setBench({ measuring: null });
    }
  }

  private boxOf(rests: readonly Point[], matrix: Matrix3): Box {
    const places = rests.map((r) => apply(matrix, r.x, r.y));
    const margin = ROUND * bench().info.height;
    const [xs, ys] = [places.map((p) => p.x), places.map((p) => p.y)];
    const [x, y] = [Math.min(...xs) - margin, Math.min(...ys) - margin];
    return [x, y, Math.max(...xs) + margin - x, Math.max(...ys) + margin - y];
  }

  private async open(): Promise<{ api: Comlink.Remote<MeasureApi> }> {
    if (!this.worker) {
      const thread = new Worker(new URL('../workers/measure.worker.ts', import.meta.url), { type: 'module' });
      const api = Comlink.wrap<MeasureApi>(thread);
      this.worker = { thread, api };
      await api.open(this.file);
    }
    return this.worker;
  }
}
