import { gridOfMap, stMap } from '@lurn/core/formats';
import type { Matrix3 } from '@lurn/core/geometry';
import { softAt, surfaceAt } from '@lurn/core/track';
import { moverName, softOf, softTrackOf, surfacesOf, surfaceTrackOf } from '@lurn/model';
import { INFO, openBench } from '../testing/open-bench';
import { bench } from './bench';
import { bringIn, motionInMaps, motionInText, toldOf } from './import-motion';
import { shotDocument, shotState, undo } from './shot';

const shift = (x: number): Matrix3 => [1, 0, x, 0, 1, 0, 0, 0, 1];
const back = (x: number) => shift(-x);
const motion = JSON.stringify({
  clip: { width: 640, height: 360, frames: 40, fps: 25 },
  ...{ ref: 2, zoom: 1, held: 'far ridge', cuts: [] },
  frames: [0, 1, 2, 3, 50].map((frame) => ({
    ...{ frame, motion: shift(frame - 2), correction: back(frame - 2), framing: shift(0), residual_px: 0.1 },
  })),
});

beforeEach(() => openBench());

it('a motion becomes a surface that is held, in one step; frames that the clip has not are left out', () => {
  const brought = motionInText(motion, INFO)!;
  expect(toldOf(brought)).toEqual(['far ridge: a flat surface, 4 frames, as it lies on frame 2']);
  bringIn(brought);
  const [surface] = surfacesOf(shotDocument());
  expect(moverName(shotDocument(), shotDocument().held!)).toBe('far ridge');
  expect(surface).toMatchObject({ name: 'far ridge', frame: 2 });
  expect(bench().selected).toEqual([surface.id]);
  const track = surfaceTrackOf(shotState(), surface.id);
  expect(surfaceAt(track, 3)!.corners[0]).toEqual({ x: 1, y: 0 });
  expect(surfaceAt(track, 50)).toBeNull();
  undo();
  expect(surfacesOf(shotDocument())).toEqual([]);
  expect(shotDocument().held).toBeNull();
});

it('corners become surfaces, and nothing else is held for them', () => {
  const corners = 'surface,frame,time_s,x1_px,y1_px,x2_px,y2_px,x3_px,y3_px,x4_px,y4_px,confidence,state\nsign,1,0.04,10,10,90,12,88,70,11,72,0.9,tracked\nsign,2,0.08,11,10,91,12,89,70,12,72,0.9,tracked\n'; // prettier-ignore
  bringIn(motionInText(corners, INFO)!);
  expect(surfacesOf(shotDocument()).map((s) => s.name)).toEqual(['sign']);
  expect(shotDocument().held).toBeNull();
});

it('maps become a mesh that is held', () => {
  const size = { width: 640, height: 360 };
  const maps = [0, 1, 2].map((f) => gridOfMap(stMap(shift(3 * f), size), f, size));
  const brought = motionInMaps({ maps, size }, 'from elsewhere', INFO);
  expect(toldOf(brought)[0]).toMatch(/^from elsewhere: a mesh of \d+ points, 3 frames$/);
  bringIn(brought);
  const [soft] = softOf(shotDocument());
  expect(soft).toMatchObject({ name: 'from elsewhere', frame: 0, levels: 0 });
  expect(shotDocument().held).toBe(soft.mover);
  const at = softAt(softTrackOf(shotState(), soft.id), 2)!.vertices[0]!;
  expect(at.x).toBeCloseTo(soft.vertices[0][0] + 6, 2);
});

it('a mesh comes in as it went out, and nothing else is held for it', () => {
  const square = [[10, 10], [60, 10], [60, 50], [10, 50]]; // prettier-ignore
  const frames = [3, 4].map((frame) => ({
    ...{ frame, confidence: [1, 0.9, 0, 0.8] },
    vertices: square.map(([x, y], v) => (v === 2 ? null : [x + frame, y])),
  }));
  const mesh = { name: 'flag', frame: 3, vertices: square, faces: [[0, 1, 2, 3]], frames };
  bringIn(motionInText(JSON.stringify({ meshes: [mesh] }), INFO)!);
  const [soft] = softOf(shotDocument());
  expect(soft).toMatchObject({ name: 'flag', frame: 3, vertices: square });
  expect(shotDocument().held).toBeNull();
  const { vertices } = softAt(softTrackOf(shotState(), soft.id), 4)!;
  expect(vertices.map((p) => p && [p.x, p.y])).toEqual([[14, 10], [64, 10], null, [14, 50]]); // prettier-ignore
});

it('what has no room, or tells of other frames, is refused, and nothing is changed', () => {
  const table = (frame: (k: number) => number) =>
    ['surface,frame,time_s,x1_px,y1_px,x2_px,y2_px,x3_px,y3_px,x4_px,y4_px', ...Array.from({ length: 501 }, (_, k) => `s${k},${frame(k)},0,10,10,90,12,88,70,11,72`)].join('\n'); // prettier-ignore
  expect(() => bringIn(motionInText(table(() => 1), INFO)!)).toThrow('up to 500'); // prettier-ignore
  expect(shotDocument().trackers).toEqual([]);
  expect(() => motionInText(table(() => 70), INFO)).toThrow('None of it is told of a frame of this clip, which has 40'); // prettier-ignore
});

it('spots are left to be read by their columns, and what is no motion is said to be none', () => {
  expect(motionInText('spot,frame,time_s,x_px,y_px,confidence,state\na,0,0,5,5,1,pinned\n', INFO)).toBeNull();
  expect(() => motionInText('{ "frames": [] }', INFO)).toThrow('cannot be read');
});
