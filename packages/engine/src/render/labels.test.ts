import { layoutOf, pictureBytes, type SampleLayout } from '../layout.js';
import { comparedSize, comparePlan, samplesOf, type Compare } from './compare.js';
import { drawWord } from '../rasters/text.js';
import { Labels } from './labels.js';

const ONE = [320, 180] as const;
const GREY = layoutOf('420', 8);

/** Luma of the shown picture, with labels written into the coded one. */
function shown(
  way: Compare,
  turns: number,
  border: number | null = null,
  layout: SampleLayout = GREY,
): Float64Array {
  const one = turns % 2 === 0 ? ONE : ([ONE[1], ONE[0]] as const);
  const plan = comparePlan(way, turns);
  const [w, h] = comparedSize(one, plan);
  const out = samplesOf(new Uint8Array(pictureBytes(layout, w, h)), layout);
  out.fill(100 * 2 ** (layout.depth - 8));
  const side = one[plan.along === 'x' ? 0 : 1];
  const labels = new Labels(one, [w, h], { ...plan, above: way === 'above' }, turns, layout, false);
  labels.write(out, [w, h], border ?? side);
  const [width, height] = turns % 2 === 0 ? [w, h] : [h, w];
  return Float64Array.from({ length: width * height }, (_, k) => {
    const [x, y] = [k % width, Math.floor(k / width)];
    const [u, v] = [
      [x, y],
      [y, h - 1 - x],
      [w - 1 - x, h - 1 - y],
      [w - 1 - y, x],
    ][turns];
    return out[v * w + u];
  });
}

/** The part of a picture's columns and rows in which anything has changed. */
function touched(
  luma: Float64Array,
  width: number,
): { left: number; right: number; top: number; bottom: number }[] {
  const boxes: { left: number; right: number; top: number; bottom: number }[] = [];
  luma.forEach((v, k) => {
    if (v === 100) return;
    const [x, y] = [k % width, Math.floor(k / width)];
    const near = boxes.find(
      (b) => x >= b.left - 2 && x <= b.right + 2 && y >= b.top - 2 && y <= b.bottom + 2,
    );
    if (!near) boxes.push({ left: x, right: x, top: y, bottom: y });
    else Object.assign(near, { left: Math.min(near.left, x), right: Math.max(near.right, x), bottom: Math.max(near.bottom, y) }); // prettier-ignore
  });
  return boxes;
}

describe('labels of before and after', () => {
  it.each(['beside', 'above', 'wipe'] as const)('%s are read the same however the clip is turned', (way) => {
    const upright = shown(way, 0, way === 'wipe' ? 160 : null);
    // A wipe half way across leaves both words whole.
    for (const turns of [1, 2, 3]) expect(shown(way, turns, way === 'wipe' ? 160 : null)).toEqual(upright); // prettier-ignore
  });

  it.each([
    [
      'beside',
      640,
      [
        [0, 0],
        [320, 0],
      ],
    ],
    [
      'above',
      320,
      [
        [0, 0],
        [0, 180],
      ],
    ],
  ] as const)('%s lie in the upper left corner of either picture', (way, width, corners) => {
    const boxes = touched(shown(way, 0), width);
    expect(boxes).toHaveLength(2);
    boxes.forEach(({ left, right, top, bottom }, i) => {
      const [x, y] = corners[i];
      expect(left - x).toBeGreaterThan(2);
      expect(left - x).toBeLessThan(20);
      expect(top - y).toBeLessThan(20);
      expect(right - x).toBeLessThan(160);
      expect(bottom - y).toBeLessThan(50);
    });
  });

  it('of a wipe are there while they are on their own side', () => {
    expect(touched(shown('wipe', 0, 160), 320)).toHaveLength(2);
    const few = touched(shown('wipe', 0, 20), 320);
    expect(few).toHaveLength(1);
    expect(few[0].left).toBeGreaterThan(160);
    expect(touched(shown('wipe', 0, 310), 320)).toHaveLength(1);
  });

  it('are as bright as white and as dark as their plate, in any depth', () => {
    const [eight, ten] = [shown('beside', 0), shown('beside', 0, null, layoutOf('422', 10))];
    expect(Math.max(...eight)).toBe(235);
    expect(Math.min(...eight)).toBe(Math.round(100 + 0.6 * (16 - 100)));
    const off = [...eight].map((v, k) => Math.abs(ten[k] / 4 - v));
    expect(off.filter((d) => !(d < 0.8))).toEqual([]);
  });

  it('have capitals as high as they should be, with room round them', () => {
    const { width, height, cover } = drawWord('A', 40);
    const inked = Array.from({ length: height }, (_, y) => cover.subarray(y * width, (y + 1) * width).some((c) => c > 0.5)); // prettier-ignore
    expect(Math.abs(inked.filter(Boolean).length - 40)).toBeLessThanOrEqual(2);
    expect(inked.indexOf(true)).toBeGreaterThan(12);
    expect([width % 2, height % 2]).toEqual([0, 0]);
  });
});
