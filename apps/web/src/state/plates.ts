import { toast } from 'sonner';
import { carry, FEWEST_FOR_PLATE, framesForPlate } from '@lurn/core/compose';
import { IDENTITY } from '@lurn/core/geometry';
import { spaceNamed } from '@lurn/core/picture';
import type { ClipFile } from '@lurn/media';
import { nextLayerName, rideOf } from '@lurn/model';
import { Comlink } from '../workers/comlink';
import type { PlateApi, PlateRequest } from '../workers/plate.worker';
import { upload } from './assets';
import { bench, setBench } from './bench';
import { putPlate, rideNow } from './making-layers';
import { shotDocument, shotState } from './shot';

/** Makes clean plates: the median over time of what is held, as a layer that rides on it. */
export class Plater {
  private thread: Worker | null = null;

  constructor(private readonly file: ClipFile) {}

  close(): void {
    this.thread?.terminate();
    this.thread = null;
  }

  /** Begins on the present frame, or stops what is under way. */
  async run(): Promise<void> {
    if (bench().plating) {
      this.close();
      setBench({ plating: null });
      return;
    }
    const { frame, info } = bench();
    const rides = rideNow();
    const frames = framesNow(frame);
    if (frames.length < FEWEST_FOR_PLATE) {
      toast.warning(
        `A clean plate needs ${FEWEST_FOR_PLATE} frames that show the same place; here are ${frames.length}. Track further, or begin on another frame.`,
        { id: 'plate' },
      );
      return;
    }
    setBench({ plating: { done: 0, total: frames.length + 2 } });
    const thread = (this.thread = new Worker(new URL('../workers/plate.worker.ts', import.meta.url), {
      type: 'module',
    }));
    try {
      const { colour, width, height } = info;
      const coding = { ...colour, space: spaceNamed(colour.space, height), height };
      const picture = await Comlink.wrap<PlateApi>(thread).make(
        this.file,
        { size: { width, height }, coding, frames },
        Comlink.proxy((done, total) => this.thread === thread && setBench({ plating: { done, total } })),
      );
      const name = nextLayerName(shotState(), 'Clean plate');
      const { asset } = await upload(new File([picture], `${name}.png`, { type: 'image/png' }));
      if (this.thread === thread) putPlate(asset, name, frame, rides);
    } catch (error) {
      toast.error(`The clean plate could not be made. ${(error as Error).message}`, { id: 'plate' });
    } finally {
      thread.terminate();
      if (this.thread === thread) {
        this.thread = null;
        setBench({ plating: null });
      }
    }
  }
}

/** The frames that a plate of the present frame is made from, and where its places are on each. */
function framesNow(own: number): PlateRequest['frames'] {
  const { info, steady } = bench();
  const { range } = shotDocument();
  const ride = rideOf(rideNow(), shotState());
  const middle = { x: info.width / 2, y: info.height / 2 };
  const toFrame = (frame: number) => {
    if (frame === own) return IDENTITY;
    const { m, share } = carry(ride, { own, frame, unknown: 'off', middle, motions: steady?.motions ?? {} });
    return share > 0 ? m : null;
  };
  return framesForPlate(range.from, range.to, own, info, toFrame).map((frame) => ({
    frame,
    toFrame: toFrame(frame)!,
  }));
}
