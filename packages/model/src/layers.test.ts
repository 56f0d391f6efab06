import { LurnError } from '@lurn/core';
import { EMPTY_TRACK, withSamples, type Track } from '@lurn/core/track';
import { newDocument, type ShotState } from './document.js';
import { addTracker, removeTrackers } from './edits.js';
import {
  addAsset,
  addLayer,
  addMatte,
  addStroke,
  changeLayer,
  changeMatte,
  isRideGone,
  layerById,
  moveLayer,
  nextLayerName,
  removeLayerKey,
  removeLayers,
  removeMatte,
  setLayerKey,
} from './layer-edits.js';
import {
  cornersAbout,
  drawnOutline,
  NEW_CONCEAL,
  NEW_EDGE,
  NEW_LAYER,
  NEW_TEXT_STYLE,
  NEW_TINT,
  ON_FRAME,
  type ConcealLayer,
  type Layer,
  type PaintLayer,
  type PaintStroke,
} from './layers/index.js';
import { documentLook, maskLook, riddenMovers } from './look.js';
import { parseDocument } from './parse.js';
import { parseShotFile, shotFile } from './shot-file.js';
import { NEW_SPOT } from './trackers/index.js';
import type { ClipInfo } from './clip.js';

const CLIP = { width: 1280, height: 720, frames: 180, fps: 30 } as ClipInfo;
const HASH = 'a'.repeat(64);
const SQUARE = [
  [10, 10],
  [90, 10],
  [90, 60],
] as const;

const asset = {
  hash: HASH,
  name: 'crest.png',
  width: 64,
  height: 32,
  bytes: 900,
  vector: false,
  frames: 1,
  fps: 0,
};
const graphic: Layer = {
  ...{ ...NEW_LAYER, id: 'l-1', kind: 'graphic', name: 'Graphic 1', frame: 3, rides: ON_FRAME, asset: HASH },
  ...{ corners: cornersAbout(100, 80, 60, 30), edge: NEW_EDGE },
};
const text: Layer = {
  ...{ ...NEW_LAYER, id: 'l-2', kind: 'text', name: 'Text 1', frame: 3, rides: ON_FRAME },
  ...{ text: 'Valley', style: NEW_TEXT_STYLE, corners: cornersAbout(100, 80, 60, 30) },
  edge: { ...NEW_EDGE, grow: 2 },
};
const conceal: ConcealLayer = {
  ...{ ...NEW_LAYER, ...NEW_CONCEAL, id: 'l-3', name: 'Conceal 1', frame: 3 },
  rides: { on: 'spot', id: 's-1', rotation: true, scale: true },
  outline: drawnOutline(3, SQUARE, true),
};
const stroke = (more: Partial<PaintStroke> = {}): PaintStroke => ({
  ...{ tool: 'brush', colour: '#204060', size: 12, hardness: 0.8, flow: 1, from: null, on: 'all', frame: 3 },
  points: [
    [20, 20, 1],
    [60, 30, 0.5],
  ],
  ...more,
});
const paint: PaintLayer = {
  ...{
    ...NEW_LAYER,
    id: 'l-4',
    kind: 'paint',
    name: 'Paint 1',
    frame: 3,
    rides: ON_FRAME,
    strokes: [stroke()],
  },
};
const tint: Layer = {
  ...{ ...NEW_LAYER, ...NEW_TINT, id: 'l-5', name: 'Tint 1', frame: 3, hue: 90, outline: null },
  rides: { on: 'mover', id: 'scene-2', rotation: false, scale: true },
};

const track = withSamples(EMPTY_TRACK, [{ frame: 0, x: 1, y: 2, confidence: 1, state: 'pinned' }]);
const bare: ShotState = { document: newDocument(CLIP), measured: {} };
const withSpot = addTracker(
  bare,
  {
    ...NEW_SPOT,
    id: 's-1',
    name: 'plate',
    mover: 'mover-1',
    colour: 0,
    patch: [9, 9],
    reach: [9, 9],
    minConfidence: 0.5,
  },
  track,
);
const all = [graphic, text, conceal, paint, tint].reduce(addLayer, addAsset(withSpot, asset));

describe('layers', () => {
  it('of every kind pass through parsing unchanged', () => {
    expect(parseDocument(JSON.parse(JSON.stringify(all.document)), CLIP)).toEqual(all.document);
  });

  it.each([
    ['a frame past the end', { frame: 180 }, /layers\[0\]\.frame must be a number from 0 to 179/],
    ['a blend that is not known', { blend: 'burn' }, /layers\[0\]\.blend must be one of normal, multiply/],
    [
      'corners turned over',
      {
        corners: [
          [0, 0],
          [0, 9],
          [9, 9],
          [9, 0],
        ],
      },
      /layers\[0\]\.corners/,
    ],
    ['a file that is not the shot’s', { asset: 'b'.repeat(64) }, /layers\[0\]\.asset names a file/],
    [
      'keys out of order',
      { keys: [9, 4].map((frame) => ({ frame, opacity: 1, x: 0, y: 0, easing: 'hold' })) },
      /keys\[1\]\.frame is not after/,
    ],
    ['what it does not know', { shadow: 3 }, /layers\[0\]\.shadow is not known/],
    ['an opacity out of range', { opacity: 1.5 }, /layers\[0\]\.opacity/],
  ])('with %s are refused by name', (_, change, told) => {
    const document = changeLayer(all, 'l-1', change as never).document;
    expect(() => parseDocument(JSON.parse(JSON.stringify(document)), CLIP)).toThrow(told);
  });

  it('of paint say which stroke is wrong', () => {
    const refused = (strokes: object[]) => {
      const { document } = changeLayer(all, 'l-4', { strokes } as never);
      return () => parseDocument(JSON.parse(JSON.stringify(document)), CLIP);
    };
    expect(refused([stroke({ tool: 'clone' })])).toThrow(/strokes\[0\]\.from is missing/);
    expect(refused([stroke(), stroke({ points: [] })])).toThrow(/strokes\[1\]\.points must be 1 to/);
    expect(refused([stroke({ from: { frame: 500, x: 1, y: 1, plate: null }, tool: 'clone' })])).toThrow(
      /from\.frame/,
    );
  });

  it('are put in order, changed, keyed, taken away', () => {
    expect(moveLayer(all, 'l-1', 9).document.layers.map((l) => l.id)).toEqual([
      'l-2',
      'l-3',
      'l-4',
      'l-5',
      'l-1',
    ]);
    expect(moveLayer(all, 'l-5', 0).document.layers[0].id).toBe('l-5');
    expect(removeLayers(all, ['l-1', 'l-5']).document.layers).toHaveLength(3);
    expect(nextLayerName(all, 'Text')).toBe('Text 2');
    const key = { frame: 9, opacity: 0.4, x: 3, y: 0, easing: 'linear' } as const;
    const keyed = setLayerKey(setLayerKey(all, 'l-2', key), 'l-2', { ...key, frame: 2 });
    expect(layerById(keyed, 'l-2')!.keys.map((k) => k.frame)).toEqual([2, 9]);
    const last = removeLayerKey(removeLayerKey(keyed, 'l-2', 2), 'l-2', 9);
    expect(layerById(last, 'l-2')).toMatchObject({ keys: [], opacity: 0.4 });
    const matte = {
      kind: 'area',
      id: 'm-1',
      name: 'hand',
      frame: 3,
      rides: ON_FRAME,
      outside: true,
    } as const;
    const limited = addMatte(all, 'l-2', { ...matte, outline: drawnOutline(3, SQUARE, false) });
    expect(layerById(changeMatte(limited, 'l-2', 'm-1', { outside: false }), 'l-2')!.mattes[0].outside).toBe(
      false,
    );
    expect(layerById(removeMatte(limited, 'l-2', 'm-1'), 'l-2')!.mattes).toEqual([]);
  });

  it('stay when what they ride on is deleted, and it is said', () => {
    expect(isRideGone(all, conceal)).toBe(false);
    const gone = removeTrackers(all, ['s-1']);
    expect(gone.document.layers).toHaveLength(5);
    expect(isRideGone(gone, conceal)).toBe(true);
    expect(isRideGone(gone, tint)).toBe(false);
    expect(riddenMovers(all.document)).toEqual(['scene-2']);
    expect(documentLook(gone).look.layers).toHaveLength(5);
  });

  it('become what is drawn, with what that is made from', () => {
    const { look, rasters } = documentLook(all);
    expect(look.layers.map((l) => l.content.kind)).toEqual([
      'raster',
      'raster',
      'blurred',
      'raster',
      'tinted',
    ]);
    expect(rasters.map((r) => r.kind)).toEqual(['asset', 'text', 'strokes']);
    // Only where its edge is changed does it matter how large it is shown.
    expect(rasters.map((r) => ('side' in r ? r.side : null))).toEqual([0, 42, null]);
    expect(look.layers[2].ride.on).toBe('spot');
    expect(documentLook(all, true).look.layers).toEqual([]);
    expect(documentLook(changeLayer(all, 'l-1', { shown: false })).rasters).toHaveLength(2);
  });

  it('of strokes cloned from a plate are the plate, through what was painted', () => {
    const plate = { asset: asset.hash, corners: cornersAbout(100, 80, 60, 30) };
    const clone = stroke({ tool: 'clone', from: { frame: null, x: 4, y: 0, plate } });
    const state = changeLayer(all, 'l-4', { strokes: [clone] } as never);
    expect(parseDocument(JSON.parse(JSON.stringify(state.document)), CLIP)).toEqual(state.document);
    const { look, rasters } = documentLook(state);
    const { content } = look.layers.find((l) => l.id === 'l-4')!;
    expect(content).toMatchObject({
      kind: 'raster',
      raster: `asset ${asset.hash}`,
      corners: [
        { x: 66, y: 65 },
        { x: 126, y: 65 },
        { x: 126, y: 95 },
        { x: 66, y: 95 },
      ],
      stencil: { raster: rasters.find((r) => r.kind === 'strokes')!.key },
    });
    expect(rasters.filter((r) => r.kind === 'asset').map((r) => r.hash)).toContain(asset.hash);
    const lost = changeLayer(all, 'l-4', {
      strokes: [
        stroke({
          tool: 'clone',
          from: { frame: null, x: 0, y: 0, plate: { ...plate, asset: 'f'.repeat(64) } },
        }),
      ],
    } as never);
    expect(() => parseDocument(JSON.parse(JSON.stringify(lost.document)), CLIP)).toThrow(
      /strokes\[0\]\.from\.plate\.asset names a file/,
    );
  });

  it('of paint are one for each run of a kind, and erasers work on all before them', () => {
    const clone = stroke({ tool: 'clone', from: { frame: null, x: 40, y: 0, plate: null } });
    const late = stroke({ on: 'onwards', frame: 50 });
    const eraser = stroke({ tool: 'eraser' });
    const of = (...strokes: PaintStroke[]) =>
      documentLook(changeLayer(all, 'l-4', { strokes } as never)).look.layers.filter((l) => l.id === 'l-4');
    expect(of(stroke(), stroke(), clone, clone, late).map((l) => [l.content.kind, l.from, l.to])).toEqual([
      ['raster', 0, Infinity],
      ['picture', 0, Infinity],
      ['raster', 50, Infinity],
    ]);
    expect(of(eraser)).toEqual([]);
    const state = addStroke(all, 'l-4', eraser);
    const source = documentLook(state).rasters.find((r) => r.kind === 'strokes')!;
    expect(source.strokes.map((s) => s.tool)).toEqual(['brush', 'eraser']);
    // What did not change is not painted anew.
    expect(documentLook(state).rasters.find((r) => r.kind === 'strokes')!.key).toBe(source.key);
  });
});

describe('a shot as a file', () => {
  const write = shotFile(all, 'gondola.mp4', CLIP);

  it('comes back as it was', () => {
    const { document, measured } = parseShotFile(write, CLIP);
    expect(document).toEqual(all.document);
    expect((measured['s-1'] as Track).values.x).toEqual(track.values.x);
  });

  it.each([
    ['{', /it is not JSON/],
    ['[]', /it is not JSON/],
    ['{}', /does not say that it is a shot/],
    [write.replace('"version":1', '"version":2'), /version 2/],
    [write.replace('"frames":180', '"frames":90'), /90 frames long, and this one is 180/],
    [write.replace('"opacity":1', '"opacity":7'), /document\.layers\[0\]\.opacity/],
    [write.replace('"confidence":[1]', '"confidence":[]'), /confidence and state differ/],
  ])('says what is wrong with one that cannot be used', (text, told) => {
    expect(() => parseShotFile(text, CLIP)).toThrow(told);
    expect(() => parseShotFile(text, CLIP)).toThrow(LurnError);
  });
});

describe('where a layer takes hold', () => {
  const range = { colour: '#cc2020', reach: 0.1, soften: 0.1, brightness: false };
  const shown = (layer: Layer, matte: string | null) => {
    const state = addLayer(all, layer);
    const look = documentLook(state).look.layers.find((l) => l.id === layer.id)!;
    return maskLook(look, layer, matte, state);
  };

  it('is shown plain, within its shape and its colours', () => {
    const outlined = {
      ...tint,
      id: 'x',
      colours: range,
      outline: drawnOutline(3, SQUARE, true),
      opacity: 0.2,
    } as Layer;
    const mask = shown(outlined, null);
    expect(mask).toMatchObject({ content: { kind: 'plain' }, opacity: 0.75, blend: 'normal' });
    expect(mask.outline).not.toBeNull();
    expect(mask.mattes).toMatchObject([[{ kind: 'key', outside: false }]]);
  });

  it('is shown of one matte by itself, inside it, whichever way it is used', () => {
    const mattes = [
      { kind: 'colour', id: 'm', name: 'Colour 1', range, outside: true } as const,
      {
        kind: 'passing',
        id: 'p',
        name: 'Passing 2',
        frame: 0,
        reach: 0.1,
        soften: 0.1,
        outside: true,
      } as const,
    ];
    const mask = shown({ ...conceal, id: 'y', mattes } as Layer, 'p');
    expect([mask.outline, mask.mattes.length]).toEqual([null, 1]);
    expect(mask.mattes).toMatchObject([[{ kind: 'difference', outside: false }]]);
  });
});

describe('a film of masks', () => {
  const film = { ...asset, hash: 'ef'.repeat(32), name: 'Gondola.mkv', width: 320, height: 180, frames: 6 };
  const matte = { kind: 'mask', id: 'k', name: 'Gondola 1', asset: film.hash, from: 2, scale: 0.5 } as const;
  const limited = (more: object) =>
    addMatte(addAsset(all, film), all.document.layers[0].id, { ...matte, outside: true, ...more });

  it('limits a layer, and is drawn from its file', () => {
    const state = limited({});
    expect(parseDocument(JSON.parse(JSON.stringify(state.document)), CLIP)).toEqual(state.document);
    const { look, rasters } = documentLook(state);
    expect(rasters).toContainEqual(expect.objectContaining({ kind: 'film', hash: film.hash, frames: 6 }));
    expect(look.layers[0].mattes.flat()).toContainEqual(
      expect.objectContaining({ kind: 'mask', from: 2, frames: 6, scale: 0.5, outside: true }),
    );
  });

  it('that is not among the shot’s files, or begins where the clip has ended, is refused', () => {
    const refused = (more: object) => () =>
      parseDocument(JSON.parse(JSON.stringify(limited(more).document)), CLIP);
    expect(refused({ asset: '0'.repeat(64) })).toThrow(/asset names a file that is not among/);
    expect(refused({ from: CLIP.frames })).toThrow(/mattes\[\d\]\.frame/);
    expect(refused({ scale: 2 })).toThrow(/scale/);
  });
});

describe('a clip', () => {
  const film = {
    ...asset,
    hash: 'cd'.repeat(32),
    name: 'valley.mp4',
    width: 320,
    height: 180,
    frames: 100,
    fps: 50,
  };
  const layer: Layer = {
    ...{ ...NEW_LAYER, id: 'c', kind: 'clip', name: 'Clip 1', frame: 3, rides: ON_FRAME },
    ...{ asset: film.hash, corners: cornersAbout(100, 80, 60, 30), play: 'loop', first: 2, rate: 2 },
  };
  const state = addLayer(addAsset(all, film), layer);

  it('passes through parsing unchanged, and is drawn from its file', () => {
    expect(parseDocument(JSON.parse(JSON.stringify(state.document)), CLIP)).toEqual(state.document);
    const { look, rasters } = documentLook(state);
    expect(rasters.find((r) => r.kind === 'film')).toMatchObject({
      hash: film.hash,
      width: 320,
      frames: 100,
    });
    expect(look.layers.find((l) => l.id === 'c')!.content).toMatchObject({
      kind: 'film',
      first: 2,
      rate: 2,
      frames: 100,
    });
  });

  it('whose file is not among the shot’s is refused by name', () => {
    const lost = { ...state.document, assets: [asset] };
    expect(() => parseDocument(JSON.parse(JSON.stringify(lost)), CLIP)).toThrow(
      /names a file that is not among/,
    );
  });
});
