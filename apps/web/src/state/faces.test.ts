import { toast } from 'sonner';
import { softOf } from '@lurn/model';
import { openBench } from '../testing/open-bench';
import { bench, setBench } from './bench';
import { findFaces, keepFaces, type FaceFinder } from './faces';
import { shotDocument, undo } from './shot';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), error: jest.fn() } }));

const face = (x: number, r: number) => ({
  score: 0.9,
  outline: Array.from({ length: 24 }, (_, i) => ({
    x: x + r * Math.cos((i * Math.PI) / 12),
    y: 180 + 1.3 * r * Math.sin((i * Math.PI) / 12),
  })),
  points: Array.from({ length: 200 }, (_, i) => ({
    x: x + 0.9 * r * Math.sin(i * 2.4) * Math.sqrt(i / 200),
    y: 180 + r * Math.cos(i * 2.4) * Math.sqrt(i / 200),
  })),
});
const names = () => softOf(shotDocument()).map((s) => s.name);
const looking = (found: ReturnType<FaceFinder>['found']) => {
  const stop = jest.fn();
  return { stop, end: keepFaces(() => ({ found, stop })) };
};

beforeEach(() => {
  openBench();
  setBench({ frame: 7 });
});

it('makes a mesh of each face, of the frame that is shown, in one step', async () => {
  const { end } = looking(Promise.resolve([face(160, 60), face(430, 40), face(600, 1)]));
  await findFaces();
  expect(names()).toEqual(['Face 1', 'Face 2']);
  const [first] = softOf(shotDocument());
  expect(first.frame).toBe(7);
  expect(first.vertices.length).toBeGreaterThan(40);
  expect(first.vertices.length).toBeLessThan(160);
  expect(jest.mocked(toast.info).mock.lastCall![0]).toContain('2 faces on frame 7');
  expect(bench().facing).toBe(false);
  undo();
  expect(names()).toEqual([]);
  end();
});

it('says where there is none, and why it cannot look', async () => {
  looking(Promise.resolve([]));
  await findFaces();
  expect(jest.mocked(toast.info).mock.lastCall![0]).toContain('No face was found on frame 7');
  const { end } = looking(Promise.reject(new Error('There is no WebGL.')));
  await findFaces();
  expect(jest.mocked(toast.error).mock.lastCall![0]).toContain('There is no WebGL.');
  expect(names()).toEqual([]);
  end();
});

it('stops when asked again, and takes nothing from then on', async () => {
  let give: (found: ReturnType<typeof face>[]) => void = () => undefined;
  const { stop, end } = looking(new Promise((resolve) => (give = resolve)));
  const first = findFaces();
  expect(bench().facing).toBe(true);
  await findFaces();
  expect(stop).toHaveBeenCalled();
  give([face(160, 60)]);
  await first;
  expect(names()).toEqual([]);
  end();
});
