import { createPlane, PlaneCoding } from '@lurn/core/picture';
import { meanColour } from './mean-colour';

const coding = new PlaneCoding({ range: 'tv', space: 'bt709' }, 1080);
const grey = (w: number, h: number, value: number) => {
  const plane = createPlane(w, h);
  plane.data.fill(value);
  return plane;
};

describe('the colour about a place', () => {
  it('is the mean of nine samples, and at the rim of those that are there', () => {
    const y = grey(8, 8, 16);
    y.data[3 * 8 + 3] = 16 + 9 * 20;
    const picture = { y, u: grey(4, 4, 128), v: grey(4, 4, 128), subsampling: { x: 2, y: 2 } as const };
    const level = Math.round((255 * 20) / 219);
    expect(meanColour(picture, { x: 4.5, y: 2.5 }, coding)).toEqual([level, level, level]);
    expect(meanColour(picture, { x: 0.1, y: 7.9 }, coding)).toEqual([0, 0, 0]);
    expect([
      meanColour(picture, { x: -0.1, y: 2 }, coding),
      meanColour(picture, { x: 2, y: 8 }, coding),
    ]).toEqual([null, null]);
  });

  it('takes chroma where it lies', () => {
    const [u, v] = [grey(4, 4, 128), grey(4, 4, 128)];
    for (const [i, j] of [
      [0, 0],
      [1, 0],
      [0, 1],
      [1, 1],
    ])
      v.data[4 * j + i] = 240;
    const picture = { y: grey(8, 8, 63), u, v, subsampling: { x: 2, y: 2 } as const };
    const [r, , b] = meanColour(picture, { x: 1.5, y: 1.5 }, coding)!;
    expect([r > 245, b < 70]).toEqual([true, true]);
    expect(meanColour(picture, { x: 6.5, y: 6.5 }, coding)).toEqual([55, 55, 55]);
  });
});
