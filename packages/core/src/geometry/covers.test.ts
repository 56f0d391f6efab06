import { closedOn, cornersAt, isInside, isOpen, outlineOf, type Area } from './area.js';
import { coverOf, Covers } from './covers.js';

const SQUARE = [
  [20, 10],
  [60, 10],
  [60, 40],
  [20, 40],
] as const;
const square: Area = { kind: 'ignore', smooth: false, keys: [{ frame: 0, shape: SQUARE }] };
const [W, H] = [100, 60];

describe('an area', () => {
  const moving: Area = {
    ...square,
    keys: [
      { frame: 10, shape: SQUARE },
      { frame: 20, shape: SQUARE.map(([x, y]) => [x + 30, y - 10] as const) },
    ],
  };

  it('moves in a straight line from key to key, and stands before the first and after the last', () => {
    expect(cornersAt(moving, 0)[0]).toEqual({ x: 20, y: 10 });
    expect(cornersAt(moving, 10)[0]).toEqual({ x: 20, y: 10 });
    expect(cornersAt(moving, 13)[0].x).toBeCloseTo(29);
    expect(cornersAt(moving, 13)[0].y).toBeCloseTo(7);
    expect(cornersAt(moving, 99)[2]).toEqual({ x: 90, y: 30 });
  });

  it('is carried from its keys, both of which have their say between them', () => {
    const carry = (from: number, to: number, { x, y }: { x: number; y: number }) => ({ x: x + to - from, y });
    expect(cornersAt(moving, 5, carry)[0].x).toBeCloseTo(15);
    // From the first it would be at 25, from the second at 45: half-way between them.
    expect(cornersAt(moving, 15, carry)[0].x).toBeCloseTo((25 + 45) / 2);
  });

  it('goes through its corners as a smooth curve, and swells beyond straight lines', () => {
    const corners = cornersAt(square, 0);
    const curve = outlineOf(corners, true);
    for (const c of corners) expect(curve.some((p) => Math.hypot(p.x - c.x, p.y - c.y) < 1e-9)).toBe(true);
    expect(isInside(curve, { x: 40, y: 8 })).toBe(true);
    expect(isInside(corners, { x: 40, y: 8 })).toBe(false);
  });
});

describe('what is closed', () => {
  it('is every sample of an ignore area, and a rim of two round it', () => {
    const cover = coverOf(closedOn([square], 0), W, H);
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const closed = x >= 18 && x < 62 && y >= 8 && y < 42;
        expect([x, y, cover[y * W + x]]).toEqual([x, y, closed ? 1 : 0]);
      }
  });

  it('is all but the inside of focus areas, less what is ignored there', () => {
    const focus: Area = { ...square, kind: 'focus' };
    const hole: Area = {
      ...square,
      keys: [{ frame: 0, shape: SQUARE.map(([x, y]) => [x / 4 + 30, y / 4 + 20] as const) }],
    };
    const closed = closedOn([focus, hole], 0);
    const cover = coverOf(closed, W, H);
    const at = (x: number, y: number) => cover[y * W + x];
    expect([at(25, 25), at(40, 26), at(5, 5), at(21, 25), at(61, 25)]).toEqual([0, 1, 1, 1, 1]);
    expect([
      isOpen(closed, { x: 25, y: 25 }),
      isOpen(closed, { x: 40, y: 26 }),
      isOpen(closed, { x: 5, y: 5 }),
    ]).toEqual([true, false, false]);
  });

  it('agrees with what lies inside, whatever the shape', () => {
    const star: Area = {
      kind: 'ignore',
      smooth: true,
      keys: [
        {
          frame: 0,
          shape: Array.from(
            { length: 10 },
            (_, i) =>
              [
                50 + (i % 2 ? 12 : 26) * Math.cos(i * 0.628),
                30 + (i % 2 ? 12 : 26) * Math.sin(i * 0.628),
              ] as const,
          ),
        },
      ],
    };
    const closed = closedOn([star], 0);
    const cover = coverOf(closed, W, H);
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++)
        if (!isOpen(closed, { x: x + 0.5, y: y + 0.5 })) expect(cover[y * W + x]).toBe(1);
  });

  it('is not worked out again for a frame on which nothing has changed', () => {
    const covers = new Covers([square]);
    expect(covers.at(1, W, H)).toBe(covers.at(2, W, H));
    expect(new Covers([]).at(0, W, H)).toBeNull();
  });
});
