import type { Area } from '../geometry/area.js';
import { apply } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import { measureNoise } from '../picture/noise.js';
import { Pyramid } from '../picture/pyramid.js';
import { randomNumbers } from '../testing/footage.js';
import { film, HEIGHT, pinned, rms, shake, sourceOf, WIDTH } from '../testing/trial.js';
import { Covers } from '../geometry/covers.js';
import { suggestSpots } from './grip.js';
import type { FrameSource } from './frame-run.js';
import { closedBy, trackSpots } from './track-spots.js';

const FRAMES = 20;
const motion = shake(FRAMES, 11);
const AT = { x: 120.3, y: 92.7 };
/** A bar that comes in from the left, over nearly half of the patch at AT in the end. */
const edge = (frame: number) => 60 + 2.6 * frame;
const bar: Area = {
  kind: 'ignore',
  smooth: false,
  keys: [0, FRAMES - 1].map((frame) => ({
    frame,
    shape: [
      [-20, -20],
      [edge(frame), -20],
      [edge(frame), HEIGHT + 20],
      [-20, HEIGHT + 20],
    ],
  })),
};

/** The film with a bar of its own texture in front. */
function withBar(planes: readonly Plane[], seed: number): Plane[] {
  return planes.map((plane, frame) => {
    const random = randomNumbers(seed);
    const data = plane.data.slice();
    const until = Math.floor(edge(frame));
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < until; x++) data[y * WIDTH + x] = Math.floor(255 * random());
    return { ...plane, data };
  });
}

async function follow(source: FrameSource) {
  const samples = new Map<number, { x: number; y: number; state: string }>();
  const spot = pinned('a', AT.x, AT.y);
  const settings = { ...spot.settings, lowMatch: 'coast' as const };
  const request = { spots: [{ ...spot, settings }], from: 0, to: FRAMES - 1 };
  for await (const step of trackSpots(source, request))
    for (const { sample } of step.samples) samples.set(sample.frame, sample);
  const errors = [...samples].map(([frame, { x, y }]) => {
    const truth = apply(motion[frame], AT.x, AT.y);
    return Math.hypot(x - truth.x, y - truth.y);
  });
  return { samples, errors };
}

describe('what lies in an ignore area', () => {
  const planes = film(motion);

  it('does not disturb a spot that it covers in part', async () => {
    const open = await follow(closedBy(sourceOf(withBar(planes, 1)), [bar]));
    expect(open.samples.size).toBe(FRAMES - 1);
    expect([...open.samples.values()].every((s) => s.state === 'tracked')).toBe(true);
    expect(rms(open.errors)).toBeLessThan(0.03);
    const disturbed = await follow(sourceOf(withBar(planes, 1)));
    expect(rms(disturbed.errors)).toBeGreaterThan(2 * rms(open.errors));
  });

  it('is never measured: whatever is there, the places are the same', async () => {
    const [one, other] = [1, 2].map((seed) => closedBy(sourceOf(withBar(planes, seed)), [bar]));
    const [a, b] = [await follow(one), await follow(other)];
    expect(a.samples.size).toBe(FRAMES - 1);
    // Where it was looked for first may differ, and with it the last hair of the iteration.
    for (const [frame, { x, y }] of a.samples) {
      expect(Math.abs(b.samples.get(frame)!.x - x)).toBeLessThan(1e-3);
      expect(Math.abs(b.samples.get(frame)!.y - y)).toBeLessThan(1e-3);
    }
  });

  it('hides a spot that it covers wholly', async () => {
    const all: Area = {
      ...bar,
      keys: [
        {
          frame: 0,
          shape: [
            [-20, -20],
            [WIDTH, -20],
            [WIDTH, 400],
            [-20, 400],
          ],
        },
      ],
    };
    const covers = new Covers([all]);
    const from = sourceOf(planes);
    const later: FrameSource = {
      async plane(frame, channel) {
        const plane = await from.plane(frame, channel);
        return frame >= 5 && frame < 9 ? { ...plane, covered: covers.at(frame, WIDTH, HEIGHT)! } : plane;
      },
    };
    const { samples } = await follow(later);
    expect([4, 5, 6, 7, 8, 9].map((f) => samples.get(f)?.state)).toEqual([
      'tracked',
      'coasted',
      'coasted',
      'coasted',
      'coasted',
      'tracked',
    ]);
  });

  it('is no place for a suggestion', () => {
    const focus: Area = {
      kind: 'focus',
      smooth: false,
      keys: [
        {
          frame: 0,
          shape: [
            [60, 40],
            [180, 40],
            [180, 140],
            [60, 140],
          ],
        },
      ],
    };
    const plane = { ...planes[0], covered: new Covers([focus]).at(0, WIDTH, HEIGHT)! };
    const request = { count: 6, patch: [9, 9] as const, reach: [8, 8] as const, within: null, taken: [] };
    const places = suggestSpots(new Pyramid(plane, 3), request, measureNoise(plane));
    expect(places.length).toBeGreaterThan(1);
    for (const { x, y } of places) expect(x > 69 && x < 171 && y > 49 && y < 131).toBe(true);
  });
});
