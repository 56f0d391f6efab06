import { mkdir } from 'node:fs/promises';
import { Worker } from 'node:worker_threads';
import { ingestInThread, readyToIngest, type IngestProgress, type IngestRequest } from './index.js';
import { ClipFolder, picture, x264 } from './testing/clips.js';

/** The thread that reads clips: one serves clip after clip, whatever becomes of each. */

/** Of the clip that is read again and again. */
const FRAMES = 16;
let clips: ClipFolder;
let started: number;
beforeAll(async () => {
  clips = await ClipFolder.open();
  await clips.make('plain.mp4', ...picture('320x180', FRAMES / 25), ...x264);
  await clips.make('words.mp4', '-f', 'lavfi', '-i', 'sine', '-t', '0.1', '-c:a', 'aac');
}, 60_000);
afterAll(() => clips.remove());

const read = async (file: string, onProgress?: (progress: IngestProgress) => void) => {
  const folder = clips.at(`into-${Math.random()}`);
  await mkdir(folder);
  return ingestInThread({ path: clips.at(file), name: file, folder }, onProgress);
};
const posted = jest.spyOn(Worker.prototype, 'postMessage');
/** How many threads were asked to read since the test began. */
const threads = () =>
  new Set(
    posted.mock.contexts.filter((_, i) => i >= started && (posted.mock.calls[i][0] as IngestRequest).folder),
  ).size;
beforeEach(() => (started = posted.mock.calls.length));

it('reads one clip after the other, also after one that cannot be read', async () => {
  readyToIngest();
  for (let i = 0; i < 6; i++) {
    const { result } = await read(i % 3 === 1 ? 'words.mp4' : 'plain.mp4');
    if (i % 3 === 1) await expect(result).rejects.toMatchObject({ code: 'audio-only' });
    else expect((await result).info.frames).toBe(FRAMES);
  }
  expect(threads()).toBe(1);
});

it('tells each of two at once its own', async () => {
  const seen: [number[], number[]] = [[], []];
  const both = await Promise.all(seen.map((list) => read('plain.mp4', (p) => list.push(p.frames))));
  const each = Array.from({ length: FRAMES }, (_, i) => i + 1);
  for (const { result } of both) expect((await result).info.frames).toBe(FRAMES);
  expect(seen).toEqual([each, each]);
  expect(threads()).toBe(2);
});

it('that is stopped says so, and the next clip is read by another', async () => {
  const { result, stop } = await read('plain.mp4');
  stop();
  await expect(result).rejects.toMatchObject({ code: 'stopped' });
  expect((await (await read('plain.mp4')).result).info.frames).toBe(FRAMES);
});

it('that dies is replaced, and the clip read again; one that dies again is told of', async () => {
  const die = () => (posted.mock.contexts.at(-1) as Worker).terminate();
  const { result } = await read('plain.mp4');
  await die();
  expect((await result).info.frames).toBe(FRAMES);
  expect(threads()).toBe(2);
  const other = await read('plain.mp4');
  await die();
  while (threads() < 3) await new Promise((resume) => setTimeout(resume, 5));
  await die();
  await expect(other.result).rejects.toMatchObject({ code: 'thread-died' });
});

it('stands still while it is held, and goes on from there', async () => {
  const folder = clips.at('held');
  await mkdir(folder);
  const long = await clips.make('long.avi', ...picture('320x180', 2), '-c:v', 'mjpeg');
  let frames = 0;
  let hold = true;
  const ingest = ingestInThread({ path: long, name: 'long', folder }, (p) => {
    frames = p.frames;
    if (hold && frames > 4) ingest.hold(true);
  });
  while (frames < 5) await new Promise((resume) => setTimeout(resume, 5));
  await new Promise((resume) => setTimeout(resume, 300));
  const before = frames;
  await new Promise((resume) => setTimeout(resume, 300));
  expect([frames, frames < 50]).toEqual([before, true]);
  hold = false;
  ingest.hold(false);
  expect((await ingest.result).info.frames).toBe(50);
});

it('says that a clip is read before what is known of its whole picture has been worked out', async () => {
  const folder = clips.at('read-first');
  await mkdir(folder);
  const order: string[] = [];
  const request = { path: clips.at('plain.mp4'), name: 'plain', folder };
  const { result } = ingestInThread(request, undefined, undefined, ({ info, made }) => {
    order.push('read');
    expect([info.frames, made.scene]).toEqual([FRAMES, null]);
  });
  const clip = await result;
  order.push('known');
  expect(order).toEqual(['read', 'known']);
  expect(clip.made.scene).not.toBeNull();
  expect(clip.shakiness).toBeGreaterThan(0);
});
