/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import {
  addLayer,
  drawnOutline,
  NEW_LAYER,
  NEW_TINT,
  ON_FRAME,
  type Layer,
  softOf,
  type PaintLayer,
} from '@lurn/model';
import { LurnError } from '@lurn/core';
import { api } from '../lib/api';
import { madeScene } from '../testing/made-scene';
import { FRAMES, lying, openBench, shotWith, spot } from '../testing/open-bench';
import { hintOf } from '../pages/bench/tools';
import { PaintTool } from '../pages/bench/tools/paint';
import { bench, setBench } from './bench';
import { outlineCorners, removeCorner, reshapeOutline } from './outlines';
import { pictureToLayer } from './layer-places';
import { deleteLayer, nudgeLayer, plateFor, rideOn, selectedLayer } from './layers';
import { concealMover, concealTracker, putClip, putPaint, putPlate } from './making-layers';
import { putMoverMatte } from './layer-mattes';
import { putBorderMatte } from './soft/border-matte';
import { drawSoft } from './soft/soft';
import { pickAt, tellColours } from './picking';
import { edit, shotDocument, shotState, undo } from './shot';

const warning = jest.fn();
const info = jest.fn();
const wrong = jest.fn();
jest.mock('sonner', () => ({
  toast: {
    warning: (...a: unknown[]) => void warning(...a),
    info: (...a: unknown[]) => void info(...a),
    error: (...a: unknown[]) => void wrong(...a),
  },
}));
/** Masks that the server is asked for. */
let masks: { resolve: (made: object) => void; reject: (error: Error) => void };
const mask = jest.spyOn(api, 'mask');

const film = {
  ...{ hash: 'cd'.repeat(32), name: 'valley.mp4', width: 320, height: 180, bytes: 900 },
  ...{ vector: false, frames: 100, fps: 50 },
};
const tint = (): Layer => ({
  ...{ ...NEW_LAYER, ...NEW_TINT, id: 't', name: 'Tint 1', frame: 0, rides: ON_FRAME, outline: null },
});
const layers = () => shotDocument().layers;
const board = () => bench().scene!.movers.find((m) => m.id !== bench().scene!.movers[0].id)!;

beforeEach(() => {
  openBench(shotWith([spot('a'), lying(100, 80, 0, FRAMES - 1)]));
  setBench({ scene: madeScene(), layer: null, masked: null });
  warning.mockClear();
  wrong.mockClear();
  mask.mockReset();
  mask.mockImplementation(
    () => new Promise((resolve, reject) => (masks = { resolve: resolve as (made: object) => void, reject })),
  );
  info.mockClear();
});

describe('new layers', () => {
  it('ride on the tracker that is selected, and are one step of undo', () => {
    setBench({ selected: ['a'], frame: 3 });
    putPaint();
    expect(layers()[0]).toMatchObject({ kind: 'paint', frame: 3, rides: { on: 'spot', id: 'a' } });
    expect(bench().layer).toBe(layers()[0].id);
    undo();
    expect(layers()).toEqual([]);
  });

  it('a clip keeps time with the shot, from the present frame on', () => {
    setBench({ frame: 7 });
    putClip(film);
    expect(layers()[0]).toMatchObject({
      kind: 'clip',
      asset: film.hash,
      frame: 7,
      first: 0,
      rate: 2,
      play: 'step',
    });
    expect(shotDocument().assets).toEqual([film]);
  });

  it('a clean plate lies below all that was there, over the whole frame that it was made on', () => {
    putPaint();
    putPlate({ ...film, frames: 1 }, 'Clean plate 1', 5, ON_FRAME);
    expect(layers().map((l) => l.name)).toEqual(['Clean plate 1', 'Paint 1']);
    expect(layers()[0]).toMatchObject({
      frame: 5,
      corners: [
        [0, 0],
        [640, 0],
        [640, 360],
        [0, 360],
      ],
    });
  });

  it('conceal a mover as far as its features reach', () => {
    const { id } = board();
    concealMover(id);
    const [conceal] = layers();
    expect(conceal).toMatchObject({ kind: 'conceal', rides: { on: 'mover', id } });
    const corners = outlineCorners({ of: 'layer', id: conceal.id, matte: null }, 0)!;
    const xs = corners.map((p) => p.x);
    // Its features lie within 120 px of x = 320, and one more a little further out.
    expect([Math.min(...xs) > 180, Math.max(...xs) < 460, Math.max(...xs) - Math.min(...xs) > 120]).toEqual([
      true,
      true,
      true,
    ]);
  });

  it('keep a mover in front by its masks, when those have been made', async () => {
    const { id } = board();
    putPaint();
    const ended = putMoverMatte(id);
    expect(bench().masking).toMatchObject({ name: 'Mover 2', done: 0, total: FRAMES });
    mask.mock.calls[0][3](7);
    expect(bench().masking!.done).toBe(7);
    expect(mask.mock.calls[0][1]).toMatchObject({ mover: id, regroups: [], from: 0, to: FRAMES - 1 });
    // Another one waits until this is made, and what is selected meanwhile is not what gets it.
    await putMoverMatte(id);
    setBench({ layer: null });
    masks.resolve({ asset: film, notes: [], scale: 0.5 });
    await ended;
    const made = { kind: 'mask', asset: film.hash, from: 0, scale: 0.5, outside: true };
    expect([layers()[0].mattes, shotDocument().assets, bench().masking]).toMatchObject([
      [made],
      [film],
      null,
    ]);
    undo();
    expect([layers()[0].mattes, shotDocument().assets]).toEqual([[], []]);
  });

  it('get no masks, and no file of them, where the layer has been deleted meanwhile', async () => {
    putPaint();
    const ended = putMoverMatte(board().id);
    deleteLayer();
    masks.resolve({ asset: film, notes: [], scale: 0.5 });
    await ended;
    expect([layers(), shotDocument().assets, bench().masking]).toEqual([[], [], null]);
  });

  it('get no masks where making them is stopped, or fails, which is said', async () => {
    putPaint();
    const stopped = putMoverMatte(board().id);
    bench().masking!.stop();
    masks.reject(new Error('aborted'));
    await stopped;
    expect([layers()[0].mattes, bench().masking, wrong.mock.calls.length]).toEqual([[], null, 0]);
    const failed = putMoverMatte(board().id);
    masks.reject(new LurnError('disk-full', 'The disk is full.'));
    await failed;
    expect(wrong.mock.calls[0][0]).toMatch(/cannot be kept in front. The disk is full/);
    expect([layers()[0].mattes, bench().masking]).toEqual([[], null]);
  });

  it('say what is not there: a mover that is not seen, a spot beyond its track', () => {
    concealMover('nobody');
    setBench({ frame: 3 });
    concealTracker('nobody');
    expect([warning.mock.calls.length, layers()]).toEqual([2, []]);
  });
});

describe('a layer that is there', () => {
  it('is moved, shaped, given something else to ride on, and deleted', () => {
    edit((s) =>
      addLayer(s, {
        ...tint(),
        outline: drawnOutline(
          0,
          [
            [10, 10],
            [50, 10],
            [50, 50],
            [10, 50],
          ],
          false,
        ),
      } as Layer),
    );
    setBench({ layer: 't' });
    const own = { of: 'layer', id: 't', matte: null } as const;
    expect(nudgeLayer(4, -2)).toBe(true);
    expect(outlineCorners(own, 0)![0]).toEqual({ x: 14, y: 8 });
    setBench({ keying: true });
    reshapeOutline(
      own,
      9,
      outlineCorners(own, 0)!.map(({ x, y }) => ({ x: x + 10, y })),
    );
    expect(outlineCorners(own, 9)![0]).toEqual({ x: 24, y: 8 });
    removeCorner(own, 3);
    expect(outlineCorners(own, 0)).toHaveLength(3);
    const before = selectedLayer()!;
    setBench({ frame: 20 });
    rideOn('t', { ...ON_FRAME, on: 'spot', id: 'a' });
    // Neither its frame nor its place is another for that.
    expect(selectedLayer()).toEqual({ ...before, rides: { ...ON_FRAME, on: 'spot', id: 'a' } });
    expect(deleteLayer()).toBe(true);
    expect([layers(), deleteLayer(), nudgeLayer(1, 1)]).toEqual([[], false, false]);
  });
});

describe('a plate that is painted with', () => {
  it('is taken where it lies on the painted layer’s own frame', () => {
    putPlate({ ...film, frames: 1 }, 'Clean plate 1', 0, { ...ON_FRAME, on: 'spot', id: 'a' });
    setBench({ frame: 5, selected: [] });
    putPaint();
    const paint = selectedLayer() as PaintLayer;
    expect(plateFor(paint)).toBeNull();
    setBench({ clonePlate: layers()[0].id });
    expect(plateFor(paint)).toEqual({
      asset: film.hash,
      corners: [
        [0, 0],
        [640, 0],
        [640, 360],
        [0, 360],
      ],
    });
    const tool = new PaintTool();
    setBench({ tool: { id: 'paint' }, brush: { ...bench().brush, tool: 'clone' } });
    const at = { picture: { x: 20, y: 30 }, screen: { x: 0, y: 0 } };
    const pane = { kind: 'source', x: 0, y: 0, width: 640, height: 360, from: 0, to: 1 } as const;
    tool.down({ at, target: { kind: 'empty' }, pane, pans: false, alt: false });
    tool.move({ ...at, picture: { x: 60, y: 30 } });
    tool.up();
    const painted = selectedLayer() as PaintLayer;
    expect(painted.strokes[0]).toMatchObject({
      tool: 'clone',
      from: { frame: null, x: 0, y: 0, plate: { asset: film.hash } },
    });
    // With its plate moved to another frame, the stroke goes along.
    rideOn(painted.id, ON_FRAME);
    expect((selectedLayer() as PaintLayer).strokes[0].from!.plate!.corners[2]).toEqual([640, 360]);
  });
});

describe('a colour of the picture', () => {
  const picked = async (matte: string | null, layer = 't') => {
    setBench({ layer, tool: { id: 'pick', layer, matte } });
    expect(hintOf(bench().tool)).toContain('Press on the colour');
    await pickAt({ x: 5, y: 6 });
  };

  it('becomes the range of a tint, of a matte, or the brush', async () => {
    const asked: unknown[] = [];
    const end = tellColours({
      colourAt: (at) => {
        asked.push(at);
        return Promise.resolve([200, 16, 9]);
      },
      regionAt: () => Promise.resolve(null),
    });
    const range = { colour: '#808080', reach: 0.3, soften: 0.1, brightness: true };
    const matte = { kind: 'colour', id: 'm', name: 'Colour 1', range, outside: true } as const;
    edit((s) => addLayer(s, { ...tint(), mattes: [matte] } as Layer));
    await picked(null);
    expect(layers()[0]).toMatchObject({ colours: { colour: '#c81009' } });
    await picked('m');
    expect(layers()[0].mattes[0]).toMatchObject({ range: { ...range, colour: '#c81009' } });
    expect(bench().tool).toEqual({ id: 'mark' });
    await picked('brush');
    expect([bench().brush.colour, bench().tool]).toEqual(['#c81009', { id: 'paint' }]);
    expect(asked).toEqual([0, 1, 2].map(() => ({ x: 5, y: 6 })));
    end();
  });

  it('is nothing beyond the picture, and nothing is changed', async () => {
    edit((s) => addLayer(s, tint()));
    const before = shotState();
    await picked(null);
    expect([shotState() === before, info.mock.calls.length]).toEqual([true, 1]);
    expect(bench().tool).toMatchObject({ id: 'pick' });
  });
});

it('a layer is shown within the border of a soft surface alone, riding on it', () => {
  drawSoft(
    [
      { x: 100, y: 80 },
      { x: 300, y: 80 },
      { x: 300, y: 200 },
      { x: 100, y: 200 },
    ],
    false,
  );
  const soft = softOf(shotDocument())[0];
  putPaint();
  expect(selectedLayer()!.rides).toMatchObject({ on: 'soft', id: soft.id });
  putBorderMatte(soft.id);
  const [matte] = selectedLayer()!.mattes;
  expect(matte).toMatchObject({ kind: 'area', outside: false, rides: { on: 'soft', id: soft.id } });
  expect(matte.kind === 'area' && matte.outline.keys[0].shape.length).toBeGreaterThan(8);
  const at = pictureToLayer(selectedLayer()!, bench().frame, 'source')({ x: 150, y: 120 });
  expect([at.x, at.y]).toEqual([expect.closeTo(150, 3), expect.closeTo(120, 3)]);
});
