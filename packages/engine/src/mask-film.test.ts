import { existsSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { packScene } from '@lurn/core/formats';
import type { AnalysedScene } from '@lurn/core/solve';
import { maskFilmInThread } from './mask-film.js';
import { FilmRasters } from './rasters/film-rasters.js';
import { readFilmFacts } from './rasters/film-facts.js';
import { readScene } from './scene.js';
import { ClipFolder } from './testing/clips.js';
import type { IndexedClip } from './frame-index.js';

/** Films of masks, of a board that goes by before a wall. */

const [W, H, FRAMES] = [320, 180, 36];
const [BOARD_W, BOARD_H] = [110, 90];
const boardAt = (frame: number) => ({ x: 40 + 3 * frame, y: 45 });

let clips: ClipFolder;
let clip: IndexedClip;
let scene: AnalysedScene;
beforeAll(async () => {
  clips = await ClipFolder.open();
  await writeFile(clips.at('film.raw'), Buffer.concat(Array.from({ length: FRAMES }, (_, f) => picture(f))));
  await clips.make(
    'film.mp4',
    ...['-f', 'rawvideo', '-pix_fmt', 'gray', '-video_size', `${W}x${H}`, '-framerate', '25'],
    ...['-i', clips.at('film.raw'), '-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-crf', '12'],
  );
  ({ clip, scene } = await readScene(clips.at('film.mp4')));
  await writeFile(clips.at('scene.bin'), packScene(scene));
});
afterAll(() => clips.remove());

/** Smooth noise: at a whole number of sevenths a random value. */
function textured(seed: number): (x: number, y: number) => number {
  const at = (x: number, y: number) => {
    const v = Math.sin(x * 12.9898 + y * 78.233 + seed) * 43758.5453;
    return v - Math.floor(v);
  };
  return (x, y) => {
    const [u, v] = [x / 7, y / 7];
    const [i, j] = [Math.floor(u), Math.floor(v)];
    const mix = (a: number, b: number, t: number) => a + (b - a) * t;
    return mix(mix(at(i, j), at(i + 1, j), u - i), mix(at(i, j + 1), at(i + 1, j + 1), u - i), v - j);
  };
}

function picture(frame: number): Uint8Array {
  const [wall, board] = [textured(1), textured(5)];
  const { x: left, y: top } = boardAt(frame);
  const out = new Uint8Array(W * H);
  for (let y = 0, p = 0; y < H; y++)
    for (let x = 0; x < W; x++, p++) {
      const on = x >= left && x < left + BOARD_W && y >= top && y < top + BOARD_H;
      out[p] = on ? 110 + 120 * board(x - left, y - top) : 20 + 120 * wall(x, y);
    }
  return out;
}

const request = (more: object = {}) => ({
  ...{ file: clips.at('film.mp4'), info: clip.info, scene: clips.at('scene.bin'), regroups: [] },
  ...{ mover: scene.movers[1].id, from: 4, to: 9, out: clips.at('mask.mkv') },
  ...more,
});

it('has a frame for each of the range, white where the mover is', async () => {
  const told: number[] = [];
  const scale = await maskFilmInThread(request(), new AbortController().signal, (n) => told.push(n));
  expect([scale, told]).toEqual([1, [0, 1, 2, 3, 4, 5, 6]]);
  expect(await readFilmFacts(clips.at('mask.mkv'), 'mask')).toMatchObject({ width: W, height: H, frames: 6 });
  const film = new FilmRasters(clips.at('mask.mkv'), 'mask', { width: W, height: H });
  const { data } = await film.frame(3);
  film.close();
  const { x: left, y: top } = boardAt(4 + 3);
  let [both, either] = [0, 0];
  for (let y = 0, p = 0; y < H; y++)
    for (let x = 0; x < W; x++, p++) {
      const on = x >= left && x < left + BOARD_W && y >= top && y < top + BOARD_H;
      const masked = data[4 * p] > 127;
      both += Number(on && masked);
      either += Number(on || masked);
    }
  expect(both / either).toBeGreaterThan(0.95);
});

it('is of the features that the editor put together', async () => {
  const all = [
    [0, 0],
    [W, 0],
    [W, H],
    [0, H],
  ] as const;
  const regroups = [{ frame: 4, shape: all, to: scene.movers[1].id }];
  await maskFilmInThread(request({ regroups, to: 4 }), new AbortController().signal, () => undefined);
  const film = new FilmRasters(clips.at('mask.mkv'), 'mask', { width: W, height: H });
  const { data } = await film.frame(0);
  film.close();
  expect(data.filter((v, i) => i % 4 === 0 && v > 127).length).toBeGreaterThan(0.95 * W * H);
});

it('leaves nothing behind where it is stopped, or the mover has gone', async () => {
  const stopping = new AbortController();
  const out = clips.at('stopped.mkv');
  const stopped = maskFilmInThread(request({ out, to: FRAMES - 1 }), stopping.signal, (n) => {
    if (n === 2) stopping.abort();
  });
  await expect(stopped).rejects.toMatchObject({ code: 'stopped' });
  const gone = maskFilmInThread(
    request({ out, mover: 'nobody' }),
    new AbortController().signal,
    () => undefined,
  );
  await expect(gone).rejects.toMatchObject({ code: 'no-mover' });
  expect(existsSync(out)).toBe(false);
});
