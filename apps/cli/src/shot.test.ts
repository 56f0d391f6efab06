import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { createHash } from 'node:crypto';
import { FileFrames, indexClip } from '@lurn/engine';
import { withSamples, EMPTY_TRACK } from '@lurn/core/track';
import {
  addAsset,
  addLayer,
  addTracker,
  cornersAbout,
  drawnOutline,
  NEW_EDGE,
  NEW_LAYER,
  NEW_SPOT,
  newDocument,
  shotFile,
  type Layer,
  type ShotState,
} from '@lurn/model';
import { strToU8, zipSync } from 'fflate';
import { at, clearUp, lurn, moved, setOut } from './testing/try-out.js';

/** A shot that was saved as a file, rendered by the command line. */

const SVG =
  '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="20"><rect width="40" height="20" fill="#fff"/></svg>';
const HASH = createHash('sha256').update(SVG).digest('hex');
let state: ShotState;

/** A spot as the clip moves: tracked exactly. */
const spot = (id: string, x: number, y: number) => {
  const samples = Array.from({ length: 12 }, (_, frame) => {
    const [dx, dy] = moved(frame);
    return { frame, x: x + dx, y: y + dy, confidence: 1, state: 'tracked' as const };
  });
  return [
    {
      ...NEW_SPOT,
      id,
      name: id,
      mover: 'mover-1',
      colour: 0,
      patch: [9, 9],
      reach: [9, 9],
      minConfidence: 0.5,
    } as const,
    withSamples(EMPTY_TRACK, samples),
  ] as const;
};

beforeAll(async () => {
  await setOut();
  const { info } = await indexClip(at('clip.mp4'));
  const rides = { on: 'mover', id: '', rotation: true, scale: true } as const;
  const crest: Layer = {
    ...{ ...NEW_LAYER, id: 'l-1', kind: 'graphic', name: 'Crest', frame: 0, rides, asset: HASH },
    ...{ corners: cornersAbout(160, 90, 40, 20), edge: NEW_EDGE },
  };
  const plate: Layer = {
    ...{ ...NEW_LAYER, id: 'l-2', kind: 'shape', name: 'Plate', frame: 0, rides, colour: '#000000' },
    outline: drawnOutline(
      0,
      [
        [20, 20],
        [60, 20],
        [60, 50],
        [20, 50],
      ],
      false,
    ),
  };
  const asset = {
    hash: HASH,
    name: 'crest.svg',
    width: 40,
    height: 20,
    bytes: SVG.length,
    vector: true,
    frames: 1,
    fps: 0,
  };
  const bare: ShotState = { document: newDocument(info), measured: {} };
  const tracked = [spot('a', 120, 90), spot('b', 220, 60)].reduce((s, [t, m]) => addTracker(s, t, m), bare);
  state = [crest, plate].reduce(addLayer, addAsset(tracked, asset));
  const text = shotFile(state, 'clip', info);
  await writeFile(at('SHOT.json'), text);
  await mkdir(at('assets'));
  await writeFile(at(`assets/${HASH}`), SVG);
  await writeFile(at('shot.zip'), zipSync({ 'SHOT.json': strToU8(text), [`assets/${HASH}`]: strToU8(SVG) }));
  await writeFile(at('bare.zip'), zipSync({ 'SHOT.json': strToU8(text) }));
});
afterAll(clearUp);

async function lumaOf(file: string, frame: number) {
  const { info } = await indexClip(at(file));
  const frames = new FileFrames(at(file), info);
  const plane = await frames.luma(frame);
  frames.close();
  return (x: number, y: number) => plane.data[y * plane.width + x];
}

describe('lurn steady --shot', () => {
  it.each(['SHOT.json', 'shot.zip'])(
    'gives layers back to the picture as it was shot, from %s',
    async (file) => {
      const out = at(`back-${file}.mp4`);
      const argv = ['steady', at('clip.mp4'), '--shot', at(file), '--picture', 'as-shot', '--out', out];
      const { status, out: told, err } = await lurn(...argv, '--crf', '1', '--json');
      expect([status, err]).toEqual([0, '']);
      expect(JSON.parse(told)).toMatchObject({ picture: 'as-shot', zoom: 1, layers: ['Crest', 'Plate'] });
      for (const frame of [0, 5]) {
        const [dx, dy] = moved(frame);
        const [seen, source] = [await lumaOf(`back-${file}.mp4`, frame), await lumaOf('clip.mp4', frame)];
        expect(seen(160 + dx, 90 + dy)).toBeGreaterThan(225);
        expect(seen(40 + dx, 35 + dy)).toBeLessThan(25);
        for (const [x, y] of [
          [250, 140],
          [90, 150],
          [300, 20],
        ])
          expect(Math.abs(seen(x, y) - source(x, y))).toBeLessThanOrEqual(3);
      }
    },
  );

  it('lets them stand still in the steadied picture', async () => {
    const out = at('still.mp4');
    const argv = ['steady', at('clip.mp4'), '--shot', at('shot.zip'), '--picture', 'steadied', '--out', out];
    const { status, out: told } = await lurn(...argv, '--json');
    expect(status).toBe(0);
    expect((JSON.parse(told) as { zoom: number }).zoom).toBeGreaterThan(1.02);
    const frames = await Promise.all([0, 4, 5].map((f) => lumaOf('still.mp4', f)));
    for (const seen of frames) expect(seen(160, 90)).toBeGreaterThan(225);
  });

  it('writes the layers alone, with alpha', async () => {
    const argv = [
      'steady',
      at('clip.mp4'),
      '--shot',
      at('shot.zip'),
      '--picture',
      'as-shot',
      '--layers-alone',
    ];
    expect((await lurn(...argv, '--format', 'prores-4444-mov', '--out', at('alone.mov'))).status).toBe(0);
    expect((await indexClip(at('alone.mov'))).info).toMatchObject({ frames: 12, codec: 'prores' });
    expect((await readFile(at('alone.mov'))).length).toBeGreaterThan(1000);
  });

  it.each([
    [['--shot', 'gone.zip'], 1, /gone.zip cannot be read: it is not there/],
    [
      ['--shot', 'bare.zip'],
      1,
      /"crest.svg" of a layer is not with .*bare.zip: it should be assets\/[0-9a-f]{64}/,
    ],
    [['--shot', 'clip.mp4'], 1, /it is not JSON/],
    [['--shot', 'shot.zip', '--picture', 'both'], 2, /--picture both is not one of steadied, as-shot/],
    [['--shot', 'shot.zip', '--goal', 'still'], 2, /--goal does not go with --shot/],
    [['--shot', 'shot.zip', '--layers-alone', '--format', 'h264-mp4'], 2, /needs a --format with alpha/],
  ] as const)('%j says what is wrong', async (args, wanted, told) => {
    const [, file, ...rest] = args;
    const { status, err } = await lurn(
      'steady',
      at('clip.mp4'),
      '--shot',
      at(file),
      ...rest,
      '--out',
      at('x.mp4'),
    );
    expect(err).toMatch(told);
    expect(status).toBe(wanted);
  });

  it('needs somewhere to write to', async () => {
    const { status, err } = await lurn('steady', at('clip.mp4'), '--shot', at('shot.zip'));
    expect([status, err]).toEqual([2, expect.stringMatching(/give --out/)]);
  });
});
