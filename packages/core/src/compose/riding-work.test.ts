import { apply, IDENTITY, multiply, translation, type Matrix3 } from '../geometry/matrix.js';
import { rectangle } from '../geometry/homography.js';
import { createPlane, type AnyPlane, type Plane } from '../picture/plane.js';
import type { Motion } from '../solve/motion.js';
import { solveMotion } from '../solve/solve-motion.js';
import { speckledSurface, takePicture, type Surface } from '../testing/footage.js';
import { asSpots, relativeTo, shakes, trackOf } from '../testing/motions.js';
import { compose } from './compose.js';
import type { PicturePlanes } from './picture-planes.js';
import { matrixWarp } from '../geometry/warp.js';
import { layerOn, type LookLayer } from './look-layer.js';
import { givenBack, type SceneLook } from './scene.js';
import { boxOfStrokes, paintStrokes, type Stroke } from './strokes.js';

/** Work made on one frame of a moving shot, against what the shot would have been had the work been there. */

const [W, H] = [240, 160];
const FRAMES = 101;
const ground = speckledSurface(7);
const MARK = { x: 120, y: 80, r: 9 };
const marked: Surface = (x, y) => (Math.hypot(x - MARK.x, y - MARK.y) < MARK.r ? 20 : ground(x, y));
/** A camera that shakes and turns a little. */
const motions: Matrix3[] = relativeTo(shakes(FRAMES, 4), 0).map((m) =>
  multiply(translation(0, 0), [
    ...m.slice(0, 2),
    m[2] / 4,
    ...m.slice(3, 5),
    m[5] / 4,
    0,
    0,
    1,
  ] as unknown as Matrix3),
);
const places = [
  [30, 30],
  [210, 40],
  [60, 130],
] as const;
const held: Motion = solveMotion({
  ...{ frames: FRAMES, ref: 0 },
  spots: asSpots(places.map(([x, y]) => trackOf(motions, x, y))),
})!;

const grey = (width: number, height: number): AnyPlane => {
  const plane = createPlane(width, height);
  plane.data.fill(128);
  return plane;
};
const seen = (surface: Surface, frame: number): PicturePlanes => ({
  y: takePicture(surface, motions[frame], W, H),
  ...{ u: grey(W / 2, H / 2), v: grey(W / 2, H / 2), subsampling: { x: 2, y: 2 } },
});
const blank = (): PicturePlanes => ({
  ...{ y: createPlane(W, H), u: grey(W / 2, H / 2), v: grey(W / 2, H / 2), subsampling: { x: 2, y: 2 } },
});

const work = (more: Partial<LookLayer>): LookLayer => ({
  ...{ id: 'w', frame: 0, ride: { on: 'mover', mover: 'm', rotation: true, scale: true }, unknown: 'bridge' },
  ...{ from: 0, to: Infinity, middle: MARK, outline: null, margin: 0, opacity: 1, keys: [], blend: 'normal' },
  ...{ grain: 0, mattes: [], content: { kind: 'plain', colour: [0, 0, 0] } },
  ...more,
});
const look = (layer: LookLayer): SceneLook => ({
  ...{ edges: { mode: 'colour', colour: [0, 0, 0] }, layers: [layer], base: true },
});

describe('a clone stroke', () => {
  const stroke: Stroke = {
    ...{ tool: 'brush', colour: [0, 0, 0], size: 28, hardness: 0.7, flow: 1 },
    points: [
      [MARK.x - 4, MARK.y, 1],
      [MARK.x + 4, MARK.y, 1],
    ],
  };
  const box = boxOfStrokes([stroke])!;
  const raster = paintStrokes([stroke], box, 2);
  const corners = rectangle(box.left, box.top, box.left + box.width, box.top + box.height);
  // Painted with what is elsewhere: what would be there without the mark is known only for a ground that repeats.
  const [dx, dy] = [50, 20];
  const tiled: Surface = (x, y) => ground(((x % dx) + dx) % dx, (((y % dy) + dy) % dy) * 1);
  const withMark: Surface = (x, y) => (Math.hypot(x - MARK.x, y - MARK.y) < MARK.r ? 20 : tiled(x, y));

  it.each([0, 37, 100])(
    'painted on frame 0 is on frame %i what the shot would be without the mark',
    (frame) => {
      const content = { kind: 'picture', frame: 0, shift: { x: dx, y: dy }, raster: 's', corners } as const;
      const scene = givenBack({ width: W, height: H }, look(work({ content })), frame, { m: held });
      const out = blank();
      const lent = new Map([0, frame].map((f) => [f, seen(withMark, f)]));
      compose(scene, (f) => lent.get(f)!, out, {
        siting: 'center',
        fill: [16, 128, 128],
        rasters: () => raster,
      });
      const truth = takePicture(tiled, motions[frame], W, H);
      const middle = apply(motions[frame], MARK.x, MARK.y);
      let [squares, n] = [0, 0];
      for (let y = 0; y < H; y++)
        for (let x = 0; x < W; x++) {
          if (Math.hypot(x + 0.5 - middle.x, y + 0.5 - middle.y) > 18) continue;
          squares += (out.y.data[y * W + x] - truth.data[y * W + x]) ** 2;
          n++;
        }
      expect(10 * Math.log10(255 ** 2 / (squares / n))).toBeGreaterThan(40);
    },
  );

  it('given back leaves the rest as it was decoded', () => {
    const source = seen(marked, 50);
    const content = { kind: 'picture', frame: 50, shift: { x: dx, y: dy }, raster: 's', corners } as const;
    const scene = givenBack({ width: W, height: H }, look(work({ content, frame: 50 })), 50, { m: held });
    const out = blank();
    compose(scene, () => source, out, { siting: 'center', fill: [16, 128, 128], rasters: () => raster });
    let changed = 0;
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        if (out.y.data[y * W + x] === source.y.data[y * W + x]) continue;
        changed++;
        expect(x >= box.left - 1 && x <= box.left + box.width && y >= box.top - 1).toBe(true);
      }
    expect(changed).toBeGreaterThan(300);
  });
});

describe('what conceals a subject', () => {
  // A face of 30 x 40 px that walks by, nodding, and passes behind a post.
  const faceAt = (f: number) => ({ x: 20 + 2 * f + 4 * Math.sin(f / 9), y: 70 + 6 * Math.sin(f / 5) });
  const [left, right] = [105, 150];
  const hiddenOn = (f: number) => {
    const { x } = faceAt(f);
    return x - 8 > left && x + 8 < right;
  };
  const track = trackOf(
    Array.from({ length: FRAMES }, (_, f) => translation(faceAt(f).x, faceAt(f).y)),
    0,
    0,
    // It is lost some frames before it is gone, and found late.
    (f) => !hiddenOn(f) && !hiddenOn(f + 2) && !hiddenOn(f - 2),
  );
  const own = faceAt(0);
  const keys = [
    {
      frame: 0,
      shape: Array.from({ length: 12 }, (_, i) => {
        const a = (i / 6) * Math.PI;
        return [own.x + 17 * Math.cos(a), own.y + 22 * Math.sin(a)] as const;
      }),
    },
  ];
  const layer = work({
    ...{ ride: { on: 'spot', track }, middle: own, margin: 8 },
    outline: { smooth: true, keys, grow: 0, soften: 4 },
    content: { kind: 'plain', colour: [0, 0, 0] },
  });

  it('covers what is seen of it on every frame, before and behind the post', () => {
    const white: PicturePlanes = {
      ...blank(),
      y: { ...createPlane(W, H), data: new Uint8Array(W * H).fill(235) } as Plane,
    };
    const bare: number[] = [];
    for (let f = 0; f < 95; f++) {
      const scene = givenBack({ width: W, height: H }, look(layer), f, {});
      const out = blank();
      compose(scene, () => white, out, { siting: 'center', fill: [16, 128, 128] });
      const face = faceAt(f);
      for (let y = 0; y < H; y++)
        for (let x = 0; x < W; x++) {
          const inFace = ((x + 0.5 - face.x) / 15) ** 2 + ((y + 0.5 - face.y) / 20) ** 2 < 1;
          const behind = x > left && x < right;
          if (inFace && !behind && out.y.data[y * W + x] > 126) bare.push(f);
        }
    }
    expect([...new Set(bare)]).toEqual([]);
  });

  it('would let it slip without the margin that grows where the track is not sure', () => {
    const scene = (margin: number) =>
      givenBack({ width: W, height: H }, look({ ...layer, margin }), 50, {}).layers[0].mattes[0][0];
    const grown = [0, 8].map((margin) => {
      const matte = scene(margin);
      return matte.kind === 'outline' ? matte.outline.grow : NaN;
    });
    expect(grown).toEqual([0, 8]);
  });
});

describe('a layer that stays in the frame', () => {
  it('does so in the picture as shot and in the steadied one', () => {
    const layer = work({ ride: { on: 'frame' } });
    const scene = givenBack({ width: W, height: H }, look(layer), 60, { m: held });
    expect(scene.layers[0].toOwn).toEqual({ kind: 'matrix', m: IDENTITY });
    // Steadied, it lies where it did on the frame that it was made on, whatever the picture is moved by now.
    const asFrame = (own: number) => matrixWarp(translation(own + 3, 0));
    const seenOn = { frame: 60, size: { width: W, height: H }, asFrame, toSource: matrixWarp(motions[60]) };
    expect(layerOn(layer, { ...seenOn, motions: {} })!.toOwn).toEqual(asFrame(0));
  });
});
