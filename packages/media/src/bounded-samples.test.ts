import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ALL_FORMATS, BufferSource, Input, type InputVideoTrack } from 'mediabunny';
import { aheadOf, boundedSamples } from './bounded-samples';

/** A picture that was decoded, as far as the library looks at it. */
class FakeFrame {
  static open = 0;
  readonly [key: string]: unknown;
  readonly format = 'I420';
  readonly codedWidth = 16;
  readonly codedHeight = 16;
  readonly displayWidth = 16;
  readonly displayHeight = 16;
  readonly visibleRect = { x: 0, y: 0, width: 16, height: 16 };
  readonly colorSpace = { toJSON: () => ({}) };
  constructor(readonly timestamp: number) {
    FakeFrame.open++;
  }
  close(): void {
    FakeFrame.open--;
  }
}

/** Decodes at once what it is given, but for so many pictures that it holds back until it is flushed. */
class FakeDecoder extends EventTarget {
  static holds = 0;
  static given = 0;
  static last: FakeDecoder;
  state = 'configured';
  decodeQueueSize = 0;
  private readonly held: number[] = [];
  constructor(private readonly init: { output: (frame: FakeFrame) => void }) {
    super();
    FakeDecoder.last = this;
  }
  static isConfigSupported = (config: object) => Promise.resolve({ supported: true, config });
  configure = () => undefined;
  decode({ timestamp }: { timestamp: number }): void {
    FakeDecoder.given++;
    this.decodeQueueSize++;
    setTimeout(() => {
      this.decodeQueueSize--;
      this.held.push(timestamp);
      this.held.sort((a, b) => a - b);
      if (this.held.length > FakeDecoder.holds) this.put();
      this.dispatchEvent(new Event('dequeue'));
    });
  }
  async flush(): Promise<void> {
    while (this.decodeQueueSize > 0) await settled();
    while (this.held.length > 0) this.put();
  }
  close(): void {
    this.state = 'closed';
  }
  private put() {
    if (this.state !== 'closed') this.init.output(new FakeFrame(this.held.shift()!));
  }
}

const settled = () => new Promise((resume) => setTimeout(resume, 2));
const fakes = {
  VideoDecoder: FakeDecoder,
  VideoFrame: FakeFrame,
  EncodedVideoChunk: class {
    readonly timestamp: number;
    constructor(init: { timestamp: number }) {
      this.timestamp = init.timestamp;
    }
  },
};

let input: Input;
let track: InputVideoTrack;
beforeAll(async () => {
  Object.assign(globalThis, fakes);
  const bytes = await readFile(join(__dirname, '../../../demo/shots/gondola.mp4'));
  input = new Input({ formats: ALL_FORMATS, source: new BufferSource(bytes) });
  track = (await input.getPrimaryVideoTrack())!;
});
afterAll(() => {
  input.dispose();
  for (const name of Object.keys(fakes)) Reflect.deleteProperty(globalThis, name);
});
beforeEach(() => {
  [FakeDecoder.given, FakeDecoder.holds, FakeFrame.open] = [0, 0, 0];
});

describe('samples of a file', () => {
  // Fails where a new version of the library no longer makes its decoder as this one does.
  it('are decoded a few ahead of the one that is taken, and no more', async () => {
    const samples = boundedSamples(track, 0, 5);
    (await samples.next()).value!.close();
    for (let i = 0; i < 20; i++) await settled();
    expect(FakeFrame.open).toBeGreaterThanOrEqual(4);
    expect(FakeFrame.open).toBeLessThanOrEqual(6);
    expect(FakeDecoder.given).toBeLessThanOrEqual(7);
    await samples.return(undefined);
    for (let i = 0; i < 5; i++) await settled();
    expect([FakeFrame.open, FakeDecoder.last.state]).toEqual([0, 'closed']);
  });

  it.each([0, 3, 16])('come all, in their order, where the decoder holds %d back', async (holds) => {
    FakeDecoder.holds = holds;
    const stamps: number[] = [];
    for await (const sample of boundedSamples(track, 0, 4)) {
      stamps.push(sample.timestamp);
      sample.close();
    }
    expect(stamps).toHaveLength(150);
    expect(stamps).toEqual([...stamps].sort((a, b) => a - b));
    expect(FakeFrame.open).toBe(0);
  });

  it('that nobody takes any more let go of the decoder, at the end of the file too', async () => {
    const samples = boundedSamples(track, 4.2, 4);
    (await samples.next()).value!.close();
    // All packets are there by now; the last are held back, and the library waits for them to be decoded.
    for (let i = 0; i < 20; i++) await settled();
    expect(FakeDecoder.given).toBeLessThan(150);
    await samples.return(undefined);
    for (let i = 0; i < 20; i++) await settled();
    expect([FakeFrame.open, FakeDecoder.last.state]).toEqual([0, 'closed']);
  });

  it('begin in the middle with the one that is seen then', async () => {
    const samples = boundedSamples(track, 2.01, 4);
    const first = (await samples.next()).value!;
    expect(first.timestamp).toBeCloseTo(2, 3);
    first.close();
    await samples.return(undefined);
  });
});

it('larger pictures are decoded less far ahead', () => {
  expect([aheadOf(1280, 720), aheadOf(3840, 2160), aheadOf(7680, 4320)]).toEqual([12, 5, 4]);
});
