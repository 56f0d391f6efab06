import { writeFile } from 'node:fs/promises';
import { filmKey, filmOf, type Raster, type Scene } from '@lurn/core/compose';
import { IDENTITY, matrixWarp, rectangle } from '@lurn/core/geometry';
import { ClipFolder } from '../testing/clips.js';
import { readFilmFacts } from './film-facts.js';
import { FilmRasters } from './film-rasters.js';
import { LayerRasters } from './layer-rasters.js';

/** Films that layers show: 30 frames, each of a grey of its own. */

let folder: ClipFolder;
let film: string;
beforeAll(async () => {
  folder = await ClipFolder.open();
  const grey = ['-f', 'lavfi', '-i', 'nullsrc=size=64x48:rate=25:duration=1.2,format=gray,geq=lum=20+7*N'];
  film = await folder.make('film.mkv', ...grey, '-c:v', 'ffv1');
});
afterAll(() => folder.remove());

const greyOf = ({ data }: Raster) => data[4 * 700];
const SIZE = { width: 64, height: 48 };

describe('the frames of a film', () => {
  it('are those that are asked for, forwards, backwards and far away, in shared memory', async () => {
    const frames = new FilmRasters(film, 'film', SIZE);
    for (const f of [0, 1, 5, 29, 3, 3, 12]) {
      const raster = await frames.frame(f);
      expect([f, raster.width, raster.height]).toEqual([f, 64, 48]);
      expect(Math.abs(greyOf(raster) - (20 + 7 * f))).toBeLessThanOrEqual(1);
      expect([raster.data[3], raster.data.buffer instanceof SharedArrayBuffer]).toEqual([255, true]);
    }
    const all = await Promise.all([9, 2, 20].map((f) => frames.frame(f)));
    expect(all.map((r) => Math.round((greyOf(r) - 20) / 7))).toEqual([9, 2, 20]);
    frames.close();
  });

  it('beyond its end, or of a file that is none, are an error that says which', async () => {
    const frames = new FilmRasters(film, 'film', SIZE);
    await expect(frames.frame(99)).rejects.toMatchObject({
      code: 'frame-unreadable',
      message: expect.stringContaining('Frame 99 of "film"') as string,
    });
    expect(Math.abs(greyOf(await frames.frame(2)) - 34)).toBeLessThanOrEqual(1);
    frames.close();
    const torn = folder.at('torn.mkv');
    await writeFile(torn, 'nothing of the kind');
    await expect(new FilmRasters(torn, 'torn', SIZE).frame(0)).rejects.toMatchObject({
      code: 'frame-unreadable',
    });
    await expect(readFilmFacts(torn, 'torn.mkv')).rejects.toMatchObject({
      message: expect.any(String) as string,
    });
  });

  it('are known beforehand, shrunk where they are larger than any picture', async () => {
    expect(await readFilmFacts(film, 'film')).toMatchObject({ ...SIZE, frames: 30, fps: 25, notes: [] });
    const wide = await folder.make(
      'wide.mp4',
      '-f',
      'lavfi',
      '-i',
      'color=s=4320x240:r=25:d=0.2',
      '-c:v',
      'libx264',
    );
    expect(await readFilmFacts(wide, 'wide')).toMatchObject({ width: 2160, height: 120 });
  });
});

describe('what a scene shows', () => {
  const scene = (raster: string): Scene => ({
    size: SIZE,
    base: {
      ...{ frame: 0, toSource: matrixWarp(IDENTITY), donors: [] },
      edges: { mode: 'colour', colour: [0, 0, 0] },
    },
    layers: [
      {
        ...{ id: 'a', toOwn: matrixWarp(IDENTITY), opacity: 1, blend: 'normal', grain: 0, mattes: [] },
        content: { kind: 'raster', raster, corners: rectangle(0, 0, 10, 10) },
      },
    ],
  });

  it('has the one frame of a film that it asks for, and no film that has gone', async () => {
    const of = (hash: string) => ({ kind: 'film', key: filmKey(hash), hash, ...SIZE, frames: 30 }) as const;
    const rasters = await LayerRasters.open([of('here'), of('gone')], (hash) =>
      hash === 'here' ? film : null,
    );
    expect([rasters.has(filmKey('here')), rasters.has(filmKey('gone'))]).toEqual([true, false]);
    const key = filmKey('here', 11);
    expect(filmOf(key)).toEqual({ film: filmKey('here'), frame: 11 });
    const shown = await rasters.of(scene(key));
    expect([...shown.keys()]).toEqual([key]);
    expect(Math.abs(greyOf(shown.get(key)!) - 97)).toBeLessThanOrEqual(1);
    expect([...(await rasters.of(scene(filmKey('gone', 1)))).keys()]).toEqual([]);
    rasters.close();
  });
});
