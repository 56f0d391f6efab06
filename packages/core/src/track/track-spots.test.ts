import { apply, IDENTITY, type Matrix3 } from '../geometry/matrix.js';
import { createPlane, type Plane } from '../picture/plane.js';
import { Pyramid } from '../picture/pyramid.js';
import { randomNumbers, speckledSurface, takePicture } from '../testing/footage.js';
import { film, HEIGHT, pinned, rms, run, SETTINGS, shake, sourceOf, WIDTH } from '../testing/trial.js';
import { SpotTracker } from './spot-tracker.js';
import { trackSpots, type TrackStep } from './track-spots.js';
import { EMPTY_TRACK, samplesOf, withSamples } from './track.js';

function errors(steps: readonly TrackStep[], motion: readonly Matrix3[], x: number, y: number): number[] {
  return steps.flatMap((step) =>
    step.samples.map(({ sample }) => {
      const truth = apply(motion[sample.frame], x, y);
      return Math.hypot(sample.x - truth.x, sample.y - truth.y);
    }),
  );
}

describe('tracking against exact truth', () => {
  it('follows clean footage within 0.02 px RMS', async () => {
    const motion = shake(20, 3);
    const e = errors(await run(film(motion), [pinned('a', 100.3, 80.7)], 0, 19), motion, 100.3, 80.7);
    expect(e).toHaveLength(19);
    expect(rms(e)).toBeLessThan(0.02);
  });

  it('follows noise, flicker, turning and scaling within 0.2 px RMS', async () => {
    const motion = shake(20, 4, 0.012);
    const random = randomNumbers(9);
    const pictures = film(motion, () => ({
      noise: 4,
      gain: 0.9 + 0.2 * random(),
      offset: 12 * (random() - 0.5),
    }));
    const e = errors(await run(pictures, [pinned('a', 120, 92)], 0, 19), motion, 120, 92);
    expect(e).toHaveLength(19);
    expect(rms(e)).toBeLessThan(0.2);
  });

  it('gives the same path backwards as it was put in', async () => {
    const motion = shake(12, 5);
    const place = apply(motion[11], 90, 70);
    const steps = await run(film(motion), [pinned('a', place.x, place.y, 11)], 11, 0);
    expect(steps.map((s) => s.frame)).toEqual([10, 9, 8, 7, 6, 5, 4, 3, 2, 1, 0]);
    expect(rms(errors(steps, motion, 90, 70))).toBeLessThan(0.03);
  });

  it('finds moves as large as the reach, and no larger', async () => {
    const jump = (dx: number, dy: number): Matrix3[] => [IDENTITY, [1, 0, dx, 0, 1, dy, 0, 0, 1]];
    const within = await run(film(jump(19.6, -15.5)), [pinned('a', 110, 95)], 0, 1);
    expect(rms(errors(within, jump(19.6, -15.5), 110, 95))).toBeLessThan(0.03);
    const beyond = await run(film(jump(45, 0)), [pinned('a', 110, 95)], 0, 1);
    expect(beyond[0].samples).toHaveLength(0);
  });

  it('does not drift when the template is refreshed', async () => {
    const still = Array.from({ length: 25 }, () => IDENTITY);
    const pictures = film(still, (i) => ({ noise: 9, seed: i + 1 }));
    const e = errors(await run(pictures, [pinned('a', 100, 80)], 0, 24), still, 100, 80);
    expect(e).toHaveLength(24);
    expect(rms(e.slice(-8))).toBeLessThan(0.6);
    expect(rms(e.slice(-8))).toBeLessThan(2 * rms(e.slice(0, 8)) + 0.1);
  });
});

describe('stopping', () => {
  it('says that a spot has left the picture', async () => {
    const motion = Array.from({ length: 15 }, (_, i): Matrix3 => [1, 0, -12 * i, 0, 1, 0, 0, 0, 1]);
    const steps = await run(film(motion), [pinned('a', 100, 90)], 0, 14);
    const stop = steps.flatMap((s) => s.stopped)[0];
    expect(stop.reason).toBe('left-picture');
    expect(stop.frame).toBeGreaterThanOrEqual(8);
    expect(stop.frame).toBeLessThanOrEqual(10);
    expect(stop.message).toMatch(/"a" left the picture at frame \d+/);
  });

  it('says that the match has failed, and keeps the others going', async () => {
    const motion = shake(6, 8);
    const pictures = film(motion);
    const other = speckledSurface(99);
    for (const frame of [3, 4, 5]) {
      const cover = takePicture(other, IDENTITY, WIDTH, HEIGHT);
      for (let y = 0; y < HEIGHT; y++)
        for (let x = 0; x < 110; x++) pictures[frame].data[y * WIDTH + x] = cover.data[y * WIDTH + x];
    }
    const steps = await run(pictures, [pinned('hidden', 60, 90), pinned('seen', 180, 90)], 0, 5);
    expect(steps.flatMap((s) => s.stopped)).toMatchObject([
      { id: 'hidden', frame: 3, reason: 'match-failed' },
    ]);
    expect(steps[steps.length - 1].samples.map((s) => s.id)).toEqual(['seen']);
  });

  it('refuses a patch without texture, a straight edge, a place outside and a patch larger than the picture', () => {
    const flat = createPlane(WIDTH, HEIGHT);
    flat.data.fill(90);
    const edge = createPlane(WIDTH, HEIGHT);
    edge.data.forEach((_, i) => (edge.data[i] = i % WIDTH < 100 ? 40 : 200));
    const make =
      (plane: Plane, x: number, patch: [number, number] = [12, 12]) =>
      () =>
        new SpotTracker({ ...SETTINGS, patch }, new Pyramid(plane, 4), x, 90);
    expect(make(flat, 100)).toThrow(expect.objectContaining({ code: 'flat-patch' }));
    expect(make(edge, 100)).toThrow(expect.objectContaining({ code: 'flat-patch' }));
    expect(make(flat, -3)).toThrow(expect.objectContaining({ code: 'spot-outside' }));
    expect(make(flat, 100, [120, 12])).toThrow(expect.objectContaining({ code: 'patch-too-large' }));
  });

  it('stops at the signal and says so', async () => {
    const pictures = film(shake(4, 2));
    const steps = trackSpots(
      sourceOf(pictures),
      { spots: [pinned('a', 100, 80)], from: 0, to: 3 },
      { aborted: true },
    );
    await expect(steps.next()).rejects.toMatchObject({ code: 'stopped' });
  });
});

describe('odd requests', () => {
  it('a spot on the last frame has nothing ahead, and a clip of one frame nothing at all', async () => {
    const pictures = film(shake(3, 2));
    expect(await run(pictures, [pinned('a', 100, 80, 2)], 2, 2)).toEqual([]);
    expect(await run(pictures.slice(0, 1), [pinned('a', 100, 80)], 0, 0)).toEqual([]);
  });

  it('a patch partly outside the picture is followed by what lies inside', async () => {
    const motion = Array.from({ length: 8 }, (_, i): Matrix3 => [1, 0, 0.4 * i, 0, 1, 0.9 * i, 0, 0, 1]);
    const steps = await run(film(motion), [pinned('a', 8, 90)], 0, 7);
    const e = errors(steps, motion, 8, 90);
    expect(e).toHaveLength(7);
    expect(rms(e)).toBeLessThan(0.3);
  });

  it('a patch that is too large or has no texture stops its own spot, with a sentence, and no other', async () => {
    const pictures = film(shake(3, 2));
    const large = { ...pinned('large', 100, 80), settings: { ...SETTINGS, patch: [200, 12] as const } };
    const steps = await run(pictures, [large, pinned('a', 100, 80)], 0, 2);
    expect(steps[0].stopped).toMatchObject([{ id: 'large', reason: 'patch-too-large' }]);
    expect(steps[0].stopped[0].message).toMatch(/"large": A patch of 401 x 25 does not fit/);
    expect(steps[2].samples.map((s) => s.id)).toEqual(['a']);
  });

  it('the tracker’s eye finds faint texture that a bright flicker hides', async () => {
    const motion = shake(8, 13);
    const random = randomNumbers(3);
    const faint = speckledSurface(7);
    const pictures = motion.map((m) =>
      takePicture((x, y) => 120 + 0.12 * (faint(x, y) - 120), m, WIDTH, HEIGHT, {
        noise: 0.5,
        gain: 0.8 + 0.4 * random(),
      }),
    );
    const seen = {
      ...pinned('a', 100.3, 80.7),
      settings: { ...SETTINGS, eye: { ...SETTINGS.eye, localContrast: 1 } },
    };
    const steps = await run(pictures, [seen], 0, 7);
    expect(errors(steps, motion, 100.3, 80.7)).toHaveLength(7);
    expect(rms(errors(steps, motion, 100.3, 80.7))).toBeLessThan(0.3);
  });
});

describe('pins', () => {
  it('are never moved and are followed on from', async () => {
    const motion = shake(10, 11);
    const pin = apply(motion[5], 140, 100);
    const track = withSamples(pinned('a', 90, 70).track, [
      { frame: 5, ...pin, confidence: 1, state: 'pinned' },
    ]);
    const steps = await run(film(motion), [{ ...pinned('a', 90, 70), track }], 0, 9);
    expect(steps[4].samples).toEqual([]);
    expect(rms(errors(steps.slice(0, 4), motion, 90, 70))).toBeLessThan(0.03);
    expect(rms(errors(steps.slice(5), motion, 140, 100))).toBeLessThan(0.03);
  });

  it('a frame without a sample cannot be tracked from', async () => {
    await expect(run(film(shake(4, 1)), [pinned('a', 90, 70)], 2, 3)).rejects.toMatchObject({
      code: 'no-sample',
    });
  });

  it('confidence falls as the match gets worse', async () => {
    const still = [IDENTITY, IDENTITY];
    const level = async (noise: number) => {
      const steps = await run(
        film(still, (i) => ({ noise: i ? noise : 0 })),
        [pinned('a', 100, 80)],
        0,
        1,
      );
      return (
        [
          ...samplesOf(
            withSamples(
              EMPTY_TRACK,
              steps[0].samples.map((s) => s.sample),
            ),
          ),
        ][0]?.confidence ?? 0
      );
    };
    const [clean, some, much] = [await level(0), await level(10), await level(25)];
    expect(clean).toBeGreaterThan(0.98);
    expect(some).toBeLessThan(clean);
    expect(much).toBeLessThan(some);
  });
});
