import { IDENTITY } from '../../../geometry/matrix.js';
import { matrixWarp } from '../../../geometry/warp.js';
import { PlaneCoding } from '../../../picture/colour.js';
import { createPlane, deepPlaneOver, type AnyPlane } from '../../../picture/plane.js';
import { normal, randomNumbers, speckledSurface } from '../../../testing/footage.js';
import { LayerGrid } from '../../layer-grid.js';
import { DIFFERENCE_MATTE } from './difference-matte.js';

/** What passes before a panel, though its colours come near to the panel's. */

const [W, H] = [320, 180];
const panel = speckledSurface(11, 90);
const bar = speckledSurface(12, 70);
/** Pixels beyond the rim of a bar that leans; negative within. */
const beyondBar = (x: number, y: number) =>
  Math.abs((x - 140) * Math.cos(0.15) + (y - H / 2) * Math.sin(0.15)) - 36;

interface Film {
  /** How much lighter than the panel the bar is; null where there is none. */
  readonly lighter: number | null;
  /** A change of light, and pixels by which the panel is out of place. */
  readonly light: number;
  readonly off: number;
}

function picture({ lighter, light, off }: Film, seed: number) {
  const random = randomNumbers(seed);
  const [y, u, v] = [createPlane(W, H), createPlane(W / 2, H / 2), createPlane(W / 2, H / 2)];
  for (let p = 0; p < W * H; p++) {
    let sum = 0;
    for (const [dx, dy] of [
      [0.25, 0.25],
      [0.75, 0.25],
      [0.25, 0.75],
      [0.75, 0.75],
    ]) {
      const [px, py] = [(p % W) + dx, Math.floor(p / W) + dy];
      const passes = lighter !== null && beyondBar(px, py) < 0;
      sum += passes ? 0.9 * bar(px + 500, py + 30) + lighter : panel(px + off, py + off / 2);
    }
    y.data[p] = Math.round((sum / 4) * (1 + light) + 3 * normal(random));
  }
  for (let p = 0; p < u.data.length; p++) {
    const passes = lighter !== null && beyondBar(2 * (p % (W / 2)) + 1, 2 * Math.floor(p / (W / 2)) + 1) < 0;
    u.data[p] = Math.round(120 + (passes ? 6 : 0) + 1.5 * normal(random));
    v.data[p] = Math.round(136 - (passes ? 6 : 0) + 1.5 * normal(random));
  }
  return { y: y as AnyPlane, u: u as AnyPlane, v: v as AnyPlane, subsampling: { x: 2, y: 2 } as const };
}

const PANEL = picture({ lighter: null, light: 0, off: 0 }, 1);

/** Per cent of the samples that are told wrongly: within six pixels of the rim, and elsewhere. */
function wrong(below: ReturnType<typeof picture>, lent = PANEL, of: 'luma' | 'chroma' = 'luma') {
  const grid = new LayerGrid(of, below, 'center');
  // It begins between samples of chroma.
  const box = { x0: 7, y0: 5, x1: grid.width - 3, y1: grid.height };
  const still = matrixWarp(IDENTITY);
  const look = { kind: 'difference', frame: 0, reach: 0.025, soften: 0.02, outside: false } as const;
  const ask = DIFFERENCE_MATTE.ask(
    { ...look, toPicture: still },
    {
      ...{ grid, box, siting: 'center', draft: false, below, pictures: () => lent, rasters: () => null },
      coding: new PlaneCoding({ range: 'tv', space: 'bt709' }, H, below.y.depth),
    },
  );
  const out = new Float64Array(box.x1 - box.x0);
  const band = { bad: 0, n: 0 };
  const rest = { bad: 0, n: 0 };
  for (let row = box.y0; row < box.y1; row++) {
    ask(row, null, out);
    for (let i = 0; i < out.length; i++) {
      const scale = W / grid.width;
      const e = beyondBar((box.x0 + i + 0.5) * scale, (row + 0.5) * scale);
      const told = Math.abs(e) < 6 ? band : rest;
      told.n++;
      // A sample on the rim itself is half the one, half the other.
      if (out[i] > 0.5 !== e < 0 && Math.abs(e) > 0.7 * scale) told.bad++;
    }
  }
  return { band: (100 * band.bad) / band.n, rest: (100 * rest.bad) / rest.n };
}

it.each(['luma', 'chroma'] as const)('is told to its rim, and has no holes: %s', (of) => {
  const told = wrong(picture({ lighter: 25, light: 0.02, off: 0.15 }, 2), PANEL, of);
  expect(told.band).toBeLessThan(4);
  expect(told.rest).toBeLessThan(0.5);
  expect(wrong(picture({ lighter: 60, light: 0.02, off: 0.15 }, 3), PANEL, of).band).toBeLessThan(2);
});

it('is nothing where nothing passes, though light, grain and half a pixel differ', () => {
  const below = picture({ lighter: null, light: 0.05, off: 0.5 }, 4);
  const grid = new LayerGrid('luma', below, 'center');
  const ask = DIFFERENCE_MATTE.ask(
    {
      ...{ kind: 'difference', frame: 0, reach: 0.025, soften: 0.02, outside: true },
      toPicture: matrixWarp(IDENTITY),
    },
    {
      ...{
        grid,
        box: { x0: 0, y0: 0, x1: W, y1: H },
        siting: 'center',
        draft: false,
        below,
        pictures: () => PANEL,
      },
      ...{ coding: new PlaneCoding({ range: 'tv', space: 'bt709' }, H), rasters: () => null },
    },
  );
  const out = new Float64Array(W);
  for (let row = 0; row < H; row++) {
    ask(row, null, out);
    expect(Math.min(...out)).toBeGreaterThan(0.9);
  }
});

it('is told alike in pictures of ten bits', () => {
  const deep = ({ y, u, v, subsampling }: ReturnType<typeof picture>) => {
    const of = (plane: AnyPlane) =>
      deepPlaneOver(
        Uint16Array.from(plane.data, (value) => 4 * value),
        plane.width,
        plane.height,
        10,
      );
    return { y: of(y), u: of(u), v: of(v), subsampling } as ReturnType<typeof picture>;
  };
  const below = picture({ lighter: 25, light: 0.02, off: 0.15 }, 2);
  const [eight, ten] = [wrong(below), wrong(deep(below), deep(PANEL))];
  expect(Math.abs(eight.band - ten.band)).toBeLessThan(0.5);
});
