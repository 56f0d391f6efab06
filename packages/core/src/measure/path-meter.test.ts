import { apply, invert, multiply, translation, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity } from '../geometry/similarity.js';
import { normal, randomNumbers, speckledSurface, takePicture } from '../testing/footage.js';
import { PathMeter } from './path-meter.js';
import { gridOver } from './shakiness.js';

const W = 240;
const H = 160;
const surface = speckledSurface(61);

function measured(motion: readonly Matrix3[]): Matrix3[] {
  const meter = new PathMeter();
  for (const m of motion) meter.add(takePicture(surface, m, W, H, { noise: 1 }), gridOver(0, 0, W, H));
  return [...meter.matrices];
}

const off = (found: Matrix3, truth: Matrix3) => {
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
    measured(motion).forEach((m, f) => expect(off(m, multiply(motion[f], back))).toBeLessThan(0.08));
  });

  it('does not add up errors over a pan that leaves the first picture behind', () => {
    const motion = Array.from({ length: 24 }, (_, f) => translation(-9 * f, 0.5 * f));
    const found = measured(motion);
    expect(off(found[23], motion[23])).toBeLessThan(0.4);
  });

  it('keeps its place where nothing can be found again', () => {
    const meter = new PathMeter();
    const flat = takePicture(() => 90, [1, 0, 0, 0, 1, 0, 0, 0, 1], W, H);
    for (let f = 0; f < 3; f++) meter.add(flat, gridOver(0, 0, W, H));
    expect(meter.matrices).toHaveLength(3);
    expect(off(meter.matrices[2], translation(0, 0))).toBe(0);
  });
});
