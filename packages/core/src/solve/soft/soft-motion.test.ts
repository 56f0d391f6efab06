import { quadToQuad, rectangle, type Quad } from '../../geometry/homography.js';
import { apply, invert, multiply, type Matrix3, type Point } from '../../geometry/matrix.js';
import { evaluatorOf } from '../../geometry/warp.js';
import { carry } from '../../compose/ride.js';
import { dataExportById, dataOfPlan, handOver, withWarps } from '../../formats/data/index.js';
import { readExr } from '../../formats/exr.js';
import { deliveredFrom, steadiedPlace } from '../../plan/plan-to-source.js';
import { planFor, pictureInSource, type ShotRequest } from '../../plan/plan.js';
import { laidFlat } from '../../soft/laid-flat.js';
import { makeMesh } from '../../soft/mesh-making.js';
import { EMPTY_SOFT_TRACK, softSample, withSoftSamples, type SoftVertex } from '../../soft/soft-track.js';
import { CLOTH, onCloth } from '../../testing/cloth.js';
import { PLAIN_GOAL } from '../../testing/goal.js';
import { softMotionOf, type SolveSoft } from './soft-motion.js';

const OUTLINE: Point[] = [30, 190].flatMap((x, i) => (i ? [150, 30] : [30, 150]).map((y) => ({ x, y })));
const MESH = makeMesh({ outline: OUTLINE, spacing: 16, fit: 'even' });
const SIZE = { width: CLOTH.width, height: CLOTH.height };
/** As large as its sides are in the mean, about the same middle. */
function rectangleOfCorners([a, b, c, d]: Quad): Quad {
  const w = (Math.hypot(b.x - a.x, b.y - a.y) + Math.hypot(c.x - d.x, c.y - d.y)) / 2;
  const h = (Math.hypot(d.x - a.x, d.y - a.y) + Math.hypot(c.x - b.x, c.y - b.y)) / 2;
  const [x, y] = [(a.x + b.x + c.x + d.x) / 4, (a.y + b.y + c.y + d.y) / 4];
  return rectangle(x - w / 2, y - h / 2, x + w / 2, y + h / 2);
}
const frames = [...Array(CLOTH.frames).keys()];
const sampleOn = (f: number, place: (p: Point, f: number) => Point) =>
  softSample(f, MESH.vertices.map((v): SoftVertex => ({ ...place(v, f), confidence: 0.9, state: 'tracked' }))); // prettier-ignore
const soft = (place: (p: Point, f: number) => Point, of: readonly number[] = frames): SolveSoft => ({
  ...{ id: 'c', frame: 0, mesh: MESH, levels: 2, size: SIZE, flatten: true },
  track: withSoftSamples(
    EMPTY_SOFT_TRACK,
    of.map((f) => sampleOn(f, place)),
  ),
});
const request = (one: SolveSoft, ref = 0): ShotRequest => ({
  ...{ size: SIZE, frames: CLOTH.frames, pixelAspect: 1, fps: 30, spots: [], soft: one, held: 'c', ref },
  ...{ from: 0, to: CLOTH.frames - 1, goal: PLAIN_GOAL },
  framing: { mode: 'none', zoom: 1, rate: 0.05, shiftX: 0, shiftY: 0, delivery: null },
});

describe('a soft surface that is held', () => {
  it('moves as a whole as its vertices do', () => {
    const m = (f: number): Matrix3 => [1 + 0.01 * f, -0.02 * f, 3 * f, 0.02 * f, 1 + 0.01 * f, -f, 0, 0, 1];
    const motion = softMotionOf(soft((p, f) => apply(m(f), p.x, p.y)), CLOTH.frames, 0)!; // prettier-ignore
    expect(motion.parts[5].rotation).toBeCloseTo(Math.atan2(0.1, 1.05), 6);
    expect(motion.support[5]).toBe('full');
  });

  it('is laid flat as on the reference frame, whichever that is', () => {
    for (const ref of [0, 6]) {
      const plan = planFor(request(soft(onCloth), ref))!;
      expect(plan.bend?.id).toBe('c');
      for (const f of [3, 9, 13]) {
        const place = evaluatorOf(deliveredFrom(plan, f));
        for (const p of [
          { x: 60, y: 60 },
          { x: 110, y: 90 },
          { x: 160, y: 120 },
        ]) {
          const [flat, there] = [onCloth(p, ref), onCloth(p, f)];
          const seen = place.at(flat.x, flat.y);
          expect(Math.hypot(seen.x - there.x, seen.y - there.y)).toBeLessThan(0.15);
          const again = steadiedPlace(plan, f, seen);
          expect(Math.hypot(again.x - flat.x, again.y - flat.y)).toBeLessThan(0.01);
        }
      }
    }
  });

  it('leaves as ST maps that lead where the picture is taken from, and back', () => {
    const plan = planFor(request(soft(onCloth), 0))!;
    const told = { held: 'c', ref: 0, cuts: [] };
    const clip = { ...SIZE, frames: CLOTH.frames, fps: 30 };
    const data = dataOfPlan(plan, { from: 9, to: 9 }, told, frames.map((f) => f / 30), clip); // prettier-ignore
    const [there, back] = [...handOver(withWarps(data, plan), dataExportById('st-exr'))].map(
      ({ content }) => readExr(content as Uint8Array).channels,
    );
    const place = (map: typeof there, x: number, y: number) => {
      const k = y * SIZE.width + x;
      return { x: map.R[k] * SIZE.width, y: (1 - map.G[k]) * SIZE.height };
    };
    for (const [x, y] of [
      [60, 60],
      [110, 90],
      [160, 120],
    ]) {
      const rest = { x: x + 0.5, y: y + 0.5 };
      const [from, to] = [place(there, x, y), place(back, x, y)];
      expect(Math.hypot(from.x - onCloth(rest, 9).x, from.y - onCloth(rest, 9).y)).toBeLessThan(0.15);
      // What lies there as shot is seen where the cloth's own place is.
      const again = onCloth(to, 9);
      expect(Math.hypot(again.x - rest.x, again.y - rest.y)).toBeLessThan(0.15);
    }
    // Without what is bent the matrices alone would be off by what the cloth bends.
    const [plain] = [...handOver(data, dataExportById('st-exr'))].map(({ content }) => readExr(content as Uint8Array).channels); // prettier-ignore
    const [a, b] = [place(plain, 110, 90), place(there, 110, 90)];
    expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeGreaterThan(0.5);
  });

  it('is laid to a rectangle seen from ahead, the same on every frame, its own too', () => {
    const corners: Quad = [{ x: 40, y: 38 }, { x: 180, y: 30 }, { x: 186, y: 150 }, { x: 34, y: 140 }]; // prettier-ignore
    const laid = laidFlat(MESH, { corners, straight: false });
    const flatten = quadToQuad(corners, rectangleOfCorners(corners))!;
    const plan = planFor(request({ ...soft(onCloth), laid }, 6))!;
    for (const f of [0, 6, 11]) {
      const place = evaluatorOf(deliveredFrom(plan, f));
      for (const p of [
        { x: 70, y: 70 },
        { x: 110, y: 90 },
        { x: 150, y: 120 },
      ]) {
        // prettier-ignore
        const [flat, there] = [apply(flatten, p.x, p.y), onCloth(p, f)];
        const seen = place.at(flat.x, flat.y);
        expect(Math.hypot(seen.x - there.x, seen.y - there.y)).toBeLessThan(0.3);
      }
    }
    // What rides on it, told in the picture that it is laid to, goes where the cloth does.
    const ride = { on: 'soft' as const, id: 'c', soft: { ...soft(onCloth), laid }, laid: true };
    const at = apply(flatten, 110, 90);
    const there = evaluatorOf(
      carry(ride, { own: 3, frame: 9, unknown: 'bridge', middle: at, motions: {} }).bent!.forth,
    ).at(at.x, at.y);
    const truth = onCloth({ x: 110, y: 90 }, 9);
    expect(Math.hypot(there.x - truth.x, there.y - truth.y)).toBeLessThan(0.3);
  });

  it('is not bent where only its position, rotation and scale are taken out', () => {
    const plan = planFor(request({ ...soft(onCloth), flatten: false }))!;
    expect(plan.bend).toBeNull();
    expect(deliveredFrom(plan, 5).kind).toBe('matrix');
    expect(plan.measure.after).toBeLessThan(plan.measure.before);
  });

  it('is bridged over frames on which it is not known', () => {
    const plan = planFor(request(soft(onCloth, [0, 1, 2, 3, 8, 9, 10, 11, 12, 13])))!;
    expect(plan.motion.support[5]).toBe('none');
    expect(pictureInSource(plan, 5).every(Number.isFinite)).toBe(true);
  });
});

describe('what rides on a soft surface', () => {
  const ride = { on: 'soft' as const, id: 'c', soft: soft(onCloth, [0, 1, 2, 3, 8, 9]) };
  const middle = { x: 110, y: 90 };

  it('goes with every fold, there and back', () => {
    const { bent, m, share, confidence } = carry(ride, {
      own: 0,
      frame: 8,
      unknown: 'bridge',
      middle,
      motions: {},
    });
    const [forth, back] = [evaluatorOf(bent!.forth), evaluatorOf(bent!.back)];
    const there = forth.at(140, 70);
    const truth = onCloth({ x: 140, y: 70 }, 8);
    expect(Math.hypot(there.x - truth.x, there.y - truth.y)).toBeLessThan(0.15);
    expect(back.at(there.x, there.y).x).toBeCloseTo(140, 4);
    expect([share, confidence]).toEqual([1, expect.closeTo(0.9, 6)]);
    const near = apply(m, middle.x, middle.y);
    const exact = forth.at(middle.x, middle.y);
    expect(Math.hypot(near.x - exact.x, near.y - exact.y)).toBeLessThan(1e-6);
    expect(multiply(m, invert(m))[0]).toBeCloseTo(1, 9);
  });

  it('is bridged, fades or is off where it is not known', () => {
    const share = (unknown: 'bridge' | 'hold' | 'fade' | 'off') =>
      carry(ride, { own: 0, frame: 5, unknown, middle, motions: {} }).share;
    expect([share('bridge'), share('hold'), share('off')]).toEqual([1, 1, 0]);
    expect(share('fade')).toBeLessThan(1);
    expect(share('fade')).toBeGreaterThan(0);
    expect(carry(ride, { own: 0, frame: 5, unknown: 'bridge', middle, motions: {} }).confidence).toBe(0);
  });
});
