import { apply, type Matrix3 } from '../geometry/matrix.js';
import { normal, randomNumbers } from '../testing/footage.js';
import { film, pinned, shake, sourceOf } from '../testing/trial.js';
import { joinPasses, mismatches, trackBetween } from './between-pins.js';
import { EMPTY_TRACK, withSamples, type FramedSample } from './track.js';

function walk(frames: number): Matrix3[] {
  const random = randomNumbers(12);
  let [x, y] = [0, 0];
  return Array.from({ length: frames }, (_, i): Matrix3 => {
    if (i > 0) [x, y] = [x + 0.4 + 1.2 * normal(random), y + 1.2 * normal(random)];
    return [1, 0, x, 0, 1, y, 0, 0, 1];
  });
}

const pin = (motion: readonly Matrix3[], frame: number, x: number, y: number): FramedSample => ({
  frame,
  ...apply(motion[frame], x, y),
  confidence: 1,
  state: 'pinned',
});

describe('tracking between two pins', () => {
  it('follows the picture over 60 frames with 15 of them hidden, within 0.3 px where it can be seen', async () => {
    const motion = walk(61);
    const hidden = (i: number) => i >= 22 && i <= 36;
    const pictures = film(motion, (i) => ({
      noise: 2,
      front: hidden(i) ? (x) => (x > 50 && x < 190 ? 75 : null) : undefined,
    }));
    const spot = pinned('a', 105, 85);
    const track = withSamples(spot.track, [pin(motion, 60, 105, 85)]);
    const { samples, unseen } = await trackBetween(sourceOf(pictures), { ...spot, track }, 0, 60);
    expect(samples.map((s) => s.frame)).toEqual(Array.from({ length: 59 }, (_, i) => i + 1));
    for (const s of samples) {
      const truth = apply(motion[s.frame], 105, 85);
      const off = Math.hypot(s.x - truth.x, s.y - truth.y);
      if (hidden(s.frame)) expect(s.state).toBe('coasted');
      else {
        expect(s.state).toBe('tracked');
        expect(off).toBeLessThan(0.3);
      }
    }
    expect(unseen).toBe(15);
  });

  it('is not a straight line between the pins', async () => {
    const motion = shake(12, 31);
    const spot = pinned('a', 105, 85);
    const track = withSamples(spot.track, [pin(motion, 11, 105, 85)]);
    const { samples } = await trackBetween(sourceOf(film(motion)), { ...spot, track }, 0, 11);
    for (const s of samples) {
      const truth = apply(motion[s.frame], 105, 85);
      expect(Math.hypot(s.x - truth.x, s.y - truth.y)).toBeLessThan(0.1);
    }
  });

  it('needs both pins', async () => {
    const spot = pinned('a', 105, 85);
    await expect(trackBetween(sourceOf(film(shake(4, 1))), spot, 0, 3)).rejects.toMatchObject({
      code: 'no-pin',
    });
  });
});

describe('joining two passes', () => {
  const at = (frame: number, x: number, state: FramedSample['state'] = 'tracked'): FramedSample => ({
    ...{ frame, x, y: 0, confidence: 0.9, state },
  });
  const track = (...samples: FramedSample[]) => withSamples(EMPTY_TRACK, samples);

  it('shares out what each misses at the far pin, so that both ends are exact', () => {
    // The forward pass drifts by 2 px over ten frames; the backward one by 1 px.
    const forth = track(...Array.from({ length: 10 }, (_, i) => at(i + 1, 0.2 * (i + 1))));
    const back = track(...Array.from({ length: 10 }, (_, i) => at(i, -0.1 * (10 - i))));
    const joined = joinPasses(forth, back, at(0, 0, 'pinned'), at(10, 0, 'pinned'));
    for (const s of joined) expect(Math.abs(s.x)).toBeLessThan(1e-9);
  });

  it('believes a pass that slipped to something else only until it weakened', () => {
    const slipped = Array.from({ length: 10 }, (_, i) => ({
      ...at(i + 1, i < 4 ? 0 : 24),
      confidence: i === 4 ? 0.5 : 0.9,
    }));
    const back = track(...Array.from({ length: 10 }, (_, i) => at(i, 0)));
    const joined = joinPasses(track(...slipped), back, at(0, 0, 'pinned'), at(10, 0, 'pinned'));
    for (const s of joined) expect(Math.abs(s.x)).toBeLessThan(1e-9);
  });

  it('marks what the passes disagree about, and trusts it less', () => {
    const forth = track(...Array.from({ length: 9 }, (_, i) => at(i + 1, i + 1 === 5 ? 3 : 0)), at(10, 0));
    const back = track(at(0, 0), ...Array.from({ length: 9 }, (_, i) => at(i + 1, 0)));
    const joined = joinPasses(forth, back, at(0, 0, 'pinned'), at(10, 0, 'pinned'));
    const five = joined.find((s) => s.frame === 5)!;
    expect(five.mismatch).toBeCloseTo(3, 6);
    expect(five.confidence).toBeLessThan(0.6);
    expect(joined.filter((s) => s.mismatch)).toHaveLength(1);
  });

  it('notes by how much the way back differs, and moves nothing', () => {
    const there = track(at(1, 1), at(2, 2), at(3, 9), at(4, 4, 'coasted'));
    const noted = mismatches(there, [at(4, 4), at(3, 3), at(2, 2.1), at(1, 50, 'coasted')]);
    expect(noted.map((s) => [s.frame, s.x, s.mismatch])).toEqual([
      [3, 9, 6],
      [2, 2, 0],
    ]);
  });

  it('takes the side that saw the feature where the other coasted', () => {
    const forth = track(at(1, 1), at(2, 40, 'coasted'), at(3, 60, 'coasted'));
    const back = track(at(1, 1), at(2, 2), at(3, 3));
    const joined = joinPasses(forth, back, at(0, 0, 'pinned'), at(4, 4, 'pinned'));
    expect(joined.map((s) => [s.frame, s.state, Math.round(s.x * 10) / 10])).toEqual([
      [1, 'tracked', 1],
      [2, 'tracked', 2],
      [3, 'tracked', 3],
    ]);
  });
});
