import { composeSimilarity, NO_MOTION } from '../geometry/similarity.js';
import { asSpots, trackOf } from '../testing/motions.js';
import { solveMotion } from '../solve/solve-motion.js';
import { MOTION_COLUMNS, motionTable } from './motion-table.js';

const truth = Array.from({ length: 6 }, (_, i) =>
  composeSimilarity(
    { x: 3 * i, y: -2 * i, rotation: 0.01 * i, logScale: Math.log(1 + 0.01 * i) },
    { x: 600, y: 350 },
  ),
);
const seen = (f: number) => f !== 4;
const tracks = [trackOf(truth, 300, 200, seen), trackOf(truth, 900, 500, seen)];
const motion = solveMotion({ frames: 6, ref: 0, spots: asSpots(tracks) })!;
const times = [0, 0.1, 0.25, 0.3, 0.4, 0.5];

describe('the motion in numbers', () => {
  const still = motionTable({ motion, kept: motion.parts.map(() => NO_MOTION) }, times, 1, 5);
  const column = (name: (typeof MOTION_COLUMNS)[number], rows = still) =>
    rows.map((row) => row[MOTION_COLUMNS.indexOf(name)]);

  it('has the measured motion in pixels, degrees and per cent, at the times of the clip', () => {
    expect(column('frame')).toEqual(['1', '2', '3', '4', '5']);
    expect(column('time_s')[1]).toBe('0.2500');
    expect(column('x_px')[2]).toBe('9.000');
    expect(column('y_px')[2]).toBe('-6.000');
    expect(Number(column('rotation_deg')[1])).toBeCloseTo((0.02 * 180) / Math.PI, 3);
    expect(column('scale_pct')[4]).toBe('105.000');
  });

  it('has the opposite beside it: position and rotation negated, scale inverted', () => {
    still.forEach((_, i) => {
      expect(Number(column('correction_x_px')[i])).toBeCloseTo(-Number(column('x_px')[i]), 9);
      expect(Number(column('correction_rotation_deg')[i])).toBeCloseTo(-Number(column('rotation_deg')[i]), 9);
      const product = Number(column('correction_scale_pct')[i]) * Number(column('scale_pct')[i]);
      expect(product / 1e4).toBeCloseTo(1, 4);
    });
  });

  it('shows no negative zero, and leaves the residual open where nothing was measured', () => {
    const asShot = motionTable({ motion, kept: motion.parts }, times, 0, 5);
    expect(column('correction_x_px', asShot)).toEqual(Array(6).fill('0.000'));
    expect(asShot.flat().filter((v) => /^-0\.0*$/.test(v))).toEqual([]);
    expect(column('residual_px')[3]).toBe('');
    expect(column('residual_px')[0]).toBe('0.000');
  });
});
