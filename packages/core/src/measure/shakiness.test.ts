import { composeSimilarity } from '../geometry/similarity.js';
import { apply, IDENTITY, invert, multiply, type Matrix3 } from '../geometry/matrix.js';
import { Pyramid } from '../picture/pyramid.js';
import { normal, randomNumbers, speckledSurface, takePicture } from '../testing/footage.js';
import { motionBetween, ShakinessMeter } from './shakiness.js';

const surface = speckledSurface(31);
const W = 240;
const H = 160;

function shakiness(motion: readonly Matrix3[]): number {
  const meter = new ShakinessMeter();
  for (const m of motion) meter.add(takePicture(surface, m, W, H, { noise: 1 }));
  return meter.result(25);
}

describe('shakiness', () => {
  it('of a camera on a tripod is next to nothing, of a steady pan too', () => {
    expect(shakiness(Array.from({ length: 15 }, () => IDENTITY))).toBeLessThan(0.1);
    expect(
      shakiness(Array.from({ length: 15 }, (_, i): Matrix3 => [1, 0, -3 * i, 0, 1, 0, 0, 0, 1])),
    ).toBeLessThan(1);
  });

  it('grows with the shake and has its size', () => {
    const random = randomNumbers(4);
    const unit = Array.from({ length: 24 }, () => [normal(random), normal(random)]);
    const shaken = (size: number) =>
      shakiness(unit.map(([x, y]): Matrix3 => [1, 0, size * x, 0, 1, size * y, 0, 0, 1]));
    const [small, large] = [shaken(1), shaken(4)];
    expect(large / small).toBeGreaterThan(3.4);
    expect(large / small).toBeLessThan(4.6);
    expect(large).toBeGreaterThan(4);
    expect(large).toBeLessThan(7);
  });

  it('of a long clip is that of its stretches, each by itself; what lies between is not looked at', () => {
    const steady = takePicture(surface, IDENTITY, W, H, { noise: 1 });
    const meter = new ShakinessMeter();
    let looked = 0;
    const seen = { ...steady };
    Object.defineProperty(seen, 'width', {
      get: () => {
        looked++;
        return W;
      },
    });
    for (let i = 0; i < 300; i++) meter.add(steady);
    // Another view: a step to it would be a shake of hundreds of pixels.
    const away = takePicture(surface, [1, 0, -300, 0, 1, 0, 0, 0, 1], W, H, { noise: 1 });
    for (let i = 0; i < 100; i++) meter.add(away);
    const before = looked;
    for (let i = 0; i < 1400; i++) meter.add(seen);
    expect(looked).toBe(before);
    meter.add(seen);
    expect(looked).toBeGreaterThan(before);
    expect(meter.result(25)).toBeLessThan(0.1);
  });

  it('measures the motion of the whole picture, not of a mover in front', () => {
    const m = composeSimilarity({ x: 4, y: -3, rotation: 0.01, logScale: 0.004 }, { x: W / 2, y: H / 2 });
    const a = takePicture(surface, IDENTITY, W, H);
    const b = takePicture(surface, m, W, H);
    const mover = takePicture(speckledSurface(77), IDENTITY, 60, H);
    for (let y = 0; y < H; y++) {
      for (let x = 0; x < 60; x++) {
        a.data[y * W + x + 20] = mover.data[y * 60 + x];
        b.data[y * W + x + 29] = mover.data[y * 60 + x];
      }
    }
    const found = multiply(motionBetween(new Pyramid(a, 4), new Pyramid(b, 4)), invert(m));
    const p = apply(found, W / 2, H / 2);
    expect(Math.hypot(p.x - W / 2, p.y - H / 2)).toBeLessThan(0.15);
  });

  it('is 0 for fewer than three frames', () => {
    expect(shakiness([IDENTITY])).toBe(0);
  });
});
