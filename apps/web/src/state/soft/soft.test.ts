import { sampleAt, softAt, softSample, withSoftSamples, type SoftVertex } from '@lurn/core/track';
import { setMeasured, softOf, softTrackOf, spotsOf, trackOf } from '@lurn/model';
import { openBench } from '../../testing/open-bench';
import { deleteSelected, nudge, pinSpot, placeSpot } from '../edit-spots';
import { bench, setBench } from '../bench';
import { edit, shotDocument, shotState, undo } from '../shot';
import { bridgeGap } from '../repairs';
import { addVertex, choosePoints, cutMesh, endVertices, moveVertex, unpin } from './mesh-points';
import { borderShown, placesShown } from './mesh-shown';
import { drawSoft, meshOfSpots, remesh } from './soft';
import { trackersToFollow } from '../track-targets';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), warning: jest.fn(), success: jest.fn() } }));

const only = () => softOf(shotDocument())[0];
const track = () => softTrackOf(shotState(), only().id);
/** Measured on another frame as moved by (10, 5). */
const moved = (frame: number) => {
  const { id, vertices } = only();
  const there = vertices.map(([x, y]): SoftVertex => ({
    x: x + 10,
    y: y + 5,
    confidence: 0.9,
    state: 'tracked',
  }));
  edit((s) => setMeasured(s, { [id]: withSoftSamples(softTrackOf(s, id), [softSample(frame, there)]) }));
};
const nearest = (x: number, y: number) => {
  const d = only().vertices.map(([a, b]) => Math.hypot(a - x, b - y));
  return d.indexOf(Math.min(...d));
};

beforeEach(() => {
  openBench();
  setBench({ frame: 3, onlySelected: false, meshBrush: 0, points: [], station: 'mark' });
  drawSoft(
    [
      { x: 100, y: 80 },
      { x: 300, y: 80 },
      { x: 300, y: 200 },
      { x: 100, y: 200 },
    ],
    false,
  );
});

it('is drawn, meshed, selected and known on its own frame, and undone in one step', () => {
  expect(only()).toMatchObject({ name: 'Cloth 1', frame: 3, fit: 'even' });
  expect(only().vertices.length).toBeGreaterThan(50);
  expect(bench().selected).toEqual([only().id]);
  expect(
    trackersToFollow()
      .flat()
      .map((s) => s.id),
  ).toEqual([only().id]);
  undo();
  expect(softOf(shotDocument())).toEqual([]);
});

it('what is no outline makes no mesh', () => {
  drawSoft([{ x: 0, y: 0 }, { x: 90, y: 90 }, { x: 90, y: 0 }, { x: 0, y: 90 }], false); // prettier-ignore
  expect(softOf(shotDocument())).toHaveLength(1);
});

it('is meshed anew, what was measured going with it', async () => {
  moved(5);
  await remesh(only().id, { spacing: 40 });
  expect(only().vertices.length).toBeLessThan(40);
  const sample = softAt(track(), 5)!;
  sample.vertices.forEach((v, i) => {
    expect(v!.x).toBeCloseTo(only().vertices[i][0] + 10, 1);
    expect(v!.y).toBeCloseTo(only().vertices[i][1] + 5, 1);
  });
});

it('a point that is moved on another frame is pinned there, by a soft brush those about it too', () => {
  moved(5);
  const { id } = only();
  const i = nearest(200, 140);
  const from = placesShown(only(), 5)![i];
  expect(moveVertex(id, i, 5, { x: from.x + 3, y: from.y })).toBeNull();
  expect(softAt(track(), 5)!.vertices.filter((v) => v!.state === 'pinned')).toHaveLength(1);
  setBench({ meshBrush: 40 });
  moveVertex(id, i, 5, { x: from.x + 5, y: from.y });
  const pinned = softAt(track(), 5)!.vertices.filter((v) => v!.state === 'pinned').length;
  expect(pinned).toBeGreaterThan(4);
  unpin(id, 5, []);
  expect(softAt(track(), 5)!.vertices.every((v) => v!.state === 'tracked')).toBe(true);
});

it('a point that is moved on its own frame is elsewhere where that place of the cloth went', () => {
  const { id, vertices } = only();
  const grown = vertices.map(([x, y]): SoftVertex => ({
    x: 2 * x,
    y: 2 * y,
    confidence: 0.9,
    state: 'tracked',
  }));
  edit((s) => setMeasured(s, { [id]: withSoftSamples(softTrackOf(s, id), [softSample(5, grown)]) }));
  const i = nearest(200, 140);
  const [x, y] = vertices[i];
  expect(moveVertex(id, i, 3, { x: x + 4, y: y - 3 })).toBeNull();
  expect(only().vertices[i]).toEqual([x + 4, y - 3]);
  const there = softAt(track(), 5)!.vertices[i]!;
  expect([there.x, there.y]).toEqual([expect.closeTo(2 * (x + 4), 1), expect.closeTo(2 * (y - 3), 1)]);
});

it('a point that would turn the mesh over is not taken there, and it is said why', () => {
  moved(5);
  const i = nearest(200, 140);
  const before = softAt(track(), 5);
  expect(moveVertex(only().id, i, 5, { x: 20, y: 20 })).toMatch(/turn a part of the mesh over/);
  expect(softAt(track(), 5)).toEqual(before);
});

it('points are put, chosen by a box, nudged, and taken out', () => {
  const n = only().vertices.length;
  const [x, y] = only().vertices[nearest(200, 140)];
  addVertex({ x: x + 6, y: y + 5 });
  expect(only().vertices).toHaveLength(n + 1);
  choosePoints(3, [x + 3, y + 2, x + 9, y + 8]);
  expect(bench().points).toHaveLength(1);
  const [chosen] = bench().points;
  const at = only().vertices[chosen];
  nudge(1, 0);
  expect(only().vertices[chosen][0]).toBeCloseTo(at[0] + 1, 6);
  deleteSelected();
  expect(only().vertices).toHaveLength(n);
  expect(softOf(shotDocument())).toHaveLength(1);
});

it('it is cut along a line, on its own frame alone', () => {
  const faces = only().faces.length;
  setBench({ frame: 5 });
  cutMesh({ x: 205, y: 60 }, { x: 205, y: 220 });
  expect(only().faces).toHaveLength(faces);
  setBench({ frame: 3 });
  cutMesh({ x: 205, y: 60 }, { x: 205, y: 220 });
  expect(only().faces.length).toBeLessThan(faces);
});

it('points end from a frame on, and its border is known there still', () => {
  moved(5);
  moved(6);
  const i = nearest(100, 80);
  endVertices(only().id, [i], 6, 20);
  expect([softAt(track(), 5)!.vertices[i], softAt(track(), 6)!.vertices[i]]).toEqual([
    expect.anything(),
    null,
  ]);
  const corner = borderShown(only(), 6)!.reduce((a, b) => (a.x + a.y < b.x + b.y ? a : b));
  expect(Math.hypot(corner.x - 110, corner.y - 85)).toBeLessThan(2);
});

it('is made of spots that were tracked', () => {
  const far = [
    [40, 40],
    [400, 60],
    [380, 300],
    [60, 280],
  ] as const;
  setBench({ selected: [] });
  for (const [x, y] of far) placeSpot({ x, y });
  for (const spot of spotsOf(shotDocument())) {
    const { x, y } = sampleAt(trackOf(shotState(), spot.id), 3)!;
    pinSpot(spot.id, { x: x + 4, y }, 4);
  }
  meshOfSpots();
  const made = softOf(shotDocument())[1];
  expect([made.vertices.length, made.faces.length, made.frame]).toEqual([4, 2, 3]);
  expect(softAt(softTrackOf(shotState(), made.id), 4)!.vertices[0]!.x).toBeCloseTo(44, 3);
});

it('a gap is bridged for the chosen points, and for all of them where nothing of it is known', () => {
  moved(5);
  moved(7);
  moved(9);
  const states = (frame: number) => softAt(track(), frame)?.vertices.map((v) => v?.state ?? 'none') ?? [];
  setBench({ points: [2] });
  endVertices(only().id, [2, 3], 4, 5);
  setBench({ frame: 5 });
  bridgeGap();
  expect([states(5)[2], states(5)[3]]).toEqual(['bridged', 'none']);
  setBench({ frame: 8 });
  bridgeGap();
  expect(new Set(states(8))).toEqual(new Set(['bridged']));
});
