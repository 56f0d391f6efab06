import type { LookLayer } from '../compose/look-layer.js';
import { shakes, trackOf } from '../testing/motions.js';
import { withSamples, sampleAt } from '../track/track.js';
import { rideDoubts, type DoubtedLayer } from './ride-doubts.js';

const truth = shakes(40, 4);
const hidden = trackOf(truth, 300, 200, (f) => f < 12 || f > 20);
// Found, but hardly, on frames 30 and 31.
const track = withSamples(
  hidden,
  [30, 31].map((frame) => ({ ...sampleAt(hidden, frame)!, frame, confidence: frame === 31 ? 0.2 : 0.4 })),
);
const layer = (conceals: boolean, more: Partial<LookLayer> = {}): DoubtedLayer => ({
  ...{ id: 'l', name: 'Plate', conceals },
  look: {
    ...{ id: 'l', frame: 0, ride: { on: 'spot', track }, unknown: 'hold', from: 0, to: Infinity },
    ...{ content: { kind: 'blurred', radius: 3 }, middle: { x: 0, y: 0 }, outline: null, margin: 0 },
    ...{ opacity: 1, keys: [], blend: 'normal', grain: 0, mattes: [] },
    ...more,
  },
});

describe('doubts of what rides', () => {
  it('are where what conceals might slip off: where its ride is not known, or not sure', () => {
    expect(rideDoubts([layer(true)], 0, 39, {})).toEqual([
      expect.objectContaining({
        ...{ spot: 'l', reason: 'may-slip', from: 12, to: 20, severity: 1 },
        sentence: '"Plate" may slip off on frames 12 to 20: what it rides on is not known there.',
      }),
      expect.objectContaining({ from: 30, to: 31, worst: 31, severity: expect.closeTo(0.92, 9) }),
    ]);
  });

  it('say of others what is done meanwhile, and only where nothing is known', () => {
    const [doubt, ...more] = rideDoubts([layer(false)], 0, 39, {});
    expect(more).toEqual([]);
    expect(doubt).toMatchObject({ reason: 'ride-unknown', from: 12, to: 20 });
    expect(doubt.sentence).toMatch(/"Plate" is held on/);
  });

  it('are none beyond the range or the layer’s own frames, on the frame, or once they are accepted', () => {
    expect(rideDoubts([layer(true)], 0, 11, {})).toEqual([]);
    expect(rideDoubts([layer(true, { from: 25, to: 29 })], 0, 39, {})).toEqual([]);
    expect(rideDoubts([layer(true, { ride: { on: 'frame' } })], 0, 39, {})).toEqual([]);
    const accepted = [{ spot: 'l', reason: 'may-slip', from: 12, to: 20 } as const];
    expect(rideDoubts([layer(true)], 0, 25, {}, accepted)).toEqual([]);
  });
});
