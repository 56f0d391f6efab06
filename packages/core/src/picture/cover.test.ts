import { halvedCover, openPart } from './cover.js';
import { UPRIGHT } from './sampling.js';

const [W, H] = [100, 60];
/** Closed from column 18 to 61 and row 8 to 41. */
const covered = Uint8Array.from({ length: W * H }, (_, p) => {
  const [x, y] = [p % W, Math.floor(p / W)];
  return x >= 18 && x < 62 && y >= 8 && y < 42 ? 1 : 0;
});

it('what is closed stays closed at half the size', () => {
  const half = halvedCover(covered, W, H);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) if (covered[y * W + x]) expect(half[(y >> 1) * (W / 2) + (x >> 1)]).toBe(1);
  expect(half[0]).toBe(0);
});

describe('the open part of a patch', () => {
  const plane = { covered, width: W, height: H };
  const whole = { i0: 0, i1: 15, j0: 0, j1: 15 };

  it('is the patch itself where nothing is closed', () => {
    expect(openPart(plane, { x: 80.5, y: 50.5, shape: UPRIGHT }, 7, 7, whole)).toBe(whole);
  });

  it('is the largest rectangle that is open', () => {
    // The patch spans columns 6 to 20 and rows 18 to 32: columns 18 on are closed.
    expect(openPart(plane, { x: 13.5, y: 25.5, shape: UPRIGHT }, 7, 7, whole)).toEqual({
      i0: 0,
      i1: 12,
      j0: 0,
      j1: 15,
    });
    // At the corner of the area what lies above it is larger than what lies beside it.
    const corner = openPart(plane, { x: 21.5, y: 7.5, shape: UPRIGHT }, 7, 7, whole);
    expect(corner).toEqual({ i0: 0, i1: 15, j0: 0, j1: 8 });
  });

  it('is nothing inside', () => {
    expect(openPart(plane, { x: 40.5, y: 25.5, shape: UPRIGHT }, 7, 7, whole)).toBeNull();
  });
});
