import { makeMesh } from '../../soft/mesh-making.js';
import { EMPTY_SOFT_TRACK, softSample, withSoftSamples, type SoftVertex } from '../../soft/soft-track.js';
import { judgeSoft } from './soft-doubts.js';

const outline = [0, 160].flatMap((x, i) => (i ? [120, 0] : [0, 120]).map((y) => ({ x, y })));
const mesh = makeMesh({ outline, spacing: 20, fit: 'even' });
const middle = mesh.vertices.findIndex((v) => v.x === 80 && v.y === 60);
const lying = (change: (v: SoftVertex, i: number) => SoftVertex | null = (v) => v) =>
  mesh.vertices.map((p, i) => change({ ...p, confidence: 0.9, state: 'tracked' }, i));
const doubts = (odd: ReturnType<typeof lying>) => {
  const frames = Array.from({ length: 20 }, (_, f) => softSample(f, f >= 8 && f <= 10 ? odd : lying()));
  return judgeSoft([{ id: 'c', mesh, track: withSoftSamples(EMPTY_SOFT_TRACK, frames) }]);
};

it('a mesh that lies as it did is not doubted', () => {
  expect(doubts(lying())).toEqual([]);
});

it('what turns over is the worst, then what stretches, then what is hidden', () => {
  const over = doubts(lying((v, i) => (i === middle ? { ...v, x: v.x + 50 } : v)));
  expect(over[0]).toMatchObject({ spot: 'c', reason: 'turned-over', from: 8, to: 10 });
  const wide = doubts(lying((v, i) => (i === middle ? { ...v, x: v.x + 14, y: v.y + 14 } : v)));
  expect(wide[0]).toMatchObject({ reason: 'stretched', from: 8, to: 10 });
  const hidden = doubts(lying((v) => (v.x > 100 ? null : v)));
  expect(hidden).toMatchObject([
    { reason: 'coasted', sentence: '33 % of its points are hidden on frames 8 to 10.' },
  ]);
});

it('a mesh whose points match badly on the whole is doubted there, though all are seen', () => {
  const weak = doubts(lying((v) => ({ ...v, confidence: 0.21 })));
  expect(weak).toMatchObject([
    {
      ...{ reason: 'weak-match', from: 8, to: 10 },
      sentence: 'The match of its points falls to 0.21 on average on frames 8 to 10.',
    },
  ]);
});
