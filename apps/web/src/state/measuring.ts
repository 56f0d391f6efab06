import { toast } from 'sonner';
import {
  apply,
  chain,
  composeSimilarity,
  invert,
  multiply,
  type Matrix3,
  type Point,
} from '@lurn/core/geometry';
import { asShotFrom, framingInSource, pictureInSource } from '@lurn/core/plan';
import { motionMatrix } from '@lurn/core/solve';
import type { ClipFile } from '@lurn/media';
import { Comlink } from '../workers/comlink';
import { LateWorker } from '../workers/late-worker';
import type { MeasureApi } from '../workers/measure.worker';
import { bench, setBench } from './bench';
import { shotDocument } from './shot';

/** Patches are taken round the spots, so far apart as a share of the picture's height ... */
const STEP = 0.035;
/** ... and about so many in all. */
const PLACES = 27;

/** Measures what is left of the shake on the pictures, as shot and steadied. */
export class Measurer {
  private readonly worker: LateWorker<MeasureApi>;

  constructor(file: ClipFile) {
    this.worker = new LateWorker(
      () => new Worker(new URL('../workers/measure.worker.ts', import.meta.url), { type: 'module' }),
      (api) => api.open(file),
    );
  }

  close(): void {
    this.worker.end();
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
    const { range } = shotDocument();
    const frames = Array.from({ length: range.to - range.from + 1 }, (_, i) => range.from + i);
    const odd = new Set(steady.odd.map((o) => o.spot));
    const held = this.placesRound(
      Object.entries(steady.motion.byId).flatMap(([id, { rest }]) => (rest && !odd.has(id) ? [rest] : [])),
    );
    const { pivot, pixelAspect } = steady.motion;
    const seen = (matrix: Matrix3) => held.map((p) => apply(matrix, p.x, p.y));
    setBench({ measuring: { done: 0, total: frames.length } });
    try {
      const api = await this.worker.api();
      const pictureMeasure = await api.measure(
        {
          ...range,
          toSource: frames.map((f) =>
            asShotFrom(steady, f, invert(pictureInSource(steady, f)), bench().info),
          ),
          wanted: frames.map((f) => {
            const w = composeSimilarity(steady.wanted[f], pivot, pixelAspect);
            return [w, multiply(framingInSource(steady, f), w)] as const;
          }),
          expected: frames.map((f) => {
            const m = motionMatrix(steady.motion, f);
            return [m, multiply(pictureInSource(steady, f), m)] as const;
          }),
          seen: frames.map((f) => ['full', 'position'].includes(steady.motion.support[f])),
          places: frames.map((f) => {
            const m = motionMatrix(steady.motion, f);
            return [seen(m), seen(chain(pictureInSource(steady, f), m))] as const;
          }),
        },
        Comlink.proxy((done, total) => setBench({ measuring: { done, total } })),
      );
      if (bench().steady === steady) setBench({ pictureMeasure });
      else toast.info('The motion was changed meanwhile: measure again.', { id: 'measure' });
    } catch (error) {
      toast.error(`The pictures could not be measured. ${(error as Error).message}`, { id: 'measure' });
    } finally {
      setBench({ measuring: null });
    }
  }

  /** Places on what is held: round each spot, so many that there are about {@link PLACES} of them. */
  private placesRound(rests: readonly Point[]): Point[] {
    const step = STEP * bench().info.height;
    const each = Math.max(1, Math.round(PLACES / Math.max(1, rests.length)));
    const side = Math.ceil(Math.sqrt(each));
    const stride = Math.max(1, Math.floor(rests.length / PLACES));
    return rests
      .filter((_, i) => i % stride === 0)
      .flatMap((r) =>
        Array.from({ length: each }, (_, k) => ({
          x: r.x + ((k % side) - (side - 1) / 2) * step,
          y: r.y + (Math.floor(k / side) - (side - 1) / 2) * step,
        })),
      );
  }
}
