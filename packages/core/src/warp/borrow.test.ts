import { IDENTITY, invert, multiply, translation, type Matrix3 } from '../geometry/matrix.js';
import { matrixWarp, type Warp } from '../geometry/warp.js';
import { createPlane, type Plane } from '../picture/plane.js';
import { speckledSurface, takePicture } from '../testing/footage.js';
import { borrowPlane, coverPlane, donorOffset, donorStride, featherOf, planBorrow } from './borrow.js';
import { warpPlane } from './warp-plane.js';

const SIZE = { width: 160, height: 90 };
const surface = speckledSurface(41);
/** A camera that swings to and fro: frame f sees the surface moved by x(f). */
const x = [0, -6, -12, -6, 0, 6, 12, 6];
const motion = (f: number): Matrix3 => translation(x[f], 0);
const picture = (f: number, gain = 1): Plane =>
  takePicture(surface, motion(f), SIZE.width, SIZE.height, { gain });

const worst = (a: Plane, b: Plane, from = 0) => {
  let most = 0;
  for (let j = from; j < a.height - from; j++)
    for (let i = from; i < a.width - from; i++)
      most = Math.max(most, Math.abs(a.data[j * a.stride + i] - b.data[j * b.stride + i]));
  return most;
};

/** Places of a picture that is moved onto frame 0, in another frame. */
const lentTo =
  (frame: number, toSource: Matrix3) =>
  (f: number): Warp =>
    matrixWarp(multiply(motion(f), multiply(invert(motion(frame)), toSource)));
const plan = (frame: number, picture: Matrix3, candidates: readonly number[]) =>
  planBorrow(frame, matrixWarp(invert(picture)), lentTo(frame, invert(picture)), candidates, SIZE, SIZE);

describe('borrowing', () => {
  // Frame 2 is moved back onto frame 0: 12 px are missing on its right, which frame 0 and 1 show.
  const frames = [0, 1, 2, 3, 4, 5, 6, 7];
  const back = invert(motion(2));

  it('takes what is missing from the frames that show it, the nearer the better', () => {
    const { donors, unseen } = plan(2, back, frames);
    expect(unseen).toBe(0);
    expect(donors.length).toBeGreaterThan(0);
    for (const d of donors) {
      expect(d.frame).not.toBe(2);
      // Output places lie in the donor where the motion takes them.
      expect(d.toSource).toEqual(matrixWarp(motion(d.frame)));
    }
    expect(plan(0, IDENTITY, frames)).toEqual({ donors: [], unseen: 0 });
  });

  it('says how much nobody ever saw', () => {
    // Frame 6, moved on by another 12 px: the left is shown by none.
    const beyond = multiply(translation(24, 0), invert(motion(6)));
    const { unseen } = plan(6, beyond, frames);
    expect(unseen).toBeGreaterThan(0.03);
    expect(unseen).toBeLessThan(0.25);
    expect(plan(6, beyond, [6]).donors).toEqual([]);
  });

  it('gives the picture that a wider camera would have taken, without a seam', () => {
    const { donors } = plan(2, back, frames);
    const own = { plane: picture(2), toSource: matrixWarp(motion(2)), offset: 0 };
    const out = createPlane(SIZE.width, SIZE.height);
    warpPlane(own.plane, out, own.toSource, 0);
    const sheets = [
      own,
      ...donors.map((d) => ({ plane: picture(d.frame), toSource: d.toSource, offset: 0 })),
    ];
    borrowPlane(sheets, out, featherOf(SIZE), 0);
    expect(worst(out, picture(0), 3)).toBeLessThanOrEqual(3);
  });

  it('matches the brightness of a donor that is lighter', () => {
    const own = { plane: picture(2), toSource: matrixWarp(motion(2)), offset: 0 };
    const lighter = { plane: picture(1, 1.2), toSource: matrixWarp(motion(1)), offset: 0 };
    const same = { plane: picture(1), toSource: matrixWarp(motion(1)), offset: 0 };
    expect(Math.abs(donorOffset(own, same, SIZE, 4))).toBeLessThanOrEqual(2);
    expect(donorOffset(own, lighter, SIZE, 4)).toBeLessThan(-8);
    expect(donorOffset(own, { ...same, toSource: matrixWarp(translation(900, 0)) }, SIZE, 4)).toBe(0);
  });

  it('leaves alone what nothing covers', () => {
    const own = { plane: picture(0), toSource: matrixWarp(translation(30, 0)), offset: 0 };
    const out = createPlane(SIZE.width, SIZE.height);
    warpPlane(own.plane, out, own.toSource, 55);
    borrowPlane([own], out, 4, 55);
    for (let j = 0; j < SIZE.height; j++) expect(out.data[j * out.stride + SIZE.width - 5]).toBe(55);
  });

  it('keeps fewer frames of a shot that is too large for memory', () => {
    expect(donorStride({ width: 1280, height: 720 }, 150)).toBe(1);
    expect(donorStride({ width: 3840, height: 2160 }, 1000)).toBeGreaterThan(20);
  });
});

describe('cover', () => {
  it('is full inside the picture, nothing outside, and between on its rim', () => {
    const out = createPlane(20, 10);
    coverPlane(out, matrixWarp(translation(-4.2, 0)), { width: 20, height: 10 });
    const row = [...out.data.subarray(5 * out.stride, 5 * out.stride + 20)];
    expect(row.slice(0, 3)).toEqual([0, 0, 0]);
    expect(row.slice(3, 6).some((v) => v > 0 && v < 255)).toBe(true);
    expect(row.slice(6, 20)).toEqual(Array(14).fill(255));
  });
});
