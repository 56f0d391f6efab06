import { IDENTITY, translation, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity } from '../geometry/similarity.js';
import { createPlane, type Plane } from '../picture/plane.js';
import { CleanPlate, framesForPlate, plateFrames, plateWarp } from './clean-plate.js';

const SIZE = { width: 96, height: 64 };
const CODE = { range: 'tv', space: 'bt709' } as const;

/** A smooth wall, and what it is at a place. */
const wall = (x: number, y: number) => 120 + 50 * Math.sin(x / 9) * Math.cos(y / 7);

/** What the camera sees whose frame lies so on the wall, a grey bar standing in it at a place of its own. */
function seen(toWall: (x: number, y: number) => { x: number; y: number }, bar: number): Plane {
  const plane = createPlane(SIZE.width, SIZE.height);
  for (let j = 0; j < SIZE.height; j++)
    for (let i = 0; i < SIZE.width; i++) {
      const { x, y } = toWall(i + 0.5, j + 0.5);
      plane.data[j * SIZE.width + i] = Math.abs(i - bar) < 6 ? 20 : Math.round(wall(x, y));
    }
  return plane;
}

const chroma = (value: number) => {
  const plane = createPlane(SIZE.width / 2, SIZE.height / 2);
  plane.data.fill(value);
  return plane;
};

describe('a clean plate', () => {
  it('shows what stands still, without what passes, and is open where no picture was', () => {
    const plate = new CleanPlate(SIZE, 'left');
    const shifts = [0, 3, -2, 5, -4, 1, 2].map((s, k) => ({ s, bar: 8 + 13 * k }));
    for (const { s, bar } of shifts) {
      // A place of the plate is `s` further left on the frame.
      const y = seen((x, v) => ({ x: x + s, y: v }), bar);
      const toLuma = plateWarp(translation(-s, 0), IDENTITY);
      plate.add({ y, u: chroma(100), v: chroma(150), subsampling: { x: 2, y: 2 }, toLuma });
    }
    const rgba = plate.median(CODE, 1080);
    let worst = 0;
    for (let j = 4; j < SIZE.height - 4; j++)
      for (let i = 8; i < SIZE.width - 8; i++) {
        const k = 4 * (j * SIZE.width + i);
        expect(rgba[k + 3]).toBe(255);
        const light = (wall(i + 0.5, j + 0.5) - 16) / 219;
        const luma = (0.2126 * rgba[k] + 0.7152 * rgba[k + 1] + 0.0722 * rgba[k + 2]) / 255;
        worst = Math.max(worst, Math.abs(255 * (light - luma)));
      }
    expect(worst).toBeLessThan(3);
  });

  it('covers nothing where no frame reaches', () => {
    const plate = new CleanPlate(SIZE, 'left');
    const y = seen((x, v) => ({ x, y: v }), -100);
    for (let k = 0; k < 3; k++)
      plate.add({
        ...{ y, u: chroma(128), v: chroma(128), subsampling: { x: 2, y: 2 } as const },
        toLuma: plateWarp(translation(-30, 0), IDENTITY),
      });
    const rgba = plate.median(CODE, 1080);
    const alpha = (i: number) => rgba[4 * (20 * SIZE.width + i) + 3];
    expect([alpha(10), alpha(28), alpha(40)]).toEqual([0, 0, 255]);
  });

  it('is made from frames evenly apart that show it, its own always among them', () => {
    const pan = (f: number): Matrix3 | null => (f === 30 ? null : translation(-2 * (f - 50), 0));
    const chosen = framesForPlate(0, 100, 50, SIZE, pan);
    expect(chosen).toContain(50);
    expect(chosen).not.toContain(30);
    // Two thirds of its width away it no longer shows enough.
    expect(Math.min(...chosen)).toBeGreaterThan(50 - 0.75 * (SIZE.width / 2));
    expect(chosen.length).toBeLessThanOrEqual(plateFrames(SIZE) + 1);
    expect(framesForPlate(0, 9, 4, SIZE, () => null)).toEqual([4]);
    const turned = composeSimilarity({ x: 0, y: 0, rotation: 0.2, logScale: 0 }, { x: 48, y: 32 });
    expect(framesForPlate(0, 4, 2, SIZE, () => turned)).toEqual([0, 1, 2, 3, 4]);
  });

  it('takes fewer frames where they are large', () => {
    expect(plateFrames({ width: 1920, height: 1080 })).toBe(31);
    expect(plateFrames({ width: 3840, height: 2160 })).toBe(11);
    expect(plateFrames({ width: 20000, height: 10000 })).toBe(3);
  });
});
