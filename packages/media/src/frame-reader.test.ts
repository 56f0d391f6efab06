import { planeOver } from '@lurn/core/picture';
import type { PictureClip, Pictures } from './clip-file';
import { FrameReader } from './frame-reader';
import type { Picture } from './picture';

/** A clip of small grey pictures whose luma is the frame's number, with a count of what was decoded from where. */
class FakeClip implements PictureClip {
  readonly turns = 0 as const;
  readonly codedWidth = 16;
  readonly codedHeight = 8;
  readonly starts: number[] = [];
  decoded = 0;
  open = 0;
  /** A frame that the decoder leaves out, and where it ends. */
  missing = -1;
  end = Infinity;

  /** Frames from one key frame to the next. */
  group = 50;

  constructor(readonly frames: number) {}

  startFor(frame: number): Promise<number> {
    return Promise.resolve(frame - (frame % this.group));
  }

  /** The first frames that were said to be wanted, after the first picture of a run. */
  readonly wanted: (number | undefined)[] = [];

  async *picturesFrom(start: number): Pictures {
    this.starts.push(start);
    this.open++;
    let from: number | undefined = start;
    try {
      for (let frame = start; frame < Math.min(this.frames, this.end); frame++) {
        if (frame === this.missing) continue;
        this.decoded++;
        if (frame < (from ?? 0)) continue;
        from = yield this.picture(frame);
        this.wanted.push(from);
      }
    } finally {
      this.open--;
    }
  }

  private picture(frame: number): Picture {
    const [luma, chroma] = [16 * 8, 8 * 4];
    const grey = () => planeOver(new Uint8Array(chroma).fill(128), 8, 4);
    const y = planeOver(new Uint8Array(luma).fill(frame), 16, 8);
    return { frame, y, u: grey(), v: grey(), subsampling: { x: 2, y: 2 }, bytes: BYTES };
  }

  close(): void {
    this.open = 0;
  }
}

const BYTES = 16 * 8 * 1.5;
const readerOf = (clip: FakeClip, pictures = 1000, readAhead = 0) =>
  new FrameReader(clip, { cacheBytes: pictures * BYTES, readAhead });
const settled = () => new Promise((resume) => setTimeout(resume, 5));

describe('reading frames', () => {
  it('gives the frame that is asked for, in whatever order', async () => {
    const reader = readerOf(new FakeClip(200));
    for (const frame of [0, 150, 3, 199, 151, 4, 4]) {
      const picture = await reader.get(frame);
      expect([picture.frame, picture.y.data[0], picture.u.data[0]]).toEqual([frame, frame, 128]);
    }
  });

  it('starts anew only where a key frame lies on the way', async () => {
    const clip = new FakeClip(300);
    clip.group = 1000;
    const reader = readerOf(clip);
    for (const frame of [0, 250]) await reader.get(frame);
    expect(clip.starts).toEqual([0]);
  });

  it('keeps of a long way only what is likely to be wanted next, unless all of it is shown', async () => {
    const clip = new FakeClip(300);
    clip.group = 1000;
    const reader = readerOf(clip);
    await reader.get(0);
    expect((await reader.get(250)).y.data[0]).toBe(250);
    // Decoded all the same: they lie on the way.
    expect(clip.decoded).toBe(251);
    expect([225, 226, 249].map((f) => reader.peek(f)?.frame)).toEqual([undefined, 226, 249]);
    reader.passing = () => undefined;
    await reader.get(299);
    expect(reader.peek(260)?.frame).toBe(260);
  });

  it('leaves a long way soon after nobody wants to get there any more', async () => {
    const clip = new FakeClip(300);
    clip.group = 1000;
    const reader = readerOf(clip);
    await reader.get(0);
    const signal = { get aborted() { return clip.decoded > 40; } }; // prettier-ignore
    await expect(reader.get(290, signal)).rejects.toMatchObject({ code: 'stopped' });
    expect(clip.decoded).toBeLessThan(60);
    // It goes on from there.
    expect((await reader.get(100)).y.data[0]).toBe(100);
    expect(clip.starts).toEqual([0]);
  });

  it('shows what it decodes on the way', async () => {
    const reader = readerOf(new FakeClip(300));
    const passed: number[] = [];
    reader.passing = (picture) => passed.push(picture.frame);
    await reader.get(2);
    await reader.get(6);
    expect(passed).toEqual([3, 4, 5]);
  });

  it('goes on decoding where it is when that leads to the frame, and starts anew when it is far', async () => {
    const clip = new FakeClip(300);
    const reader = readerOf(clip);
    for (const frame of [0, 1, 5, 40]) await reader.get(frame);
    expect(clip.starts).toEqual([0]);
    await reader.get(200);
    expect(clip.starts).toEqual([0, 200]);
    // What was passed on the way is kept: no decoding for it.
    const { decoded } = clip;
    await reader.get(33);
    expect(clip.decoded).toBe(decoded);
    expect(clip.open).toBe(1);
  });

  it('going backwards decodes a block at a time', async () => {
    const clip = new FakeClip(300);
    const reader = readerOf(clip);
    for (let frame = 200; frame > 176; frame--) await reader.get(frame);
    expect(clip.starts).toEqual([200, 175]);
  });

  it('keeps no more than its bytes, the newest used last to go', async () => {
    const clip = new FakeClip(100);
    const reader = readerOf(clip, 4);
    for (const frame of [0, 1, 2, 3]) await reader.get(frame);
    await reader.get(0);
    await reader.get(4);
    expect([0, 1, 2, 3, 4].map((f) => reader.peek(f) !== undefined)).toEqual([true, false, true, true, true]);
  });

  it('reads ahead while nobody asks for something else', async () => {
    const clip = new FakeClip(100);
    const reader = readerOf(clip, 1000, 6);
    await reader.get(10);
    await settled();
    expect([16, 17].map((f) => reader.peek(f) !== undefined)).toEqual([true, false]);
    await reader.get(99);
    await settled();
    expect(clip.open).toBeLessThanOrEqual(1);
  });

  it('stops at a signal, and goes on afterwards', async () => {
    const reader = readerOf(new FakeClip(100));
    await expect(reader.get(20, { aborted: true })).rejects.toMatchObject({ code: 'stopped' });
    expect((await reader.get(20)).frame).toBe(20);
  });

  it('refuses frames that are not there, and says which cannot be decoded', async () => {
    const clip = new FakeClip(50);
    const reader = readerOf(clip);
    for (const frame of [-1, 50, 1.5, NaN]) {
      await expect(reader.get(frame)).rejects.toMatchObject({ code: 'no-such-frame' });
    }
    clip.missing = 20;
    await expect(reader.get(20)).rejects.toMatchObject({
      code: 'frame-unreadable',
      message: expect.stringMatching(/^Frame 20 is missing/),
    });
    clip.missing = -1;
    clip.end = 40;
    await expect(reader.get(45)).rejects.toMatchObject({
      message: expect.stringMatching(/the file ends before it/),
    });
    expect((await reader.get(30)).frame).toBe(30);
  });
});
