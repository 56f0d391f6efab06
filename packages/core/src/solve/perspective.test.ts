import { apply, multiply, type Matrix3 } from '../geometry/matrix.js';
import { farthest, noisy, relativeTo, shakes, trackOf } from '../testing/motions.js';
import { randomNumbers } from '../testing/footage.js';
import { rehearsed } from '../plan/rehearsed.js';
import { plainRequest } from '../testing/goal.js';
import { differenceOver, gridOfPlaces, sceneTracks } from '../testing/scene.js';
import { planFor } from '../plan/plan.js';
import { heldMotion } from '../plan/held-motion.js';
import { analyse } from './analysed.js';
import { perspectiveOf } from './perspective.js';
import { withoutPerspective } from './without-perspective.js';
import { motionMatrix } from './motion.js';
import { sceneMotion } from './scene-motion.js';

const SIZE = { width: 1280, height: 720, pixelAspect: 1 };
const FRAMES = 50;
const places = gridOfPlaces([0, 0, 1280, 720], 16, 9);

/** A camera that turns about itself by so many degrees: K R K^-1, its focal length the picture's width. */
function turning(degrees: number, frames = FRAMES): Matrix3[] {
  const [f, cx, cy] = [SIZE.width, SIZE.width / 2, SIZE.height / 2];
  const K: Matrix3 = [f, 0, cx, 0, f, cy, 0, 0, 1];
  const back: Matrix3 = [1 / f, 0, -cx / f, 0, 1 / f, -cy / f, 0, 0, 1];
  return Array.from({ length: frames }, (_, i) => {
    const most = (degrees * Math.PI) / 180;
    const [p, q] = [most * Math.sin(i / 4), most * Math.sin(i / 5.5 + 1) - most * Math.sin(1)];
    const [cp, sp, cq, sq] = [Math.cos(p), Math.sin(p), Math.cos(q), Math.sin(q)];
    const R: Matrix3 = multiply([1, 0, 0, 0, cp, -sp, 0, sp, cp], [cq, 0, sq, 0, 1, 0, -sq, 0, cq]);
    return multiply(K, multiply(R, back));
  });
}

const held = (scene: ReturnType<typeof analyse>, ref = 0) =>
  heldMotion({ frames: scene.tracks.frames, ref, spots: [] }, scene, null)!;
const matrices = (motion: NonNullable<ReturnType<typeof held>>['motion']) =>
  motion.parts.map((_, f) => motionMatrix(motion, f));

describe('a camera that turns about itself', () => {
  const truth = turning(0.8);
  const scene = analyse(sceneTracks([{ motion: truth, places }], { noise: 0.1 }), SIZE);

  it('is solved with its perspective, far nearer to the truth than a similarity, and by as much as it says', () => {
    const { motion, perspective } = held(scene);
    const similar = sceneMotion(scene, 0, 0, SIZE)!;
    const off = differenceOver(matrices(motion), truth, SIZE);
    expect(differenceOver(matrices(similar), truth, SIZE)).toBeGreaterThan(1);
    expect(off).toBeLessThan(0.06);
    expect(motion.model).toBe('homography');
    // Two coordinates, each with the tracks' own noise.
    expect(perspective!.with).toBeCloseTo(0.1 * Math.SQRT2, 1);
    expect(perspective!.without).toBeGreaterThan(3 * perspective!.with);
  });

  it('is told against any frame', () => {
    const { motion } = held(scene, 23);
    expect(farthest(motionMatrix(motion, 23), [1, 0, 0, 0, 1, 0, 0, 0, 1])).toBeLessThan(1e-9);
    expect(differenceOver(matrices(motion), relativeTo(truth, 23), SIZE)).toBeLessThan(0.06);
  });

  it('does not break what stands apart, however far it turns, and what moves in it stays another thing', () => {
    const far = turning(2.2);
    const near = gridOfPlaces([500, 260, 780, 560], 6, 6);
    const inIt = (x: number, y: number) => x > 490 && x < 790 && y > 250 && y < 570;
    const around = gridOfPlaces([0, 0, 1280, 720], 18, 10, (p) => inIt(p.x, p.y));
    const swaying = far.map((m, f) =>
      multiply(m, [1, 0, 25 * Math.sin(f / 6), 0, 1, 9 * Math.sin(f / 4), 0, 0, 1]),
    );
    const things = [
      { motion: far, places: around },
      { motion: swaying, places: near },
    ];
    const told = analyse(sceneTracks(things, { noise: 0.1 }), SIZE);
    expect(told.movers).toHaveLength(2);
    const right = around.filter((_, k) => told.moverOf[k] === 0).length;
    expect(right / around.length).toBeGreaterThan(0.98);
    expect(near.filter((_, k) => told.moverOf[around.length + k] === 1).length / near.length).toBeGreaterThan(
      0.98,
    );
    expect(differenceOver(matrices(held(told).motion), far, SIZE)).toBeLessThan(0.1);
  });

  it('is drawn to spots on it, met by all of them; where one goes its own way spots alone tell', () => {
    const marked = [
      { x: 200, y: 150 },
      { x: 1000, y: 200 },
      { x: 640, y: 600 },
    ];
    const random = randomNumbers(3);
    const spots = marked.map((at, i) => ({
      id: `${i}`,
      track: noisy(
        trackOf(truth, at.x, at.y, (f) => i > 0 || f < 30),
        0.02,
        random,
      ),
    }));
    const input = { frames: FRAMES, ref: 5, spots };
    const { motion, mover } = heldMotion(input, scene, null)!;
    expect([motion.model, mover]).toEqual(['homography', scene.movers[0].id]);
    expect(differenceOver(matrices(motion), relativeTo(truth, 5), SIZE)).toBeLessThan(0.12);
    for (const { id } of spots) {
      const off = [...motion.byId[id].residuals].filter((v) => v === v);
      expect(Math.max(...off)).toBeLessThan(0.15);
    }
    const own = { id: 'own', track: trackOf(shakes(FRAMES, 9), 500, 500) };
    const alone = heldMotion({ ...input, spots: [...spots, own] }, scene, null)!;
    expect(alone.motion.model).toBe('similarity');
  });

  it('is what layers that ride on it go by', () => {
    const [{ id }] = scene.movers;
    const { riders } = heldMotion(
      { frames: FRAMES, ref: 7, spots: [], riders: [{ id, spots: [] }] },
      scene,
      null,
    )!;
    const ridden = riders![id].parts.map((_, f) => motionMatrix(riders![id], f));
    expect(differenceOver(ridden, relativeTo(truth, 7), SIZE)).toBeLessThan(0.06);
  });

  it('is what suggestions are judged by', () => {
    const request = {
      frame: 0,
      from: 0,
      to: FRAMES - 1,
      mover: 0,
      count: 6,
      within: null,
      taken: [],
      patch: 15,
    };
    const list = rehearsed(scene, request);
    expect(list).toHaveLength(6);
    for (const { error } of list) expect(error).toBeLessThan(0.25);
  });

  it('stands still when the plan is applied: corners as well', () => {
    const plan = planFor(plainRequest(SIZE, FRAMES), scene)!;
    for (const f of [7, 20, 41])
      for (const at of [
        { x: 30, y: 30 },
        { x: 1250, y: 690 },
      ]) {
        const seen = apply(truth[f], at.x, at.y);
        const back = apply(plan.corrections[f], seen.x, seen.y);
        expect(Math.hypot(back.x - at.x, back.y - at.y)).toBeLessThan(0.25);
      }
    expect(plan.perspective!.with).toBeLessThan(plan.perspective!.without);
  });
});

describe('no lean is told', () => {
  const similar = relativeTo(shakes(FRAMES, 5), 0);
  const motionOf = (scene: ReturnType<typeof analyse>) => sceneMotion(scene, 0, 0, SIZE)!;

  it('of what only shifts, turns and grows', () => {
    const scene = analyse(sceneTracks([{ motion: similar, places }], { noise: 0.15 }), SIZE);
    expect(perspectiveOf(scene, 0, motionOf(scene), SIZE)).toBeNull();
    expect(withoutPerspective(scene, motionOf(scene), SIZE)).toBeNull();
    expect(held(scene).motion.model).toBe('similarity');
  });

  it('of two depths, one above the other: a plane does not go through both', () => {
    const far = gridOfPlaces([0, 0, 1280, 470], 16, 6);
    const near = gridOfPlaces([0, 480, 1280, 720], 16, 4);
    const nearer = similar.map((m): Matrix3 => [m[0], m[1], m[2] * 1.5, m[3], m[4], m[5] * 1.5, 0, 0, 1]);
    const scene = analyse(
      sceneTracks(
        [
          { motion: similar, places: far },
          { motion: nearer, places: near },
        ],
        { noise: 0.1 },
      ),
      SIZE,
    );
    expect(scene.movers).toHaveLength(2);
    expect(differenceOver(matrices(held(scene).motion), similar, SIZE)).toBeLessThan(0.08);
  });

  it('where few tracks tell, over too little of the picture, or the camera goes far', () => {
    const truth = turning(0.8);
    for (const told of [
      { motion: truth, places: gridOfPlaces([0, 0, 1280, 720], 5, 4) },
      { motion: truth, places: gridOfPlaces([500, 300, 800, 500], 10, 8) },
      { motion: truth.map((m, f) => multiply([1, 0, 16 * f, 0, 1, 0, 0, 0, 1], m)), places },
    ]) {
      const scene = analyse(sceneTracks([told], { noise: 0.1 }), SIZE);
      expect(perspectiveOf(scene, 0, motionOf(scene), SIZE)).toBeNull();
    }
  });
});
