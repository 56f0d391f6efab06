import type { Point } from '@lurn/core/geometry';
import { faceLeads, keptFor } from './face-leads';

const face = (x: number, y: number): Point[] =>
  Array.from({ length: 64 }, (_, i) => ({ x: x + 8 * (i % 8), y: y + 8 * Math.floor(i / 8) }));
const vertices = [
  { x: 120, y: 130 },
  { x: 140, y: 150 },
];

it('leads a mesh by the face that was about it, not by another that comes by', async () => {
  const frames = [[face(300, 100), face(100, 100)], [face(106, 97), face(305, 100)], [face(500, 100)], []];
  const asked: number[] = [];
  const leads = faceLeads(
    keptFor((frame) => {
      asked.push(frame);
      return Promise.resolve(frames[frame]);
    }),
    { frame: 0, vertices },
  );
  const moved = await leads(1, vertices);
  expect([...moved.keys()]).toEqual([0, 1]);
  expect(moved.get(0)!.to.x).toBeCloseTo(126, 6);
  expect(moved.get(0)!.to.y).toBeCloseTo(127, 6);
  // The only face on frame 2 is far from where the mesh is, and on frame 3 there is none.
  expect((await leads(2, vertices)).size).toBe(0);
  expect((await leads(3, vertices)).size).toBe(0);
  await leads(3, vertices);
  expect(asked).toEqual([0, 1, 2, 3]);
});

it('leads nothing where no face is about the mesh on its own frame', async () => {
  const leads = faceLeads(() => Promise.resolve([face(400, 300)]), { frame: 0, vertices });
  expect((await leads(1, vertices)).size).toBe(0);
});
