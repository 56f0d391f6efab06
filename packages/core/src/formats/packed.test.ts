import fc from 'fast-check';
import { emptyMeasured, type Measured } from '../track/measured.js';
import { EMPTY_TRACK, withSamples, type FramedSample } from '../track/track.js';
import { EMPTY_SOFT_TRACK, softAt, softSample, withSoftSamples, type SoftTrack } from '../soft/soft-track.js';
import { fromJson, toJson } from './columns.js';
import { packColumns, unpackColumns } from './packed.js';

const STATE = ['pinned', 'tracked', 'coasted', 'bridged'] as const;

const sample = fc.record({
  x: fc.double({ min: -1e5, max: 1e5, noNaN: true }),
  y: fc.double({ min: -1e5, max: 1e5, noNaN: true }),
  confidence: fc.double({ min: 0, max: 1, noNaN: true }),
  state: fc.constantFrom(...STATE),
  turn: fc.option(fc.double({ min: -40, max: 40, noNaN: true }), { nil: undefined }),
  scale: fc.option(fc.double({ min: 0.01, max: 50, noNaN: true }), { nil: undefined }),
  mismatch: fc.option(fc.double({ min: 0, max: 900, noNaN: true }), { nil: undefined }),
});

const track = fc
  .array(fc.tuple(fc.integer({ min: 0, max: 60 }), sample), { maxLength: 40 })
  .map((list) => new Map(list))
  .map((byFrame) =>
    withSamples(
      EMPTY_TRACK,
      [...byFrame].map(([frame, s]) => ({ frame, ...s })),
    ),
  );

/** -0 is 0: a difference does not tell them apart. */
const plain = (m: Measured) => JSON.parse(JSON.stringify(toJson(m))) as unknown;

describe('packed columns', () => {
  it('are what JSON of the same samples would have kept, whatever they are', () => {
    fc.assert(
      fc.property(track, (t) => {
        expect(plain(unpackColumns(packColumns(t)))).toEqual(plain(fromJson(toJson(t))));
      }),
    );
  });

  it('hold a mesh, with its points that have ended', () => {
    const vertex = fc.option(
      fc.record({
        x: fc.double({ min: -1e4, max: 1e4, noNaN: true }),
        y: fc.double({ min: -1e4, max: 1e4, noNaN: true }),
        confidence: fc.double({ min: 0, max: 1, noNaN: true }),
        state: fc.constantFrom(...STATE),
      }),
    );
    const frames = fc.array(fc.array(vertex, { minLength: 5, maxLength: 5 }), { minLength: 1, maxLength: 6 });
    fc.assert(
      fc.property(frames, (list) => {
        const t = withSoftSamples(EMPTY_SOFT_TRACK, list.map((v, f) => softSample(f + 3, v, 0.5))); // prettier-ignore
        const read = unpackColumns(packColumns(t));
        expect(read.width).toBe(5);
        expect(plain(read)).toEqual(plain(fromJson(toJson(t))));
        expect(softAt(read as SoftTrack, 3)!.vertices.map((v) => v?.state)).toEqual(
          list[0].map((v) => v?.state),
        );
      }),
    );
  });

  it('take a third of the room of JSON, or less', () => {
    const long = withSamples(
      EMPTY_TRACK,
      Array.from({ length: 500 }, (_, frame): FramedSample => ({
        ...{ frame, x: 300 + 40 * Math.sin(frame / 9), y: 200 + 3 * Math.cos(frame), state: 'tracked' },
        confidence: 0.9 + 0.05 * Math.sin(frame / 3),
      })),
    );
    expect(packColumns(long).length).toBeLessThan(JSON.stringify(toJson(long)).length / 3);
    expect(unpackColumns(packColumns(emptyMeasured('spot')))).toEqual(emptyMeasured('spot'));
  });

  const some = withSamples(EMPTY_TRACK, [
    { frame: 3, x: 412.5, y: 220.25, confidence: 1, state: 'pinned' },
    { frame: 4, x: 413.1234, y: 221, confidence: 0.91, state: 'tracked' },
  ]);

  it('that are cut off anywhere, or followed by more, are refused', () => {
    const bytes = packColumns(some);
    for (let n = 0; n < bytes.length; n++)
      expect(() => unpackColumns(bytes.subarray(0, n))).toThrow(
        expect.objectContaining({ code: 'bad-track' }),
      );
    expect(() => unpackColumns(Uint8Array.of(...bytes, 0))).toThrow(/more follows/);
  });

  it('that anything was done to are refused or read, and nothing else happens', () => {
    const bytes = packColumns(some);
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: bytes.length - 1 }),
        fc.integer({ min: 0, max: 255 }),
        (at, byte) => {
          const odd = bytes.slice();
          odd[at] = byte;
          try {
            const read = unpackColumns(odd, 100);
            expect(read.start + read.state.length).toBeLessThanOrEqual(100);
          } catch (error) {
            expect(error).toMatchObject({ code: 'bad-track' });
          }
        },
      ),
      { numRuns: 400 },
    );
  });

  it.each([
    ['past the end of the clip', 4, /past the clip's 4 frames/],
    ['within it', 5, null],
  ])('that reach %s', (_, frames, message) => {
    const reading = () => unpackColumns(packColumns(some), frames);
    if (message) expect(reading).toThrow(message);
    else expect(reading().state).toEqual(some.state);
  });
});
