import { apply, invert, multiply, translation, type Matrix3 } from '../geometry/matrix.js';
import { createPlane, type Plane } from '../picture/plane.js';
import { normal, randomNumbers, speckledSurface, type Surface } from '../testing/footage.js';
import { relativeTo, shakes } from '../testing/motions.js';
import { gridOfPlaces, sceneTracks } from '../testing/scene.js';
import { analyse, type AnalysedScene } from './analysed.js';
import { FineMasks, framesForMasks, moverMasks, moverOn } from './mover-masks.js';

const SIZE = { width: 320, height: 180, pixelAspect: 1 };
const FRAMES = 30;
const FRAME = 14;
const ground = relativeTo(shakes(FRAMES, 5), 0).map((m) => [...m] as unknown as Matrix3);
const walk = ground.map((m, t) => multiply(m, translation(2.4 * t, 0.4 * t)));

/** Who walks on the first frame: an oval, in its own places. */
const inside = (x: number, y: number) => Math.hypot((x - 120) / 44, (y - 100) / 60) < 1;
const isWalker = (x: number, y: number, frame: number) => {
  const p = apply(invert(walk[frame]), x, y);
  return inside(p.x, p.y);
};

/** Pictures of a walker before a wall, drawn with their motion; a sample is the mean of four places. */
function film(wall: Surface, coat: Surface, light = (_: number) => 0): (frame: number) => Plane {
  return (frame) => {
    const random = randomNumbers(frame + 1);
    const plane = createPlane(SIZE.width, SIZE.height);
    const [toWall, toCoat] = [invert(ground[frame]), invert(walk[frame])];
    for (let p = 0; p < plane.data.length; p++) {
      let sum = 0;
      for (const [dx, dy] of [
        [0.25, 0.25],
        [0.75, 0.25],
        [0.25, 0.75],
        [0.75, 0.75],
      ]) {
        const [x, y] = [(p % SIZE.width) + dx, Math.floor(p / SIZE.width) + dy];
        const own = apply(toCoat, x, y);
        const behind = apply(toWall, x, y);
        sum += inside(own.x, own.y) ? coat(own.x, own.y) : wall(behind.x, behind.y);
      }
      plane.data[p] = Math.max(0, Math.min(255, sum / 4 + 1.5 * normal(random) + light(frame)));
    }
    return plane;
  };
}

/** The scene, with tracks on a grid of the wall, and of the coat where it has them. */
function sceneOf(onCoat = (x: number, y: number) => inside(x, y)): AnalysedScene {
  const wall = gridOfPlaces([0, 0, 320, 180], 16, 10, ({ x, y }) => x > 60 && x < 270 && y > 20);
  const coat = gridOfPlaces([70, 40, 170, 160], 14, 14, ({ x, y }) => !inside(x, y) || !onCoat(x, y));
  const tracks = sceneTracks([
    { motion: ground, places: wall },
    { motion: walk, places: coat },
  ]);
  const scene = analyse(tracks, SIZE);
  expect(scene.movers).toHaveLength(2);
  return scene;
}

function masksOf(scene: AnalysedScene, pictures: (frame: number) => Plane) {
  return moverMasks(
    scene,
    framesForMasks(scene, FRAME).map((frame) => ({ frame, luma: pictures(frame) })),
  );
}

/** Intersection over union of a mask with the walker. @param is  of every sample whether it is in the mask */
function overlap(is: (p: number) => boolean): number {
  let [both, either] = [0, 0];
  for (let p = 0; p < SIZE.width * SIZE.height; p++) {
    const truth = isWalker((p % SIZE.width) + 0.5, Math.floor(p / SIZE.width) + 0.5, FRAME);
    if (truth && is(p)) both++;
    if (truth || is(p)) either++;
  }
  return both / either;
}

describe('the masks of movers', () => {
  const [wall, coat] = [speckledSurface(3), speckledSurface(4)];

  it('follow the rim of what moves before a wall of a like look, though the light changes', () => {
    const masks = masksOf(
      sceneOf(),
      film(wall, coat, (frame) => 12 * Math.sin(frame)),
    );
    expect([masks.width, masks.height]).toEqual([320, 180]);
    expect(overlap((p) => masks.mover[p] === 1)).toBeGreaterThan(0.93);
    const at = apply(walk[FRAME], 120, 100);
    expect(moverOn(masks, SIZE, at)).toBe(1);
    expect(moverOn(masks, SIZE, { x: 300, y: 20 })).toBe(0);
    expect(moverOn(masks, SIZE, { x: 400, y: 20 })).toBe(-1);
  });

  it('are of a plain coat, too, of which the rim alone is followed', () => {
    const rim = (x: number, y: number) => Math.hypot((x - 120) / 44, (y - 100) / 60) > 0.8;
    const plain = (x: number, y: number) => (rim(x, y) ? coat(x, y) : 60);
    const masks = masksOf(sceneOf(rim), film(wall, plain));
    expect(overlap((p) => masks.mover[p] === 1)).toBeGreaterThan(0.93);
  });

  it('leave a plain wall to what hangs on it, not to what stands before it', () => {
    const marks: Surface = (x, y) => (((x % 40) + 40) % 40 < 7 && ((y % 36) + 36) % 36 < 7 ? 70 : 170);
    const masks = masksOf(sceneOf(), film(marks, coat));
    expect(overlap((p) => masks.mover[p] === 1)).toBeGreaterThan(0.78);
    // Between the marks, far from whom stands before it.
    for (const x of [20, 60, 260, 300]) expect(moverOn(masks, SIZE, { x, y: 20 })).toBe(0);
  });

  it('are as fine as the picture', () => {
    const pictures = film(wall, (x, y) => 0.4 * coat(x, y));
    const scene = sceneOf();
    const fine = new FineMasks(masksOf(scene, pictures), { luma: pictures(FRAME) }).of(1);
    expect(fine).toHaveLength(320 * 180);
    expect(overlap((p) => fine[p] > 127)).toBeGreaterThan(0.93);
  });

  it('are nobody’s where no mover is known, and come of no picture beyond a cut', () => {
    const scene = sceneOf();
    const nobody = { ...scene, movers: [], motions: [] };
    const masks = moverMasks(nobody, [{ frame: FRAME, luma: film(wall, coat)(FRAME) }]);
    expect(masks.mover.every((m) => m === 255)).toBe(true);
    const cut = { tracks: { ...scene.tracks, cuts: Int32Array.of(12) } };
    expect(framesForMasks(cut, 14).sort((a, b) => a - b)).toEqual([14, 17, 22]);
    expect(framesForMasks(scene, 14)).toEqual([14, 11, 17, 6, 22]);
  });
});
