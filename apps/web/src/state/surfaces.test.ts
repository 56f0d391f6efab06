import { apply, rectangle, type Quad } from '@lurn/core/geometry';
import { surfaceAt, withSurfaceSamples } from '@lurn/core/track';
import { quadOf, setMeasured, surfacesOf, surfaceTrackOf } from '@lurn/model';
import { openBench } from '../testing/open-bench';
import { bench, setBench } from './bench';
import { deleteSelected } from './edit-spots';
import { addCorner, outlineCorners, outlineHome, removeCorner, reshapeOutline } from './outlines';
import { edit, redo, shotDocument, shotState, undo } from './shot';
import {
  addOutline,
  drawSurface,
  motionOn,
  pinQuad,
  quadShown,
  removeOutline,
  setQuadCorner,
  snapQuad,
} from './surfaces';
import { trackersToFollow } from './track-targets';

const board = rectangle(100, 80, 300, 200);
const only = () => surfacesOf(shotDocument())[0];
const own = () => ({ of: 'surface', id: only().id, index: 0 }) as const;
/** Measured on another frame as moved by (20, 10). */
const moved = (frame: number): void => {
  const corners = quadOf(only().base).map((p) => ({ x: p.x + 20, y: p.y + 10 })) as unknown as Quad;
  const sample = { frame, corners, confidence: 1, state: 'tracked' as const };
  const { id } = only();
  edit((s) => setMeasured(s, { [id]: withSurfaceSamples(surfaceTrackOf(s, id), [sample]) }));
};

beforeEach(() => {
  openBench();
  setBench({ frame: 3, onlySelected: false });
  drawSurface(board, false);
});

it('a surface is drawn, selected, pinned on its own frame, and undone in one step', () => {
  expect(only()).toMatchObject({ name: 'Surface 1', frame: 3 });
  expect(bench().selected).toEqual([only().id]);
  expect(quadOf(only().quad)).toEqual(board);
  expect(surfaceAt(surfaceTrackOf(shotState(), only().id), 3)?.state).toBe('pinned');
  undo();
  expect(surfacesOf(shotDocument())).toEqual([]);
  redo();
  expect(only().name).toBe('Surface 1');
  deleteSelected();
  expect(shotDocument().trackers).toEqual([]);
});

it('a small one does not tell how the whole picture leans, until it is told to', () => {
  expect(only().perspective).toBe(true);
  undo();
  drawSurface(rectangle(100, 80, 300, 120), false);
  expect(only().perspective).toBe(false);
});

it('what is no shape makes no surface', () => {
  drawSurface([board[0], board[2], board[1], board[3]], false);
  drawSurface(rectangle(900, 80, 950, 120), false);
  expect(surfacesOf(shotDocument())).toHaveLength(1);
});

it('on another frame it is where it was measured, and is changed there in its own pixels', () => {
  moved(5);
  expect(outlineCorners(own(), 5)![0]).toMatchObject({ x: expect.closeTo(100, 6), y: expect.closeTo(80, 6) });
  expect(apply(outlineHome(own()).toPicture(own(), shotState(), 5, 'source')!, 100, 80).x).toBeCloseTo(
    120,
    6,
  );
  expect(motionOn(only(), 6)).toBeNull();
  setQuadCorner(only().id, 0, 5, { x: 130, y: 95 });
  expect(only().quad[0]).toEqual([110, 85]);
  expect(quadShown(only(), 5)![0].x).toBeCloseTo(130, 6);
  // A corner that would turn the quad over is not taken.
  setQuadCorner(only().id, 0, 5, { x: 500, y: 400 });
  expect(only().quad[0]).toEqual([110, 85]);
  snapQuad(only().id);
  expect(only().quad[0]).toEqual([100, 80]);
});

it('an outline that is moved on another frame is keyed there', () => {
  moved(5);
  const there = outlineCorners(own(), 5)!;
  reshapeOutline(
    own(),
    5,
    there.map((p) => ({ x: p.x - 6, y: p.y })),
  );
  expect(only().shapes[0].keys.map((k) => k.frame)).toEqual([3, 5]);
  expect(only().shapes[0].keys[1].shape[0]).toEqual([94, 80]);
  addCorner(own(), 1);
  expect(only().shapes[0].keys.every((k) => k.shape.length === 5)).toBe(true);
  removeCorner(own(), 2);
  removeCorner(own(), 0);
  removeCorner(own(), 0);
  expect(only().shapes[0].keys[0].shape).toHaveLength(3);
});

it('parts are added and left out; the last that belongs to it stays', () => {
  addOutline('ignore', rectangle(150, 100, 180, 130), false);
  addOutline('focus', rectangle(300, 80, 340, 200), false);
  expect(only().shapes.map((s) => s.kind)).toEqual(['focus', 'ignore', 'focus']);
  removeOutline(only().id, 0);
  removeOutline(only().id, 1);
  expect(only().shapes.map((s) => s.kind)).toEqual(['ignore', 'focus']);
});

it('a quad that is put right is a pin, and says where the surface is', () => {
  moved(5);
  const right = rectangle(118, 92, 318, 212);
  pinQuad(only().id, 5, right);
  const sample = surfaceAt(surfaceTrackOf(shotState(), only().id), 5)!;
  expect(sample.state).toBe('pinned');
  expect(quadShown(only(), 5)![2]).toMatchObject({ x: expect.closeTo(318, 4), y: expect.closeTo(212, 4) });
  pinQuad(only().id, 5, [...right].reverse() as unknown as Quad);
  expect(quadShown(only(), 5)![2].x).toBeCloseTo(318, 4);
});

it('those that are known on the frame are tracked, or of them the selected', () => {
  setBench({ frame: 3 });
  expect(trackersToFollow().flat()).toHaveLength(1);
  setBench({ onlySelected: true, selected: [] });
  expect(trackersToFollow().flat()).toHaveLength(0);
  setBench({ onlySelected: false, frame: 9 });
  expect(trackersToFollow().flat()).toHaveLength(0);
});
