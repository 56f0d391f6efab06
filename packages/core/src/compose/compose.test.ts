import { apply, chain, invert, scaling, translation, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity } from '../geometry/similarity.js';
import { matrixWarp, meshOver, type Warp } from '../geometry/warp.js';
import { createPlane, deepPlaneOver, planeLike, type AnyPlane } from '../picture/plane.js';
import { speckledSurface, takePicture } from '../testing/footage.js';
import { compose } from './compose.js';
import type { PicturePlanes } from './picture-planes.js';
import type { Scene } from './scene.js';

/** Scenes into planes of either depth, through every kind of warp. */

const [W, H] = [96, 72];
const surface = speckledSurface(31, 200);
const HALVED = { x: 2, y: 2 } as const;

const flat = (width: number, height: number, value: number): AnyPlane => {
  const plane = createPlane(width, height);
  plane.data.fill(value);
  return plane;
};
const eight = (): PicturePlanes => ({
  ...{ y: takePicture(surface, [1, 0, 0, 0, 1, 0, 0, 0, 1], W, H), subsampling: HALVED },
  ...{ u: takePicture(surface, scaling(0.5), W / 2, H / 2), v: flat(W / 2, H / 2, 90) },
});
/** The same picture with ten bits a sample. */
const ten = (planes: PicturePlanes): PicturePlanes => {
  const deep = ({ data, width, height }: AnyPlane) =>
    deepPlaneOver(
      Uint16Array.from(data, (v) => 4 * v),
      width,
      height,
      10,
    );
  return { ...planes, y: deep(planes.y), u: deep(planes.u), v: deep(planes.v) };
};
const blank = ({ y, u, v, subsampling }: PicturePlanes, alpha = false): PicturePlanes => ({
  ...{ y: planeLike(y, W, H), u: planeLike(u, W / 2, H / 2), v: planeLike(v, W / 2, H / 2), subsampling },
  ...(alpha && { alpha: planeLike(y, W, H) }),
});
const sceneOf = (toSource: Warp, mode: Scene['base']['edges']['mode'] = 'colour'): Scene => ({
  ...{ size: { width: W, height: H }, layers: [] },
  base: { frame: 0, toSource, edges: { mode, colour: [0, 0, 0] }, donors: [] },
});

const shaken = composeSimilarity(
  { x: 2.4, y: -1.7, rotation: 0.05, logScale: -0.06 },
  { x: W / 2, y: H / 2 },
);
/** Looks at the picture askew. */
const askew: Matrix3 = [1.02, 0.03, -2, 0.01, 0.98, 1, 4e-4, -3e-4, 1];
const WARPS: readonly (readonly [string, Warp])[] = [
  ['a similarity', matrixWarp(shaken)],
  ['a homography', matrixWarp(askew)],
  ['a mesh', meshOver(W, H, 24, 18, (x, y) => apply(askew, x, y))],
];

describe('a scene', () => {
  it.each(WARPS)('through %s is the same with ten bits as with eight, four times finer', (_, warp) => {
    const source = eight();
    const deep = ten(source);
    const [a, b] = [blank(source), blank(deep)];
    compose(sceneOf(warp), () => source, a, { siting: 'left', fill: [16, 128, 128] });
    compose(sceneOf(warp), () => deep, b, { siting: 'left', fill: [64, 512, 512] });
    for (const key of ['y', 'u', 'v'] as const) {
      let most = 0;
      a[key].data.forEach((v, i) => (most = Math.max(most, Math.abs(b[key].data[i] - 4 * v))));
      // Eight bits are rounded to a whole level: half of four.
      expect(most).toBeLessThanOrEqual(2.01);
    }
    expect(Math.max(...b.y.data)).toBeGreaterThan(512);
  });

  it('through a homography is what a camera so placed would have seen', () => {
    const out = blank(eight());
    compose(sceneOf(matrixWarp(askew)), eight, out, { siting: 'left', fill: [16, 128, 128] });
    const truth = takePicture(surface, invert(askew), W, H);
    let worst = 0;
    for (let y = 10; y < H - 10; y++)
      for (let x = 10; x < W - 10; x++)
        worst = Math.max(worst, Math.abs(out.y.data[y * W + x] - truth.data[y * W + x]));
    expect(worst).toBeLessThanOrEqual(2);
  });

  it('through a mesh is that of the homography it stands for, to a grey level', () => {
    const [a, b] = [blank(eight()), blank(eight())];
    for (const [out, warp] of [
      [a, WARPS[1][1]],
      [b, WARPS[2][1]],
    ] as const)
      compose(sceneOf(warp), eight, out, { siting: 'left', fill: [16, 128, 128] });
    const apart = Array.from(a.y.data, (v, i) => Math.abs(v - b.y.data[i]));
    expect(apart.reduce((s, v) => s + v, 0) / apart.length).toBeLessThan(0.3);
  });

  it('keeps colour in its place: chroma moves by half as many of its samples', () => {
    const source = eight();
    const out = blank(source);
    compose(sceneOf(matrixWarp(translation(8, 4))), () => source, out, {
      siting: 'left',
      fill: [16, 128, 128],
    });
    const at = (x: number, y: number) => [
      out.u.data[y * (W / 2) + x],
      source.u.data[(y + 2) * (W / 2) + x + 4],
    ];
    for (const [x, y] of [
      [5, 5],
      [20, 11],
      [33, 30],
    ])
      expect(at(x, y)[0]).toBe(at(x, y)[1]);
    expect(new Set(out.v.data.subarray(0, 40))).toEqual(new Set([90]));
  });

  it('shows the colour beyond its edges in every plane, and nothing at all where it is left open', () => {
    const source = eight();
    const out = blank(source, true);
    const aside = matrixWarp(chain(translation(-W / 2, 0)));
    compose(sceneOf(aside), () => source, out, { siting: 'left', fill: [40, 60, 200] });
    expect([out.y.data[10 * W + 5], out.u.data[5 * 48 + 3], out.v.data[5 * 48 + 3]]).toEqual([40, 60, 200]);
    expect([out.alpha!.data[10 * W + 5], out.alpha!.data[10 * W + 80]]).toEqual([0, 255]);
    // Under alpha the picture goes on, so that its rim does not take on a colour.
    compose(sceneOf(aside, 'transparent'), () => source, out, { siting: 'left', fill: [40, 60, 200] });
    expect(out.y.data[10 * W + 5]).toBe(source.y.data[10 * W]);
  });
});
