import { stoppedError } from '@lurn/core';
import { createPlane } from '@lurn/core/picture';
import type { ClipFile, Picture } from '@lurn/media';
import { DecodedElsewhere, type Decoding } from './decoding';

const file = { times: new Float64Array(40), width: 16, height: 8, turns: 1, usesCopy: false } as ClipFile;

/** A thread that decodes at once, up to a frame that is not there yet. */
class FakeThread {
  readonly asked: number[] = [];
  readonly stopped: number[] = [];
  private readonly runs = new Map<number, { next: number; wait: () => void }>();
  private come: (() => void)[] = [];

  constructor(public missing = Infinity) {}

  open = () => Promise.resolve();
  startFor = (frame: number) => Promise.resolve(frame - (frame % 10));
  begin = (run: number, frame: number, wait: () => void) => {
    this.runs.set(run, { next: frame, wait });
    return Promise.resolve();
  };
  next = async (run: number, wanted?: number): Promise<Picture | null> => {
    const of = this.runs.get(run)!;
    of.next = Math.max(of.next, wanted ?? 0);
    const frame = of.next++;
    this.asked.push(frame);
    if (frame >= 40) return null;
    if (frame >= this.missing) {
      of.wait();
      await new Promise<void>((resume) => this.come.push(resume));
    }
    const plane = createPlane(4, 4);
    return { frame, y: plane, u: plane, v: plane, subsampling: { x: 1, y: 1 }, bytes: 48 };
  };
  stop = (run: number) => {
    this.stopped.push(run);
    return Promise.resolve();
  };
  arrive() {
    this.missing = Infinity;
    this.come.forEach((resume) => resume());
  }
}

const opened = (thread: FakeThread, end = () => undefined) =>
  DecodedElsewhere.open(file, { api: thread as unknown as Decoding, end });
async function framesFrom(clip: DecodedElsewhere, frame: number, count: number) {
  const seen: number[] = [];
  for await (const picture of clip.picturesFrom(frame)) {
    seen.push(picture.frame);
    if (seen.length === count) break;
  }
  return seen;
}

describe('a clip that is decoded in another thread', () => {
  it('leaves out what is not wanted, but for what had been asked for', async () => {
    const clip = await opened(new FakeThread());
    const pictures = clip.picturesFrom(0);
    const seen: number[] = [];
    for (let i = 0; i < 8; i++) seen.push((await pictures.next(i > 0 ? 30 : undefined)).value!.frame);
    expect(seen).toEqual([0, 1, 2, 3, 4, 30, 31, 32]);
    await pictures.return();
  });

  it('gives its pictures in their order, a few of them asked for ahead, and ends with it', async () => {
    const thread = new FakeThread();
    const clip = await opened(thread);
    expect([clip.frames, clip.codedWidth, clip.codedHeight, clip.turns]).toEqual([40, 8, 16, 1]);
    expect(await framesFrom(clip, 5, 3)).toEqual([5, 6, 7]);
    expect(thread.asked).toEqual([5, 6, 7, 8, 9, 10, 11]);
    expect(thread.stopped).toEqual([1]);
    expect(await framesFrom(clip, 38, 9)).toEqual([38, 39]);
    expect(thread.stopped).toEqual([1, 2]);
  });

  it('goes on when nobody wants the picture any more, unless its part is waited for', async () => {
    const thread = new FakeThread(7);
    const clip = await opened(thread);
    let waited = 0;
    const pictures = clip.picturesFrom(
      6,
      () => true,
      () => waited++,
    );
    expect((await pictures.next()).value).toMatchObject({ frame: 6 });
    await expect(pictures.next()).rejects.toMatchObject({ code: stoppedError('').code });
    expect(waited).toBeGreaterThan(0);
    expect(thread.stopped).toEqual([1]);
  });

  it('has what was waited for when it comes', async () => {
    const thread = new FakeThread(1);
    const clip = await opened(thread);
    const seen = framesFrom(clip, 0, 3);
    setTimeout(() => thread.arrive(), 20);
    expect(await seen).toEqual([0, 1, 2]);
  });

  it('tells what cannot be decoded when its turn comes', async () => {
    const thread = new FakeThread();
    const { next } = thread;
    thread.next = (run) => (thread.asked.length < 2 ? next(run) : Promise.reject(new Error('torn')));
    const clip = await opened(thread);
    const seen: number[] = [];
    await expect(
      (async () => {
        for await (const picture of clip.picturesFrom(0)) seen.push(picture.frame);
      })(),
    ).rejects.toThrow('torn');
    expect(seen).toEqual([0, 1]);
  });

  it('ends its thread when it is closed', async () => {
    const end = jest.fn();
    (await opened(new FakeThread(), end)).close();
    expect(end).toHaveBeenCalledTimes(1);
  });
});
