import { deflateSync } from 'node:zlib';
import fc from 'fast-check';
import { decode } from 'fast-png';
import { apply, invert, multiply, type Matrix3 } from '../../geometry/matrix.js';
import { composeSimilarity } from '../../geometry/similarity.js';
import { fromHalf, readExr, toHalf, writeExr, writeExrBy } from '../exr.js';
import { writePng, writePngBy } from '../png.js';
import { inTurn } from './in-turn.js';
import {
  asChosen,
  coordinatesFor,
  DATA_CHOICES,
  DATA_EXPORTS,
  dataExportById,
  handOver,
  matrixOf,
  OUR_CHOICES,
  readData,
  stMap,
  timeCode,
  type DataChoices,
  type MovingData,
} from './index.js';

const CLIP = { width: 960, height: 540, frames: 150, fps: 25 };

function spots(): MovingData {
  const frames = [3, 4, 5, 7].map((frame) => ({
    ...{ frame, time: frame / 25, values: [100 + 1.23456789 * frame, 50 - frame / 3] },
    ...{ confidence: frame === 5 ? 0.1 : 0.9, state: 'tracked' },
  }));
  return { kind: 'tracks', clip: CLIP, things: [{ name: 'gable, "left"', frames }, { name: 'mast', frames: frames.slice(1) }] }; // prettier-ignore
}

function corners(): MovingData {
  const frames = [0, 1, 2].map((frame) => ({
    ...{ frame, time: frame / 25, confidence: 0.8, state: 'tracked' },
    values: [10, 20, 200.5 + frame, 22, 199, 140.25, 12, 139].map((v) => v + frame / 7),
  }));
  return { kind: 'corners', clip: CLIP, things: [{ name: 'sign', frames }] };
}

const turned = (t: number): Matrix3 => {
  const [c, s] = [Math.cos(0.01 * t), Math.sin(0.01 * t)];
  return [1.01 * c, -s, 3 * t, s, 1.01 * c, -2 * t, 1e-6 * t, 2e-6 * t, 1];
};

function motion(): MovingData {
  const frames = [0, 1, 2, 3].map((frame) => {
    const m = turned(frame);
    const framing: Matrix3 = [1.1, 0, -48, 0, 1.1, -27, 0, 0, 1];
    return { frame, time: frame / 25, values: [...m, ...invert(m), ...framing], residual: frame === 2 ? null : 0.07 }; // prettier-ignore
  });
  return { kind: 'motion', clip: CLIP, things: [{ name: 'far ridge', frames }], solved: { ref: 0, zoom: 1.1, cuts: [2] } }; // prettier-ignore
}

function movers(): MovingData {
  const moving = (turn: number) => [1, 2, 5].map((frame) => ({ ...similar(frame, turn), residual: frame === 5 ? null : 0.2 })); // prettier-ignore
  return { kind: 'movers', clip: CLIP, things: [{ name: 'railing', frames: moving(0.3) }, { name: 'gondola', frames: moving(-2) }] }; // prettier-ignore
}

/** A frame whose matrix only shifts, turns and scales. */
function similar(frame: number, turn: number) {
  const parts = { x: 3 * frame, y: -2.5, rotation: turn * frame, logScale: 0.01 * frame };
  return { frame, time: frame / 25, values: [...composeSimilarity(parts, { x: 480, y: 270 })] };
}

/** A triangle that wanders. */
function meshes(): MovingData {
  const vertices = [10, 10, 60, 12, 30, 50];
  const frames = [0, 1, 2, 3].map((frame) => ({
    ...{ frame, time: frame / 25, values: vertices.map((v, k) => v + (k % 2 ? -frame : 2 * frame)) },
    ...{ confidences: [0.9, 1, 0.8], states: ['tracked', 'pinned', 'tracked'] },
  }));
  return { kind: 'meshes', clip: CLIP, things: [{ name: 'flag', mesh: { frame: 0, vertices, faces: [[0, 1, 2]] }, frames }] }; // prettier-ignore
}

const ALL = { tracks: spots(), corners: corners(), motion: motion(), movers: movers(), meshes: meshes() };

const choices = fc.record({
  origin: fc.constantFrom(...DATA_CHOICES.origin),
  y: fc.constantFrom(...DATA_CHOICES.y),
  unit: fc.constantFrom(...DATA_CHOICES.unit),
  first: fc.integer({ min: 0, max: 1001 }),
  time: fc.constantFrom(...DATA_CHOICES.time),
  numbers: fc.constant('matrix' as const),
}) satisfies fc.Arbitrary<DataChoices>;

const textOf = (data: MovingData, id: string, chosen?: DataChoices) => {
  const [file] = handOver(data, dataExportById(id), chosen);
  return file.content as string;
};

function expectSame(a: MovingData, b: MovingData): void {
  expect(b.kind).toBe(a.kind);
  expect(b.things.map((t) => t.name)).toEqual(a.things.map((t) => t.name));
  a.things.forEach(({ frames }, i) =>
    frames.forEach((f, k) => {
      const g = b.things[i].frames[k];
      expect([g.frame, g.confidence, g.state, g.residual]).toEqual([f.frame, f.confidence, f.state, f.residual]); // prettier-ignore
      const off = f.values.map((v, c) => Math.abs(g.values[c] - v));
      expect(Math.max(0, ...off)).toBeLessThan(1e-6);
    }),
  );
}

describe('data that goes out comes back in', () => {
  it.each(['tracks', 'corners', 'motion', 'movers'] as const)('%s as a table and as JSON, whatever is chosen', (kind) => {
    fc.assert(
      fc.property(choices, fc.constantFrom('csv', 'json'), (chosen, id) => {
        const text = textOf(ALL[kind], id, chosen);
        expectSame(ALL[kind], readData(text, CLIP, chosen));
      }),
      { numRuns: 40 },
    );
  });

  it.each(['tracks', 'corners', 'motion', 'movers'] as const)('%s as a timeline', (kind) => {
    const back = readData(textOf(ALL[kind], 'otio'));
    expectSame(ALL[kind], back);
    expect(back.solved).toEqual(ALL[kind].solved);
    expect(back.clip).toEqual(CLIP);
  });

  it('movers as position, rotation and scale, whatever is chosen', () => {
    fc.assert(
      fc.property(choices, fc.constantFrom('ratio', 'percent'), (chosen, numbers) => {
        const told = { ...chosen, numbers } as const;
        expectSame(ALL.movers, readData(textOf(ALL.movers, 'csv', told), CLIP, chosen));
      }),
      { numRuns: 40 },
    );
  });

  it('movers as they are found in a clip, where they are seen', () => {
    const [m] = [[...composeSimilarity({ x: 1, y: 2, rotation: 0, logScale: 0 }, { x: 0, y: 0 })]];
    const { things } = readData(JSON.stringify({ movers: [{ name: 'railing', share: 0.5, motion: [null, m] }], cuts: [] })); // prettier-ignore
    expect(things).toEqual([{ name: 'railing', frames: [{ frame: 1, time: NaN, values: m, residual: null }] }]);
  });

  it('reads semicolons, tabs and decimal commas', () => {
    const text = textOf(spots(), 'csv');
    const rows = text.split('\n').map((r) => r.replace('"gable, ""left"""', 'gable'));
    const german = rows.map((r) => r.replaceAll(',', ';').replaceAll('.', ',')).join('\r\n');
    const [x] = readData(german).things[0].frames[0].values;
    expect(x).toBeCloseTo(103.703703, 5);
    expect(readData(rows.map((r) => r.replaceAll(',', '\t')).join('\n')).things).toHaveLength(2);
  });
});

describe('what cannot be read', () => {
  it.each([
    ['', /it is empty/],
    ['{"spots": [', /no JSON/],
    ['{"a": 1}', /neither spots/],
    ['a,b,c\n1,2,3\n', /line 1: the columns/],
    ['spot,frame,time_s,x_px,y_px,confidence,state\nA,1,0,x,2,1,tracked\n', /line 2: column x_px: "x"/],
    ['spot,frame,time_s,x_px,y_px,confidence,state\nA,1,0,1,2,1,odd\n', /line 2: column state/],
    ['spot,frame,time_s,x_px,y_px,confidence,state\nA,1,0,1,2,1,tracked\nA,1,0,1,2,1,tracked\n', /second time/],
    ['spot,frame,time_s,x_px,y_px,confidence,state\n', /no sample/],
    ['{"frames":[{"frame":0,"motion":[1,2]}]}', /frame 0, motion: 9 numbers are due/],
    ['{"OTIO_SCHEMA":"Timeline.1","tracks":{"children":[]}}', /carries no data/],
  ])('%j says why', (text, why) => expect(() => readData(text)).toThrow(why));
});

describe('a matrix by its parts', () => {
  it('tells where the middle goes, the turn clockwise where y grows downwards, and the size', () => {
    const data = { ...ALL.movers, things: [{ name: 'a', frames: [similar(2, 0.1)] }] };
    const row = (more: Partial<DataChoices>) => {
      const text = textOf(data, 'csv', { ...OUR_CHOICES, numbers: 'percent', ...more });
      const [head, cells] = text.split('\n').map((r) => r.split(','));
      return Object.fromEntries(head.map((h, i) => [h, Number(cells[i])]));
    };
    const down = row({});
    expect(down.motion_x_px).toBeCloseTo(6, 9);
    expect(down.motion_y_px).toBeCloseTo(-2.5, 9);
    expect(down.motion_rotation_deg).toBeCloseTo((0.2 * 180) / Math.PI, 9);
    expect(down.motion_scale_pct).toBeCloseTo(100 * Math.exp(0.02), 9);
    const up = row({ y: 'up', origin: 'bottom-left' });
    expect(up.motion_y_px).toBeCloseTo(2.5, 9);
    expect(up.motion_rotation_deg).toBeCloseTo((-0.2 * 180) / Math.PI, 9);
    expect(row({ unit: 'share' }).motion_x).toBeCloseTo(6 / 960, 9);
  });

  it('of a size of nothing is refused, and so is a picture of unknown size', () => {
    const text = textOf(ALL.movers, 'csv', { ...OUR_CHOICES, numbers: 'ratio' });
    const flat = text.replace(/(railing,1,(?:[^,]*,){4})[^,]*/, '$10');
    expect(() => readData(flat, CLIP)).toThrow('line 2: the scale of the motion is not above 0');
    expect(() => readData(text)).toThrow("picture's size");
  });
});

describe('choices', () => {
  it('map places: the middle of the picture, from the bottom left, in shares', () => {
    const chosen = { ...OUR_CHOICES, origin: 'bottom-left', y: 'up', unit: 'share' } as const;
    const p = apply(coordinatesFor(chosen, CLIP), 480, 135);
    expect(p.x).toBeCloseTo(0.5, 12);
    expect(p.y).toBeCloseTo(0.75, 12);
  });

  it('turn a motion the other way round where y goes up', () => {
    const up = asChosen(motion(), { ...OUR_CHOICES, y: 'up' });
    const m = matrixOf(up.things[0].frames[3], 0);
    expect(Math.sign(m[3])).toBe(-Math.sign(turned(3)[3]));
  });

  it('say what is missing', () => {
    const unknown = { ...spots(), clip: { width: null, height: null, frames: null, fps: null } };
    expect(() => asChosen(unknown, { ...OUR_CHOICES, origin: 'centre' })).toThrow(/picture's size/);
    expect(() => [...handOver(unknown, dataExportById('svg'))]).toThrow(/picture's size/);
    expect(() => handOver(corners(), dataExportById('st-png'))).toThrow(/only of motion/);
    expect(() => dataExportById('nix')).toThrow(/choose one of csv, json/);
  });

  it('time code is that of the screen', () => {
    expect(timeCode(3661 + 7 / 25, 25)).toBe('01:01:01:07');
    const [row] = textOf(spots(), 'csv', { ...OUR_CHOICES, time: 'timecode', first: 1001 }).split('\n').slice(1);
    expect(row).toContain(',1004,00:00:00:03,');
  });
});

describe('files', () => {
  it('every format writes what it says it tells of', () => {
    for (const format of DATA_EXPORTS)
      for (const kind of format.of) {
        const small = { ...ALL[kind], clip: { ...CLIP, width: 96, height: 54 } };
        const files = [...handOver(small, format)];
        expect(files.length).toBe(format.many ? 4 * format.many.aFrame : 1);
        expect(files.every((f) => (f.content as Uint8Array).length > 20)).toBe(true);
      }
  });

  it('a timeline has markers for cuts and doubtful stretches', () => {
    const names = (data: MovingData) =>
      [...textOf(data, 'otio').matchAll(/"OTIO_SCHEMA": "Marker.2",\s+"name": "([^"\\]*)/g)].map((m) => m[1]);
    expect(names(motion())).toEqual(['cut']);
    expect(names(spots())).toHaveLength(2);
  });

  it('glTF has the frames as key times, and paths upside up', () => {
    const gltf = JSON.parse(textOf(spots(), 'gltf')) as {
      accessors: { max?: number[]; count: number }[];
      nodes: { name: string; translation: number[] }[];
    };
    expect(gltf.nodes[0].translation[1]).toBeCloseTo(540 - 49, 3);
    expect(gltf.accessors[0].max![0]).toBeCloseTo(7 / 25, 6);
    expect(JSON.parse(textOf(corners(), 'gltf'))).toMatchObject({ skins: [{ joints: [0, 1, 2, 3] }] });
  });

  it('CSS keyframes do to a corner what correction and framing do', () => {
    const css = textOf(motion(), 'css');
    const third = /50% \{ transform: matrix3d\(([^)]+)\)/.exec(css)![1].split(',').map(Number);
    const f = motion().things[0].frames[2];
    const p = apply(multiply(matrixOf(f, 2), matrixOf(f, 1)), 960, 540);
    const [x, y, , w] = [0, 1, 2, 3].map((r) => third[r] * 960 + third[4 + r] * 540 + third[12 + r]);
    expect(x / w).toBeCloseTo(p.x, 3);
    expect(y / w).toBeCloseTo(p.y, 3);
  });

  it('WebVTT cues last until the next frame', () => {
    const vtt = textOf(spots(), 'vtt');
    expect(vtt.startsWith('WEBVTT\n\n3\n00:00:00.120 --> 00:00:00.160\n')).toBe(true);
    expect(vtt).toContain('00:00:00.200 --> 00:00:00.240');
  });

  it('names neither end a WebVTT cue nor take the place of one another', () => {
    const named = (name: string) => ({ ...spots().things[0], name });
    const vtt = textOf({ ...spots(), things: ['a --> b', 'twin', 'twin', '__proto__'].map(named) }, 'vtt');
    const [, cue] = /-->.*\n(.*)\n/.exec(vtt)!;
    expect(cue).not.toContain('-->');
    expect(Object.keys(JSON.parse(cue) as object)).toEqual(['a --> b', 'twin', 'twin 2', '__proto__']);
  });

  it('motions that cannot be gone back by, and pictures of no size that there is, are refused', () => {
    const frame = { frame: 0, motion: [1, 0, 0, 0, 1, 0, 0, 0, 1], correction: new Array(9).fill(0), framing: [1, 0, 0, 0, 1, 0, 0, 0, 1] }; // prettier-ignore
    const told = (clip: object) => JSON.stringify({ clip, frames: [frame] });
    expect(() => readData(told({}))).toThrow(/frame 0, correction: the matrix has no inverse/);
    expect(() => readData(told({ width: 1e9 }))).toThrow(/clip\.width is 1000000000: at most 32768 is taken/);
  });

  it('names are safe in SVG', () => {
    const data = { ...spots(), things: [{ ...spots().things[0], name: '<script>&\u0007' }] };
    expect(textOf(data, 'svg')).toContain('<title>&lt;script&gt;&amp;</title>');
  });
});

describe('ST maps', () => {
  const small = { ...motion(), clip: { ...CLIP, width: 32, height: 20 } };

  it('tell where every pixel comes from', () => {
    const map = stMap([1, 0, 4, 0, 1, -2, 0, 0, 1], { width: 32, height: 20 });
    const k = 5 * 32 + 10;
    expect(map.channels.R[k] * 32).toBeCloseTo(14.5, 5);
    expect((1 - map.channels.G[k]) * 20).toBeCloseTo(3.5, 5);
    expect(map.channels.B[k]).toBe(1);
    expect(map.channels.B[31]).toBe(0);
  });

  it('there and back is where it was, in either format', () => {
    const files = [...handOver(small, dataExportById('st-exr'))];
    const byName = (n: string) => readExr(files.find((f) => f.name === n)!.content as Uint8Array);
    const [there, back] = [byName('steady/000003.exr'), byName('back/000003.exr')];
    const f = small.things[0].frames[3];
    const k = 9 * 32 + 15;
    const from = { x: there.channels.R[k] * 32, y: (1 - there.channels.G[k]) * 20 };
    const p = apply(multiply(matrixOf(f, 2), matrixOf(f, 1)), from.x, from.y);
    expect(Math.hypot(p.x - 15.5, p.y - 9.5)).toBeLessThan(1e-4);
    expect(back.width).toBe(32);
    const png = [...handOver(small, dataExportById('st-png'))].find((g) => g.name === 'steady/000003.png')!;
    const { data, depth, channels } = decode(png.content as Uint8Array);
    expect([depth, channels]).toEqual([16, 3]);
    expect(data[3 * k] / 65535).toBeCloseTo(Math.min(1, Math.max(0, there.channels.R[k])), 4);
  });
});

describe('EXR', () => {
  it('keeps floats bit for bit, and halves to the nearest', async () => {
    const values = Float32Array.from({ length: 37 * 21 }, (_, k) => Math.sin(k) * 10 ** ((k % 9) - 4));
    const picture = { width: 37, height: 21, channels: { G: values, A: values.map((v) => -v) } };
    expect(readExr(writeExr(picture, 32)).channels.G).toEqual(values);
    // Packed by another that is at hand, it is the same picture.
    const packs = jest.fn((raw: Uint8Array) => Promise.resolve(deflateSync(raw, { level: 1 })));
    expect(readExr(await writeExrBy(packs, picture, 32)).channels.G).toEqual(values);
    expect(packs).toHaveBeenCalled();
    const half = readExr(writeExr(picture, 16));
    const off = [...half.channels.A].map((v, k) => Math.abs(v + values[k]) - Math.abs(values[k]) / 2048);
    expect(Math.max(...off)).toBeLessThanOrEqual(3e-8);
  });

  it('halves come back as they are, ends of the range too', () => {
    const all = Array.from({ length: 65536 }, (_, h) => h);
    expect(all.filter((h) => !Number.isNaN(fromHalf(h)) && toHalf(fromHalf(h)) !== h)).toEqual([]);
    expect(toHalf(1e9)).toBe(0x7c00);
    expect(fromHalf(toHalf(NaN))).toBeNaN();
  });

  it.each([
    [Uint8Array.of(1, 2, 3), /no EXR/],
    [writeExr({ width: 4, height: 40, channels: { R: new Float32Array(160) } }, 32).subarray(0, 330), /cut off|broken/],
  ])('what is broken says so', (bytes, why) => expect(() => readExr(bytes)).toThrow(why));
});

describe('PNG of 16 bits', () => {
  const data = Uint16Array.from({ length: 3 * 23 * 9 }, (_, k) => (k * 7919) % 65536);

  it('keeps every sample, packed here or elsewhere', async () => {
    const picture = { width: 23, height: 9, data };
    const packed = writePngBy((raw) => Promise.resolve(deflateSync(raw)), picture);
    for (const file of [writePng(picture), await packed]) {
      const read = decode(file, { checkCrc: true });
      expect([read.width, read.height, read.depth, read.channels]).toEqual([23, 9, 16, 3]);
      expect(Uint16Array.from(read.data)).toEqual(data);
    }
  });

  it('of a ramp packs to next to nothing', () => {
    const ramp = Uint16Array.from({ length: 3 * 256 * 256 }, (_, k) => 257 * (Math.floor(k / 3) % 256));
    expect(writePng({ width: 256, height: 256, data: ramp }).length).toBeLessThan(4000);
  });
});

describe('files in turn', () => {
  it('come in their order, those that are packed elsewhere begun ahead', async () => {
    const [begun, seen] = [[] as number[], [] as string[]];
    const files = (function* () {
      for (let k = 0; k < 20; k++) {
        begun.push(k);
        // The later ones are there first.
        const content = new Promise<Uint8Array>((done) => setTimeout(() => done(Uint8Array.of(k)), 20 - k));
        yield { name: `${k}`, content };
      }
    })();
    for await (const { name, content } of inTurn(files)) {
      if (seen.length === 0) expect(begun.length).toBeGreaterThan(3);
      expect(begun.length - seen.length).toBeLessThan(8);
      expect(content).toEqual(Uint8Array.of(Number(name)));
      seen.push(name);
    }
    expect(seen).toEqual(begun.map(String));
  });

  it('end where one of them fails, and the others fail in silence', async () => {
    const files = [0, 1, 2].map((k) => ({ name: `${k}`, content: Promise.reject(new Error(`no ${k}`)) }));
    await expect(inTurn(files).next()).rejects.toThrow('no 0');
  });
});
