import { createPlane } from '../picture/plane.js';
import { IDENTITY } from '../geometry/matrix.js';
import { takePicture } from '../testing/footage.js';
import { signedSurface } from '../testing/surfaces.js';
import { cornersOf, spreadCorners } from './corners.js';

const [W, H] = [320, 200];

describe('corners', () => {
  it('are none in a picture of one colour, and none along a straight edge', () => {
    expect(cornersOf(createPlane(W, H), 1)).toEqual([]);
    const edge = createPlane(W, H);
    for (let y = 0; y < H; y++) edge.data.fill(200, y * W + 150, (y + 1) * W);
    expect(cornersOf(edge, 1)).toEqual([]);
  });

  it('are found where a bright square has its corners, the strongest of all', () => {
    const plane = createPlane(W, H);
    for (let y = 80; y < 140; y++) plane.data.fill(220, y * W + 100, y * W + 200);
    const corners = cornersOf(plane, 1);
    for (const { x, y } of corners) {
      const off = Math.hypot(
        Math.min(Math.abs(x - 100), Math.abs(x - 200)),
        Math.min(Math.abs(y - 80), Math.abs(y - 140)),
      );
      expect(off).toBeLessThan(13);
    }
    expect(new Set(corners.map((c) => `${c.x > 150} ${c.y > 110}`)).size).toBe(4);
  });

  it('are spread: one a cell, none near another or what is taken', () => {
    const corners = cornersOf(takePicture(signedSurface(4), IDENTITY, W, H), 2);
    const taken = [{ x: 160, y: 100 }];
    const chosen = spreadCorners(corners, taken, { width: W, height: H, wanted: 60, apart: 14 });
    expect(chosen.length).toBeGreaterThan(40);
    expect(chosen.length).toBeLessThan(75);
    [...chosen, ...taken].forEach((p, i, all) =>
      all.slice(i + 1).forEach((q) => expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeGreaterThanOrEqual(14)),
    );
  });

  it('get company where the picture is bare, and none where it is full', () => {
    const plane = { width: 480, height: 270, wanted: 60, apart: 14 };
    const strong = (x: number, y: number) => ({ x, y, strength: 50 });
    // What hangs on a wall: four corners of one thing, all within a cell.
    const few = [strong(100, 100), strong(120, 100), strong(100, 120), strong(120, 120)];
    const one = spreadCorners(few, [], plane);
    expect(spreadCorners(few, [], { ...plane, more: 10 }).length).toBeGreaterThan(one.length);
    expect(spreadCorners(few, [], { ...plane, more: 1 })).toHaveLength(one.length + 1);
    const full = Array.from({ length: 24 * 14 }, (_, k) =>
      strong(10 + 20 * (k % 24), 10 + 19 * Math.floor(k / 24)),
    );
    expect(spreadCorners(full, [], { ...plane, more: 40 })).toEqual(spreadCorners(full, [], plane));
  });
});
