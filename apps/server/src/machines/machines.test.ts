import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { formatById, indexClip, ffmpegPath, partsOf } from '@lurn/engine';
import type { Scene } from '@lurn/core/compose';
import { matrixWarp } from '@lurn/core/geometry';
import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { Assets } from '../assets/assets.js';
import { Settings } from '../common/settings.js';
import { Events } from '../events/events.js';
import { Rendering, type Rendered } from '../renders/rendering.js';
import { tempData } from '../testing/test-app.js';
import { WorkerGateway } from './worker-gateway.js';
import { groupsOf, groupSubject, ofSubject, packOrder, partsOfOrder, unpackOrder } from './part-order.js';
import { prefixOf, type RedisJobs } from './redis-jobs.js';
import { SharedRendering } from './shared-rendering.js';
import { PartWorker, type WorkerSettings } from './worker.js';
import { Workers } from './workers.js';
import { createHash } from 'node:crypto';

/** A render that is given away in parts: by a queue in memory here, over the same door as in earnest. */

const TOKEN = 'only for workers';
let made: string;
let clip: Awaited<ReturnType<typeof indexClip>>;
let source: string;
beforeAll(async () => {
  made = await mkdtemp(join(tmpdir(), 'lurn-machines-'));
  source = join(made, 'long.mp4');
  const film = ['-f', 'lavfi', '-i', 'testsrc2=size=160x120:rate=25:duration=20', '-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p']; // prettier-ignore
  await promisify(execFile)(await ffmpegPath(), ['-y', '-v', 'error', ...film, source]);
  clip = await indexClip(source);
}, 60_000);
afterAll(() => rm(made, { recursive: true, force: true }));

/** What the queue in Redis does, as far as it is asked here. */
class Queue {
  readonly waiting: string[] = [];
  add = (_: string, subject: string) => {
    if (!this.waiting.includes(subject)) this.waiting.push(subject);
    return Promise.resolve();
  };
  cancel = () => Promise.resolve(true);
}

let folder: Awaited<ReturnType<typeof tempData>>;
let door: WorkerGateway;
let workers: Workers;
let url: string;
beforeEach(async () => {
  folder = await tempData();
  process.env.LURN_WORK = '127.0.0.1:0';
  const settings = new Settings(folder.data);
  delete process.env.LURN_WORK;
  workers = new Workers(new Events());
  door = new WorkerGateway(settings, new Assets(settings), workers);
  url = `http://127.0.0.1:${await door.open(TOKEN)}`;
});
afterEach(async () => {
  door.onModuleDestroy();
  await folder.remove();
});

const scenes = (): Scene[] =>
  Array.from({ length: clip.info.frames }, (_, frame) => ({
    size: { width: 160, height: 120 },
    base: {
      frame,
      toSource: matrixWarp([1, 0, 3 * Math.sin(frame / 9), 0, 1, 0, 0, 0, 1]),
      edges: { mode: 'mirrored', colour: [0, 0, 0] },
      donors: [],
    },
    layers: [],
  }));

async function rendered(name: string, more: Partial<Rendered> = {}): Promise<Rendered> {
  const bytes = await readFile(source);
  const [file, work] = [join(folder.data, `${name}.mp4`), join(folder.data, `${name} parts`)];
  return {
    ...{ id: name, info: clip.info, times: clip.times, file, path: source, work, from: 0, to: 299 },
    ...{ delivery: { width: 160, height: 120 }, scenes: scenes(), rasters: [], crf: 20, compare: null },
    ...{ format: formatById('h264-mp4'), told: 'one', layers: undefined as never },
    source: { hash: createHash('sha256').update(bytes).digest('hex'), bytes: bytes.length, name: 'long' },
    ...{ signal: new AbortController().signal, onProgress: () => undefined },
    ...more,
  };
}

const worker = (name: string, more: Partial<WorkerSettings> = {}) =>
  new PartWorker({ server: url, token: TOKEN, name, data: join(folder.data, name), sources: null, ...more });
const job = (subject: string, attempt = 1) => ({ id: subject, kind: 'part' as const, subject, attempt });
const hashOf = async (file: string) =>
  createHash('sha256')
    .update(await readFile(file))
    .digest('hex');

it('servers that share a queue keep their jobs apart by their tokens, which the keys do not tell', () => {
  expect(prefixOf('one')).toBe(prefixOf('one'));
  expect(prefixOf('one')).not.toBe(prefixOf('other'));
  expect(prefixOf('one')).toMatch(/^lurn-[0-9a-f]{12}$/);
});

describe('an order', () => {
  it('comes out as it went in, in groups of parts', async () => {
    const { info, times, from, to, delivery, scenes: list, source: told } = await rendered('x');
    const order = { info, times, from, to, delivery, scenes: list, rasters: [], format: 'h264-mp4', crf: 20, compare: null, source: told }; // prettier-ignore
    const back = unpackOrder(packOrder(order));
    expect({ ...back, times: [...back.times] }).toEqual({ ...order, times: [...times] });
    const groups = groupsOf(partsOfOrder(back));
    expect(groups.flat()).toEqual(partsOf(info, 0, 299, formatById('h264-mp4')));
    expect(ofSubject(groupSubject('a.b', 7))).toEqual({ render: 'a.b', group: 7 });
    expect(() => unpackOrder(Buffer.from('no order'))).toThrow();
  });
});

describe('several machines', () => {
  it('make the same bits as one, though one brings half of its parts and is gone', async () => {
    const alone = await rendered('alone', { layers: { of: () => Promise.resolve(new Map()) } as never });
    await new Rendering().run(alone);
    const queue = new Queue();
    const seen: number[] = [];
    const shared = await rendered('shared', { onProgress: (done) => seen.push(done) });
    const going = new SharedRendering(queue as unknown as RedisJobs, door, workers).run(shared);
    const [a, b] = [worker('a'), worker('b')];
    await Promise.all([a.begin(), b.begin()]);
    while (queue.waiting.length < 2) await new Promise((r) => setTimeout(r, 20));
    expect(queue.waiting).toEqual(['shared.0', 'shared.1']);
    // Stopped in the second of its four parts.
    const stop = new AbortController();
    const lost = a.run(job('shared.0'), stop.signal, (frames) => frames > 70 && stop.abort());
    await expect(lost).rejects.toMatchObject({ code: 'stopped' });
    const signal = new AbortController().signal;
    for (const subject of ['shared.1', 'shared.0']) await b.run(job(subject, 2), signal, () => undefined);
    await going;
    expect(await hashOf(shared.file)).toBe(await hashOf(alone.file));
    expect(seen[seen.length - 1]).toBe(300);
    expect((await readdir(folder.data)).filter((n) => /parts/.test(n))).toEqual([]);
    await Promise.all([a.end(), b.end()]);
    expect(workers.summaries()).toEqual([]);
  }, 60_000);

  it('a render fails by what a worker finds wrong with it, or by parts that lose their workers', async () => {
    const queue = new Queue();
    const rendering = new SharedRendering(queue as unknown as RedisJobs, door, workers);
    const going = rendering.run(await rendered('bad'));
    going.catch(() => undefined);
    while (queue.waiting.length === 0) await new Promise((r) => setTimeout(r, 20));
    await worker('c').run(job('bad.1', 6), new AbortController().signal, () => undefined);
    await expect(going).rejects.toMatchObject({ code: 'part-failed', message: expect.stringMatching(/200 to 299/) as string }); // prettier-ignore
  });

  it('are told apart by what they are, not by their names', () => {
    const beat = { name: 'house', threads: 2, doing: null, done: 0, error: null };
    workers.heard({ ...beat, id: 'one' });
    workers.heard({ ...beat, id: 'two' });
    expect(workers.summaries().map((w) => w.name)).toEqual(['house (1)', 'house (2)']);
  });
});

it('however many say that they are workers, no more are known than a house has', () => {
  const beat = { name: 'x', threads: 1, doing: null, done: 0, error: null };
  for (let i = 0; i < 300; i++) workers.heard({ ...beat, id: `made up ${i}` });
  workers.heard({ ...beat, id: 'made up 299' });
  expect(workers.summaries()).toHaveLength(64);
});

describe('the door', () => {
  const knock = (path: string, headers: Record<string, string> = {}, init: RequestInit = {}) =>
    fetch(`${url}${path}`, {
      ...init,
      headers: {
        authorization: `Bearer ${TOKEN}`,
        'x-lurn-work': '1',
        'x-lurn-worker': '0123abcd',
        ...headers,
      },
    });

  it('stays shut without the token, and for another version', async () => {
    expect((await knock('/renders/x', { authorization: '' })).status).toBe(401);
    expect((await knock('/renders/x', { authorization: 'Bearer other' })).status).toBe(401);
    const old = await knock('/renders/x', { 'x-lurn-work': '0' });
    expect(old.status).toBe(409);
    expect(await old.json()).toMatchObject({
      code: 'other-version',
      message: expect.stringMatching(/version 1/) as string,
    });
    await expect(worker('old', { version: '0' }).begin()).rejects.toMatchObject({ code: 'other-version' });
    await expect(worker('bad', { token: 'guess' }).begin()).rejects.toMatchObject({ code: 'no-token' });
  });

  it('takes nothing but parts of renders that it has offered, whole, and into their folder alone', async () => {
    expect((await knock('/renders/none')).status).toBe(404);
    const queue = new Queue();
    const stop = new AbortController();
    const one = await rendered('one', { signal: stop.signal });
    const going = new SharedRendering(queue as unknown as RedisJobs, door, workers).run(one);
    going.catch(() => undefined);
    while (queue.waiting.length === 0) await new Promise((r) => setTimeout(r, 20));
    const put = (path: string, more: Record<string, string> = {}) =>
      knock(path, more, { method: 'PUT', body: 'bytes' });
    expect((await put('/renders/one/parts/99/00099.mp4')).status).toBe(404);
    expect((await put('/renders/one/parts/0/..%2f..%2fevil.mp4')).status).toBe(404);
    expect((await put('/renders/one/parts/0/00000.mp4', { 'x-lurn-worker': '../../..' })).status).toBe(404);
    const broken = await put('/renders/one/parts/0/00000.mp4', { 'x-sha256': 'other' });
    expect(await broken.json()).toMatchObject({ code: 'part-broken' });
    expect((await readdir(folder.data)).filter((n) => /evil/.test(n))).toEqual([]);
    expect((await readdir(one.work)).filter((n) => /^\d/.test(n))).toEqual([]);
    // What came whole is looked into before it counts.
    const short = join(folder.data, 'short.mp4');
    await promisify(execFile)(await ffmpegPath(), ['-v', 'error', '-i', source, '-frames:v', '20', short]);
    const wrong: [bytes: Buffer, why: RegExp][] = [
      [Buffer.from('garbage, whole'), /frames 0 to 49 is no MP4/],
      [Buffer.from(`ffconcat version 1.0\nfile '${source}'\n`), /is no MP4/],
      [Buffer.from(`#EXTM3U\n#EXTINF:2,\nfile:${source}\n`), /is no MP4/],
      [Buffer.concat([Buffer.from('\0\0\0\x18ftypisom'), Buffer.alloc(200)]), /cannot be read/],
      [await readFile(short), /has 20 frames in place of 50/],
    ];
    for (const [body, why] of wrong) {
      const sent = createHash('sha256').update(body).digest('hex');
      const took = await knock('/renders/one/parts/0/00000.mp4', { 'x-sha256': sent }, { method: 'PUT', body: body as never }); // prettier-ignore
      expect(took.status).toBe(204);
      const told = await knock('/renders/one/parts/0', {}, { method: 'POST' });
      const message = expect.stringMatching(why) as string;
      expect([told.status, await told.json()]).toMatchObject([400, { code: 'part-broken', message }]);
    }
    expect((await knock('/renders/one/parts/1', {}, { method: 'POST' })).status).toBe(400);
    expect((await readdir(one.work)).filter((n) => /^\.?\d/.test(n))).toEqual([]);
    stop.abort();
    await expect(going).rejects.toMatchObject({ code: 'stopped' });
    expect((await knock('/renders/one')).status).toBe(404);
  });
});
