import { bridgeMesh, gapOfMesh } from './soft-bridge.js';
import { EMPTY_SOFT_TRACK, softAt, softSample, withSoftSamples, type SoftVertex } from './soft-track.js';

/** Two vertices that go on steadily; the first is hidden on frames 4 to 6, both are missing on frame 8. */
const at = (x: number, state: SoftVertex['state']): SoftVertex => ({ x, y: 2 * x, confidence: 0.9, state });
const TRACK = withSoftSamples(
  EMPTY_SOFT_TRACK,
  Array.from({ length: 12 }, (_, f) => f)
    .filter((f) => f !== 8)
    .map((f) =>
      softSample(f, [
        f < 4 || f > 6 ? at(f, 'tracked') : f === 5 ? null : at(99, 'coasted'),
        at(50 + f, 'tracked'),
      ]),
    ),
);
const place = (track: typeof TRACK, frame: number, v: number) => softAt(track, frame)?.vertices[v];

describe('a gap of a mesh', () => {
  it('is bridged point by point, from where each was to where it is again', () => {
    const bridged = bridgeMesh(TRACK, 3, 9);
    for (const f of [4, 5, 6]) {
      expect(place(bridged, f, 0)).toMatchObject({
        x: expect.closeTo(f, 6),
        y: expect.closeTo(2 * f, 6),
        state: 'bridged',
      });
      expect(place(bridged, f, 1)).toEqual(place(TRACK, f, 1));
    }
    expect(place(bridged, 8, 0)).toMatchObject({ x: expect.closeTo(8, 6), state: 'bridged' });
    expect(place(bridged, 8, 1)).toMatchObject({ x: expect.closeTo(58, 6), state: 'bridged' });
    expect(softAt(bridged, 8)!.state).toBe('bridged');
    expect(place(bridged, 7, 0)).toEqual(place(TRACK, 7, 0));
  });

  it('is as long as what is not seen on a frame is not seen', () => {
    expect(gapOfMesh(TRACK, 5)).toEqual({ from: 3, to: 7 });
    expect(gapOfMesh(TRACK, 8)).toEqual({ from: 7, to: 9 });
    expect(gapOfMesh(TRACK, 5, new Set([1]))).toEqual({ from: 5, to: 5 });
  });

  it('is bridged for chosen points alone, and refused where none has one', () => {
    const only = bridgeMesh(TRACK, 8, 8, new Set([1]));
    expect(place(only, 8, 0)).toBeNull();
    expect(place(only, 8, 1)).toMatchObject({ state: 'bridged' });
    expect(() => bridgeMesh(TRACK, 0, 2)).toThrow('None of its points has a gap');
    expect(() => bridgeMesh(TRACK, 4, 6, new Set([1]))).toThrow('None of its points');
  });
});
