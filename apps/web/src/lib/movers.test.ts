import { gathered } from '@lurn/core/scene';
import type { AnalysedScene } from '@lurn/core/solve';
import { moverAreas, moverAt, moverOutline } from './movers';

const still = (x: number, y: number) => ({ start: 0, x: [x, x], y: [y, y], confidence: [1, 1] });
const tracks = gathered([still(100, 100), still(860, 440), still(500, 270)], 2, [], [1, 1]);
const mover = (id: string) => ({ id, name: id, share: 0.5, spread: 1, rim: 1, frames: 2, overlay: false });
const scene: AnalysedScene = {
  ...{ tracks, size: { width: 960, height: 540, pixelAspect: 1 }, motions: [null, null] },
  ...{ movers: [mover('a'), mover('b')], moverOf: Int16Array.of(0, 1, -1), readout: null, fades: [] },
};

describe('where movers are', () => {
  it('is told by the nearest track, and by none far from all of them', () => {
    expect(moverAt(scene, 0, { x: 120, y: 90 })).toBe(0);
    expect(moverAt(scene, 1, { x: 850, y: 450 })).toBe(1);
    expect(moverAt(scene, 0, { x: 500, y: 270 })).toBe(-1);
    expect(moverAt(scene, 5, { x: 120, y: 90 })).toBe(-1);
  });

  it('is an area round each of them', () => {
    const areas = moverAreas(scene, 0);
    expect(areas.map((a) => a.mover)).toEqual([0, 1]);
    expect(Math.abs(areas[0].middle.x - 100)).toBeLessThan(30);
    expect(Math.abs(areas[1].middle.y - 440)).toBeLessThan(30);
    for (const { path } of areas) expect(path).toMatch(/^(M[\d.]+ [\d.]+h[\d.]+v[\d.]+h-[\d.]+z)+$/);
  });

  it('is as its masks have it, where they have been made', () => {
    // The first has the left quarter, the second the rest but for a hole.
    const masks = { width: 96, height: 54, mover: new Uint8Array(96 * 54) };
    masks.mover.forEach((_, p) => (masks.mover[p] = p % 96 < 24 ? 0 : 1));
    for (let y = 20; y < 30; y++) masks.mover.fill(255, y * 96 + 50, y * 96 + 60);
    expect(moverAt(scene, 0, { x: 230, y: 500 }, masks)).toBe(0);
    expect(moverAt(scene, 0, { x: 250, y: 500 }, masks)).toBe(1);
    expect(moverAt(scene, 0, { x: 550, y: 250 }, masks)).toBe(-1);
    const [first, second] = moverAreas(scene, 0, masks);
    const xs = [...first.path.matchAll(/[ML]([\d.-]+) /g)].map(([, x]) => Number(x));
    expect(Math.max(...xs)).toBeCloseTo(240, 0);
    expect(first.path.match(/M/g)).toHaveLength(1);
    expect(second.path.match(/M/g)).toHaveLength(2);
    // A name is read on what it is of, and there is no area of what has no mask.
    expect(moverAt(scene, 0, second.middle, masks)).toBe(1);
    const all = { ...masks, mover: new Uint8Array(96 * 54) };
    expect(moverAreas(scene, 0, all).map((a) => a.mover)).toEqual([0]);
  });

  it('has an outline a little beyond its features, and none where three are not seen', () => {
    const places = [
      [10, 20],
      [200, 20],
      [200, 180],
      [10, 180],
      [90, 90],
    ] as const;
    const many = gathered([...places.map(([x, y]) => still(x, y)), still(860, 440)], 2, [], [1, 1]);
    const seen = { ...scene, tracks: many, moverOf: Int16Array.of(0, 0, 0, 0, 0, 1) };
    const outline = moverOutline(seen, 0, 0)!;
    expect(outline).toHaveLength(4);
    // Ten pixels further out along the diagonal, and no further than the picture.
    const xs = outline.map((p) => p.x).sort((a, b) => a - b);
    expect(xs[0]).toBeGreaterThanOrEqual(0);
    expect(xs[0]).toBeLessThan(10);
    expect(Math.abs(xs[3] - 208)).toBeLessThan(2);
    expect([moverOutline(seen, 0, 1), moverOutline(seen, 5, 0)]).toEqual([null, null]);
  });
});
