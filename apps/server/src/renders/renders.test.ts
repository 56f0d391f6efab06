import { cp, readdir, readFile, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { toJson } from '@lurn/core/formats';
import { emptyMeasured, withSamples } from '@lurn/core/track';
import { FIRST_MOVER, newDocument, NEW_SPOT, type ClipSummary, type RenderStatus } from '@lurn/model';
import { smallClip, tempData, TestApp } from '../testing/test-app.js';
import { Renders } from './renders.js';

/** Renders from the order to the file, and what may come between. */

/** A folder of data with a clip that has been read, and a shot of it: each test begins with a copy. */
let begun: Awaited<ReturnType<typeof tempData>>;
let folder: Awaited<ReturnType<typeof tempData>>;
let server: TestApp;
let clip: ClipSummary;
beforeAll(async () => {
  begun = await tempData();
  server = await TestApp.start(begun.data);
  await server.upload('valley.mp4', await smallClip(begun.data));
  clip = await server.until(async () => {
    const now = await server.clip('valley');
    return now?.status === 'ready' && now.shakiness !== null && now;
  });
  await save(0, 5);
  await server.stop();
});
afterAll(() => begun.remove());
beforeEach(async () => {
  folder = await tempData();
  await copied(begun.data, folder.data);
  server = await TestApp.start(folder.data);
});
afterEach(async () => {
  await server.stop();
  await folder.remove();
});

/** Copies a server's folder: what its database takes away as it closes may go in the middle of that. */
async function copied(from: string, to: string): Promise<void> {
  await cp(from, to, { recursive: true }).catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'ENOENT') throw error;
    return cp(from, to, { recursive: true });
  });
}

/** Saves a shot with one spot that goes across by so much a frame, or with none. */
async function save(revision: number, step: number | null): Promise<void> {
  const spot = { ...NEW_SPOT, id: 'a', name: 'gable', mover: FIRST_MOVER.id, colour: 0, minConfidence: 0.15 };
  const trackers = step === null ? [] : [{ ...spot, patch: [8, 8] as const, reach: [12, 12] as const }];
  const samples = Array.from({ length: 12 }, (_, frame) => ({
    ...{ frame, x: 40 + (step ?? 0) * frame, y: 60, confidence: 1, state: 'tracked' as const },
  }));
  const document = { ...newDocument({ width: 160, height: 120, frames: 12 }), trackers };
  const measured = step === null ? {} : { a: toJson(withSamples(emptyMeasured('spot'), samples)) };
  const answer = await server.call('PUT', `/clips/${clip.id}/shot`, { revision, document, measured });
  expect(answer.status).toBe(200);
}

const order = (revision = 1) => server.call('POST', `/clips/${clip.id}/renders`, { revision, crf: 23 });
const told = async (id: unknown) => (await server.clip('valley'))?.renders.find((r) => r.id === id);
const becomes = (id: unknown, status: RenderStatus) =>
  server.until(async () => {
    const render = await told(id);
    return render?.status === status && render;
  });

/** Saves the shot with another format, and a second delivery. */
async function deliver(revision: number, formats: readonly string[]): Promise<void> {
  const { body } = await server.call('GET', `/clips/${clip.id}/shot`);
  const { document } = body as unknown as { document: ReturnType<typeof newDocument> };
  const [first] = document.deliveries;
  const deliveries = formats.map((format, k) => ({ ...first, id: `d${k}`, name: `to: ${k}`, format }));
  const saved = { revision, document: { ...document, deliveries }, measured: {} };
  expect((await server.call('PUT', `/clips/${clip.id}/shot`, saved)).status).toBe(200);
}

describe('a delivery', () => {
  const orderOf = (delivery: string) =>
    server.call('POST', `/clips/${clip.id}/renders`, { revision: 2, crf: 23, delivery });

  it('is rendered as it says, under its name', async () => {
    await deliver(1, ['h264-mp4', 'ffv1-mkv']);
    const { id } = (await orderOf('d1')).body;
    expect(await becomes(id, 'done')).toMatchObject({ delivery: 'to: 1', format: 'MKV, FFV1', plays: false });
    const file = await server.app.get(Renders).file(id as string);
    expect(file.name).toBe('valley to- 1.mkv');
    expect((await readFile(file.path)).readUInt32BE(0)).toBe(0x1a45dfa3);
  });

  it.each([
    ['d7', 'no-delivery', /has no such delivery/],
    ['d1', 'no-format', /no format "tape"/],
    ['d2', 'no-alpha', /256 x 120 pixels/],
  ])('%s is refused as %s before anything is queued', async (id, code, message) => {
    await deliver(1, ['h264-mp4', 'tape', 'dnxhr-mov']);
    const answer = await orderOf(id);
    expect(answer).toMatchObject({
      status: 400,
      body: { code, message: expect.stringMatching(message) as string },
    });
    expect((await server.clip('valley'))?.renders).toEqual([]);
  });
});

describe('a render', () => {
  it('is the shot as it was ordered, whatever is changed meanwhile', async () => {
    const one = (await order()).body.id;
    const two = (await order()).body.id;
    await save(1, null);
    const first = await becomes(one, 'done');
    const second = await becomes(two, 'done');
    expect(first).toMatchObject({ done: 12, total: 12, error: null });
    expect(second.zoom).toBeGreaterThan(1.3); // by the motion of what is no longer there
    const [a, b] = await Promise.all(
      [one, two].map((id) => readFile(join(folder.data, 'renders', `${String(id)}.mp4`))),
    );
    expect(a.equals(b)).toBe(true);
    const file = await fetch(`${server.url}/api/renders/${String(one)}/file?download=1`);
    expect(file.headers.get('Content-Disposition')).toContain('valley steady.mp4');
    expect(Number(file.headers.get('Content-Length'))).toBe(first.bytes);
  });

  it('is refused of a shot that was changed since, or that has nothing tracked', async () => {
    await save(1, 2);
    expect(await order(1)).toMatchObject({
      status: 409,
      body: { code: 'conflict', details: { revision: 2 } },
    });
    await save(2, null);
    expect(await order(3)).toMatchObject({ status: 400, body: { code: 'nothing-to-render' } });
    expect((await server.clip('valley'))!.renders).toEqual([]);
  });

  it('goes on when its clip is deleted and brought back', async () => {
    const { id } = (await order()).body;
    await server.call('DELETE', `/clips/${clip.id}`);
    await server.call('POST', `/clips/${clip.id}/restore`);
    expect(await becomes(id, 'done')).toMatchObject({ done: 12 });
  });

  it('is stopped while it waits and while it runs, goes on at a word, and leaves nothing once it is removed', async () => {
    const [running, waiting] = [(await order()).body.id, (await order()).body.id];
    await becomes(running, 'running');
    const stop = (id: unknown) => server.call('POST', `/renders/${String(id)}/stop`);
    expect((await stop(waiting)).body.status).toBe('stopped');
    expect((await stop(running)).body.status).toBe('stopped');
    expect((await stop(running)).body.status).toBe('stopped');
    expect(await server.call('POST', `/renders/${String(waiting)}/go-on`)).toMatchObject({ status: 200 });
    await becomes(waiting, 'done');
    expect(await server.call('POST', `/renders/${String(waiting)}/go-on`)).toMatchObject({
      status: 400,
      body: { code: 'not-stopped' },
    });
    for (const id of [running, waiting]) await server.call('DELETE', `/renders/${String(id)}`);
    expect(await readdir(join(folder.data, 'renders'))).toEqual([]);
  });

  it('gives the same bits each time, and shows its last picture', async () => {
    const whole = (await order()).body.id;
    await becomes(whole, 'done');
    const file = (id: unknown) => readFile(join(folder.data, 'renders', `${String(id)}.mp4`));
    const { id } = (await order()).body;
    await becomes(id, 'done');
    expect((await file(id)).equals(await file(whole))).toBe(true);
    const picture = await fetch(`${server.url}/api/renders/${String(id)}/last`);
    expect(picture.headers.get('Content-Type')).toBe('image/jpeg');
    expect([...new Uint8Array(await picture.arrayBuffer()).subarray(0, 2)]).toEqual([0xff, 0xd8]);
  });

  it('is made sooner than others when it is put before them', async () => {
    const ids = [];
    for (let i = 0; i < 4; i++) ids.push((await order()).body.id);
    await becomes(ids[0], 'running');
    // Nothing of it is there yet, which is no failure.
    expect((await fetch(`${server.url}/api/renders/${String(ids[3])}/last`)).status).toBe(204);
    const wanted = [ids[3], ids[1], ids[2]];
    expect((await server.call('POST', '/renders/order', { ids: wanted })).status).toBe(204);
    const done: unknown[] = [];
    await server.until(async () => {
      for (const id of wanted)
        if (!done.includes(id) && (await told(id))?.status !== 'waiting') done.push(id);
      return done.length === 3;
    });
    expect(done).toEqual(wanted);
  });

  it('is made again after the server was ended in the middle of it', async () => {
    const { id } = (await order()).body;
    await becomes(id, 'running');
    await server.stop();
    server = await TestApp.start(folder.data);
    expect(await becomes(id, 'done')).toMatchObject({ done: 12, error: null });
    expect(await readdir(join(folder.data, 'renders'))).toEqual([`${String(id)}.mp4`]);
  });

  it('waits for room when the disk is full, says so, and goes on', async () => {
    const full = Object.assign(new Error('no space left on device'), { code: 'ENOSPC' });
    jest.spyOn(server.app.get(Renders) as never, 'draw' as never).mockRejectedValueOnce(full as never);
    const { id } = (await order()).body;
    const waiting = await server.until(async () => {
      const render = await told(id);
      return render?.error ? render : null;
    });
    expect(waiting).toMatchObject({ status: 'waiting', error: { code: 'disk-full' } });
    await server.lookAgain();
    expect(await becomes(id, 'done')).toMatchObject({ done: 12, error: null });
  });

  it('that meets a fault says so without what only the log may tell', async () => {
    const fault = new Error(`cannot read ${folder.data}/secret`);
    jest.spyOn(server.app.get(Renders) as never, 'draw' as never).mockRejectedValueOnce(fault as never);
    const { error } = await becomes((await order()).body.id, 'failed');
    expect(error).toMatchObject({ code: 'fault' });
    expect(JSON.stringify(error)).not.toContain(folder.data);
  });

  it('whose clip has lost its file says which', async () => {
    await rm(server.settings.clipFolder(clip.id), { recursive: true });
    expect(await order()).toMatchObject({ status: 410, body: { code: 'missing-file', message: /"valley"/ } });
  });

  it('is removed with its file', async () => {
    const { id } = (await order()).body;
    await becomes(id, 'done');
    const file = join(folder.data, 'renders', `${String(id)}.mp4`);
    await stat(file);
    expect((await server.call('DELETE', `/renders/${String(id)}`)).status).toBe(204);
    await expect(stat(file)).rejects.toMatchObject({ code: 'ENOENT' });
    expect((await server.call('GET', `/renders/${String(id)}/file`)).status).toBe(404);
  });
});
