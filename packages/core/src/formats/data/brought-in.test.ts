import { apply, invert, multiply, type Matrix3 } from '../../geometry/matrix.js';
import { composeSimilarity } from '../../geometry/similarity.js';
import { evaluatorOf } from '../../geometry/warp.js';
import { softWarp } from '../../soft/soft-warps.js';
import { surfaceMotion } from '../../surface/surface-track.js';
import { readExr, writeExr } from '../exr.js';
import { gridOfMap, meshOfMaps, surfacesOfData } from './brought-in.js';
import { stMap, type MovingData } from './index.js';

const SIZE = { width: 320, height: 180 };
/** A camera that shakes: the first frame is its reference. */
const shaken = (t: number): Matrix3 =>
  composeSimilarity(
    { x: 6 * Math.sin(t), y: 4 * Math.cos(2 * t) - 4, rotation: 0.01 * t, logScale: 0.005 * t },
    { x: 160, y: 90 },
  );
const still: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];
const frames = [0, 1, 2, 3, 4];

const data = (kind: 'motion' | 'movers', ref: number): MovingData => ({
  ...{ kind, clip: { ...SIZE, frames: 5, fps: 25 } },
  things: [
    {
      name: 'ridge',
      frames: frames.map((frame) => {
        const m = shaken(frame);
        return { frame, time: frame / 25, values: kind === 'movers' ? [...m] : [...m, ...invert(m), ...still] };
      }),
    },
  ],
  ...(kind === 'motion' && { solved: { ref, zoom: 1, cuts: [] } }),
});

describe('motion of another program', () => {
  it.each(['motion', 'movers'] as const)('as %s becomes a surface that moves by the same numbers', (kind) => {
    const [one] = surfacesOfData(data(kind, 3), SIZE);
    expect(one).toMatchObject({ name: 'ridge', frame: kind === 'motion' ? 3 : 0 });
    for (const f of frames) {
      const m = surfaceMotion(one.base, one.track, f)!;
      const truth = multiply(shaken(f), invert(shaken(one.frame)));
      for (const [x, y] of [[20, 30], [300, 20], [160, 170]]) { // prettier-ignore
        const [p, q] = [apply(m, x, y), apply(truth, x, y)];
        expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeLessThan(1e-6);
      }
    }
  });

  it('as corners becomes a surface whose corners they are', () => {
    const values = (f: number) => [10, 20, 200 + f, 22, 199, 140, 12, 139 - f];
    const corners: MovingData = {
      ...{ kind: 'corners', clip: { ...SIZE, frames: 5, fps: 25 } },
      things: [{ name: 'sign', frames: [2, 3].map((frame) => ({ frame, time: frame / 25, values: values(frame), confidence: 0.7, state: 'tracked' })) }], // prettier-ignore
    };
    const [one] = surfacesOfData(corners, SIZE);
    expect(one.frame).toBe(2);
    expect(one.base[1]).toEqual({ x: 202, y: 22 });
    expect(surfaceMotion(one.base, one.track, 3)).not.toBeNull();
    expect(one.track.confidence[1]).toBe(0.7);
  });
});

describe('what makes no surface', () => {
  it.each([
    ['a motion that takes the picture nowhere', 'motion', [...new Array<number>(9).fill(0), ...still, ...still], /"ridge" on frame 0 takes the picture nowhere/], // prettier-ignore
    ['corners that are crossed', 'corners', [0, 0, 90, 90, 90, 0, 0, 90], /"ridge" on frame 0 is not convex/],
  ] as const)('%s is told of', (_, kind, values, message) => {
    const only = [{ frame: 0, time: 0, values }];
    const broken: MovingData = { kind, clip: { ...SIZE, frames: 1, fps: 25 }, things: [{ name: 'ridge', frames: only }] };
    expect(() => surfacesOfData(broken, SIZE)).toThrow(message);
  });
});

describe('ST maps of another program', () => {
  const maps = frames.map((f) => readExr(writeExr(stMap(shaken(f), SIZE), 32)));

  it('become a mesh that laid flat is the correction that they are', () => {
    const { frame, mesh, track } = meshOfMaps(maps.map((m, f) => gridOfMap(m, f, SIZE)), SIZE); // prettier-ignore
    expect(mesh.vertices.length).toBeGreaterThan(400);
    const shape = { frame, mesh, track, levels: 0 };
    for (const f of frames) {
      const there = evaluatorOf(softWarp(shape, frame, f)!);
      const truth = multiply(shaken(f), invert(shaken(frame)));
      for (let y = 25; y < 160; y += 27)
        for (let x = 25; x < 300; x += 31) {
          const [p, q] = [there.at(x, y), apply(truth, x, y)];
          expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeLessThan(0.01);
        }
    }
  });

  it('that do not belong together, or are none, are refused', () => {
    const grid = gridOfMap(maps[0], 0, SIZE);
    expect(() => meshOfMaps([grid], SIZE)).toThrow('only one');
    expect(() => meshOfMaps([grid, { frame: 1, places: new Float64Array(9) }], SIZE)).toThrow('not of one size');
    expect(() => gridOfMap({ ...SIZE, channels: { Y: new Float32Array(9) } }, 4, SIZE)).toThrow('frame 4 has no red');
    const nothing = { frame: 1, places: grid.places.map((v, k) => (k % 3 === 2 ? 0 : v)) };
    expect(() => meshOfMaps([{ ...nothing, frame: 0 }, nothing], SIZE)).toThrow('nothing of the picture');
  });
});
