import { IDENTITY, translation } from '../../../geometry/matrix.js';
import { matrixWarp } from '../../../geometry/warp.js';
import { PlaneCoding } from '../../../picture/colour.js';
import { createPlane } from '../../../picture/plane.js';
import { LayerGrid } from '../../layer-grid.js';
import { filmKey, type Raster } from '../../raster.js';
import type { Seen } from '../../seen.js';
import { MASK_MATTE, type MaskLook } from './mask-matte.js';

/** Masks that lie over a picture. */

const [W, H] = [40, 20];
const look: MaskLook = { kind: 'mask', film: filmKey('f'), from: 10, frames: 5, scale: 0.5, outside: false };
const shift = matrixWarp(translation(4, 0));
const seen = (frame: number): Seen => ({
  ...{ frame, size: { width: W, height: H }, motions: {}, asFrame: () => shift, toSource: shift },
});
const shown = (frame: number, more: Partial<MaskLook> = {}) =>
  MASK_MATTE.shown({ ...look, ...more }, null as never, seen(frame))!;

/** Half as large as the picture: white from its column 10 on, which is 20 in the picture. */
const mask: Raster = { width: W / 2, height: H / 2, data: new Uint8Array(2 * W * H) };
for (let p = 0; p < (W * H) / 4; p++) mask.data.fill(p % (W / 2) >= 10 ? 255 : 0, 4 * p, 4 * p + 4);

function row(frame: number, more: Partial<MaskLook> = {}, of: 'luma' | 'chroma' = 'luma'): Float64Array {
  const planes = { y: createPlane(W, H), u: createPlane(W / 2, H / 2), v: createPlane(W / 2, H / 2) };
  const grid = new LayerGrid(of, { ...planes, subsampling: { x: 2, y: 2 } }, 'center');
  const box = { x0: 0, y0: 0, x1: grid.width, y1: grid.height };
  const ask = MASK_MATTE.ask(shown(frame, more), {
    ...{ grid, box, siting: 'center', draft: false, below: null as never, pictures: null as never },
    coding: new PlaneCoding({ range: 'tv', space: 'bt709' }, H),
    rasters: (key) => (key === filmKey('f', 2) ? mask : null),
  });
  const out = new Float64Array(grid.width);
  ask(5, null, out);
  return out;
}

it('lets through what is white, where the picture of its frame lies', () => {
  const shares = row(12);
  // The picture lies 4 pixels to the left; a sample of the mask is two wide, and goes over into the next.
  expect([shares[14], shares[18]]).toEqual([0, 1]);
  expect(shares[16] - (1 - shares[15])).toBeCloseTo(0, 6);
  const [chroma] = [row(12, {}, 'chroma')];
  expect([chroma[6], chroma[9]]).toEqual([0, 1]);
  expect(Array.from(row(12, { outside: true }), (v, i) => v + shares[i])).toEqual(Array(W).fill(1));
});

it('has nothing beyond the picture, before the film and after it, or while it is not there', () => {
  expect(row(12)[W - 1]).toBe(0);
  for (const frame of [9, 15, 13]) {
    expect(row(frame).some((v) => v > 0)).toBe(false);
    expect(row(frame, { outside: true }).every((v) => v === 1)).toBe(true);
  }
});

it('is asked for by the frame of the shot, and stays in its place on other samples', () => {
  expect(MASK_MATTE.raster!(shown(12))).toBe(filmKey('f', 2));
  expect(MASK_MATTE.raster!(shown(9))).toBe('');
  const half = MASK_MATTE.through(shown(12), [2, 0, 0, 0, 2, 0, 0, 0, 1], (warp) => warp);
  expect(half.toSource).toEqual(matrixWarp([2, 0, 4, 0, 2, 0, 0, 0, 1]));
  expect(MASK_MATTE.through(shown(12), IDENTITY, (warp) => warp).toSource).toEqual(shift);
});
