import { apply, invert, multiply, translation, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity } from '../geometry/similarity.js';
import { normal, randomNumbers, speckledSurface, takePicture } from '../testing/footage.js';
import { PathMeter } from './path-meter.js';
import { gridOver } from './shakiness.js';

const W = 240;
const H = 160;
const surface = speckledSurface(61);

/** @param told  what the meter is told of the motion: it may be wrong by some pixels */
function measured(motion: readonly Matrix3[], told = motion): (Matrix3 | null)[] {
  const meter = new PathMeter();
  motion.forEach((m, f) =>
    meter.add(takePicture(surface, m, W, H, { noise: 1 }), gridOver(0, 0, W, H), told[f]),
  );
  return [...meter.matrices];
}

const off = (found: Matrix3 | null, truth: Matrix3) => {
  if (!found) return Infinity;
  const [p, q] = [apply(found, W / 2, H / 2), apply(truth, W / 2, H / 2)];
  return Math.hypot(p.x - q.x, p.y - q.y);
};

describe('the course of a film', () => {
  it('is measured to a few hundredths of a pixel, shake and turn', () => {
    const random = randomNumbers(9);
    const motion = Array.from({ length: 12 }, () =>
      composeSimilarity(
        { x: 3 * normal(random), y: 2 * normal(random), rotation: 0.01 * normal(random), logScale: 0 },
        { x: W / 2, y: H / 2 },
      ),
    );
    const back = invert(motion[0]);
    // It is told that nothing moves: what it says is what it sees.
    const still = motion.map(() => translation(0, 0));
    measured(motion, still).forEach((m, f) => expect(off(m, multiply(motion[f], back))).toBeLessThan(0.08));
  });

  it('does not add up errors over a pan that leaves the first picture behind', () => {
    const motion = Array.from({ length: 24 }, (_, f) => translation(-9 * f, 0.5 * f));
    const found = measured(motion);
    expect(off(found[23], motion[23])).toBeLessThan(0.4);
  });

  it('passes over pictures in which the thing is hidden, and goes on where it is seen again', () => {
    const motion = Array.from({ length: 12 }, (_, f) => translation(6 * f, -2 * f));
    const meter = new PathMeter();
    const cover = takePicture(() => 90, translation(0, 0), W, H, { noise: 2 });
    motion.forEach((m, f) => {
      if (f === 4) meter.skip();
      else meter.add(f >= 5 && f <= 8 ? cover : takePicture(surface, m, W, H), gridOver(0, 0, W, H), m);
    });
    expect(meter.matrices.slice(4, 9)).toEqual([null, null, null, null, null]);
    for (const f of [3, 9, 11]) expect(off(meter.matrices[f], motion[f])).toBeLessThan(0.1);
  });
});
