import { mkdir, writeFile } from 'node:fs/promises';
import { fromJson, packColumns, toJson } from '@lurn/core/formats';
import { emptyMeasured, withSamples } from '@lurn/core/track';
import { FIRST_MOVER, newDocument, NEW_SPOT, readShotBody, SHOT_BODY_TYPE, shotBodyHead } from '@lurn/model';
import { createApp } from './app.js';
import { Settings } from './common/settings.js';
import { tempData, TestApp } from './testing/test-app.js';

/** The server as others see it: answers, headers, refusals; and that it goes on answering. */

let server: TestApp;
let folder: Awaited<ReturnType<typeof tempData>>;
beforeAll(async () => {
  folder = await tempData();
  server = await TestApp.start(folder.data);
  await server.addClip('summit');
  await mkdir(server.settings.clipFolder('summit'), { recursive: true });
  await writeFile(`${server.settings.clipFolder('summit')}/original.mp4`, '0123456789');
});
afterAll(async () => {
  await server.stop();
  await folder.remove();
});

const clip = { width: 640, height: 360, frames: 3000 };
const spot = (id: string) => ({
  ...NEW_SPOT,
  ...{ id, name: id, mover: FIRST_MOVER.id, colour: 0, patch: [15, 15], reach: [32, 24], minConfidence: 0.5 },
});
const track = (frames: number) =>
  toJson(
    withSamples(
      emptyMeasured('spot'),
      Array.from({ length: frames }, (_, frame) => ({
        ...{ frame, x: 100.123456 + frame / 7, y: 80.654321 - frame / 13, confidence: 0.987654 },
        ...{ state: 'tracked' as const, turn: 0.00123, scale: 1.0045 },
      })),
    ),
  );
const shot = (revision: number, ids: readonly string[], frames: number) => ({
  ...{ revision, document: { ...newDocument(clip), trackers: ids.map(spot) } },
  measured: Object.fromEntries(ids.map((id) => [id, track(frames)])),
});

describe('headers', () => {
  it('keep other pages and guesses out, and do not say what runs here', async () => {
    const { headers } = await server.call('GET', '/clips');
    expect(headers.get('Content-Security-Policy')).toContain("default-src 'self'");
    expect(headers.get('X-Content-Type-Options')).toBe('nosniff');
    expect(headers.get('Referrer-Policy')).toBe('no-referrer');
    expect(headers.get('X-Powered-By')).toBeNull();
  });

  it.each(['/clips', '/clips/summit/file', '/events', '/clips/nobody', '/formats'])(
    'are the same for HEAD as for GET: %s',
    async (path) => {
      const head = await fetch(`${server.url}/api${path}`, { method: 'HEAD' });
      expect(await head.text()).toBe('');
      expect(head.status).toBe(path.includes('nobody') ? 404 : 200);
    },
  );
});

describe('what is asked wrongly', () => {
  const json = { 'Content-Type': 'application/json' };
  it.each([
    ['malformed JSON', '{"name', json],
    ['an unknown charset', '{}', { 'Content-Type': 'application/json; charset=klingon' }],
    ['an unknown encoding', '{}', { ...json, 'Content-Encoding': 'shrunk' }],
    ['a depth without end', `{"name":${'['.repeat(40_000)}${']'.repeat(40_000)}}`, json],
    ['another type', 'name=x', { 'Content-Type': 'text/plain' }],
  ])('is a 400 that says so: %s', async (_, body, headers) => {
    const answer = await server.call('PATCH', '/clips/summit', body, headers);
    expect(answer.status).toBe(400);
    expect(answer.body).toMatchObject({ code: 'bad-request', message: expect.stringMatching(/\w+ \w+/) });
  });

  it.each([
    ['malformed JSON', '{"revision', 'bad-request'],
    [
      'a depth without end',
      `{"revision":0,"document":${'{"a":'.repeat(200_000)}1${'}'.repeat(200_000)},"measured":{}}`,
      '',
    ],
    ['a strange value', JSON.stringify({ ...shot(0, ['a'], 3), more: 1 }), 'bad-request'],
    ['samples past the end', JSON.stringify(shot(0, ['a'], 3001)), 'bad-track'],
  ])('is refused by the thread that reads shots: %s', async (_, body, code) => {
    const answer = await server.call('PUT', '/clips/summit/shot', body);
    expect(answer.status).toBe(400);
    if (code) expect(answer.body.code).toBe(code);
  });

  it('is a 416 where a range lies past the end of a file, and 206 where it does not', async () => {
    const get = (range: string) => server.call('GET', '/clips/summit/file', undefined, { Range: range });
    const past = await get('bytes=10-');
    expect(past).toMatchObject({ status: 416, body: { code: 'bad-range' } });
    expect(past.headers.get('Content-Range')).toBe('bytes */10');
    expect((await get('bytes=8-')).status).toBe(206);
  });

  it('never tells where anything lies on this machine', async () => {
    await server.addClip('lost');
    const answer = await server.call('GET', '/clips/lost/file');
    expect(answer).toMatchObject({ status: 410, body: { code: 'missing-file' } });
    expect(JSON.stringify(answer.body)).not.toContain(folder.data);
  });
});

describe('other pages', () => {
  const port = () => new URL(server.url).port;
  const from = (origin: string) => server.call('DELETE', '/clips/nobody', undefined, { Origin: origin });
  it('of this machine are refused unless they are this server’s', async () => {
    expect((await from('http://localhost:1')).status).toBe(403);
    expect((await from('http://localhost')).status).toBe(403);
    expect((await from('null')).status).toBe(403);
    expect((await from(`https://localhost:${port()}`)).status).toBe(403);
    expect((await from(`http://localhost:${port()}`)).status).toBe(404);
    expect((await from(`http://127.0.0.1:${port()}`)).status).toBe(404);
  });

  it('are not let in by uploads either', async () => {
    const tus = { 'Tus-Resumable': '1.0.0' };
    const own = await fetch(`${server.url}/api/uploads`, { method: 'OPTIONS', headers: tus });
    expect(own.headers.get('Access-Control-Allow-Origin')).not.toBe('*');
    const foreign = await fetch(`${server.url}/api/uploads`, {
      ...{ method: 'OPTIONS', headers: { ...tus, Origin: 'http://localhost:1' } },
    });
    expect(foreign.status).toBe(403);
  });
});

describe('a shot', () => {
  it('is saved whole or not at all, and two pages are told of each other', async () => {
    expect(await server.call('GET', '/clips/summit/shot')).toMatchObject({
      body: { revision: 0, measured: {} },
    });
    expect(await server.call('PUT', '/clips/summit/shot', shot(0, ['a', 'b'], 5))).toMatchObject({
      ...{ status: 200, body: { revision: 1 } },
    });
    const late = await server.call('PUT', '/clips/summit/shot', shot(0, ['c'], 5));
    expect(late).toMatchObject({ status: 409, body: { code: 'conflict', details: { revision: 1 } } });
    const { body } = await server.call('GET', '/clips/summit/shot');
    expect(Object.keys(body.measured as object)).toEqual(['a', 'b']);
    expect((body.measured as Record<string, unknown>).a).toEqual(track(5));
    // What is not in the document any more goes with it.
    await server.call('PUT', '/clips/summit/shot', { ...shot(1, ['b'], 5), measured: {} });
    const after = await server.call('GET', '/clips/summit/shot');
    expect(Object.keys(after.body.measured as object)).toEqual(['b']);
    const [summit] = (await server.call('GET', '/clips')).body as unknown as [{ id: string; work: unknown }];
    expect(summit).toBeDefined();
  });

  it('goes to pages and comes from them packed, and is the same as JSON', async () => {
    await server.addClip('packed');
    const path = `${server.url}/api/clips/packed/shot`;
    const { document, measured } = shot(0, ['a', 'b'], 40);
    const put = (revision: number, columns: Map<string, Uint8Array>, cut = 0) => {
      const pieces = [shotBodyHead({ revision, document, columns }), ...columns.values()];
      return fetch(path, {
        method: 'PUT',
        headers: { 'Content-Type': SHOT_BODY_TYPE },
        body: Buffer.concat(pieces).subarray(cut),
      });
    };
    const columns = new Map(Object.entries(measured).map(([id, m]) => [id, packColumns(fromJson(m))]));
    expect((await put(0, columns)).status).toBe(200);
    const got = await fetch(path, { headers: { Accept: SHOT_BODY_TYPE } });
    expect(got.headers.get('Content-Type')).toBe(SHOT_BODY_TYPE);
    const body = readShotBody(new Uint8Array(await got.arrayBuffer()));
    expect(body.revision).toBe(1);
    expect(new Map(body.columns)).toEqual(columns);
    expect((await server.call('GET', '/clips/packed/shot')).body).toMatchObject({ revision: 1, measured });
    const past = new Map([['a', packColumns(fromJson(track(3001)))]]);
    for (const [answer, code] of [
      [await put(1, past), 'bad-track'],
      [await put(1, new Map([['a', Uint8Array.of(9, 9)]])), 'bad-track'],
      [await put(1, columns, 1), 'bad-request'],
      [await put(-1, columns), 'bad-request'],
      [await put(0, columns), 'conflict'],
    ] as const) {
      expect(answer.ok).toBe(false);
      expect(await answer.json()).toMatchObject({ code });
    }
  });

  it('is refused with 507 while the disk is full, and taken when there is room', async () => {
    const full = jest.spyOn(server.database, 'write');
    full.mockRejectedValue(
      Object.assign(new Error('SQLITE_FULL: database or disk is full'), { code: 'SQLITE_FULL' }),
    );
    const refused = await server.call('PUT', '/clips/summit/shot', shot(2, ['b'], 5));
    expect(refused).toMatchObject({ status: 507, body: { code: 'disk-full', message: /disk is full/ } });
    full.mockRestore();
    expect((await server.call('PUT', '/clips/summit/shot', shot(2, ['b'], 5))).status).toBe(200);
    const rename = jest.spyOn(server.database, 'write');
    rename.mockRejectedValue(Object.assign(new Error('no space left on device'), { code: 'ENOSPC' }));
    expect(await server.call('PATCH', '/clips/summit', { name: 'Peak' })).toMatchObject({ status: 507 });
    rename.mockRestore();
    expect(await server.call('PATCH', '/clips/summit', { name: 'Peak' })).toMatchObject({ status: 200 });
  });

  it('of 30 spots over 3000 frames keeps nobody waiting while it is saved and read', async () => {
    await server.addClip('long');
    const ids = Array.from({ length: 30 }, (_, i) => `s${i}`);
    const body = JSON.stringify(shot(0, ids, 3000));
    let saving = true;
    const saved = server.call('PUT', '/clips/long/shot', body).finally(() => (saving = false));
    let answers = 0;
    while (saving) {
      await server.call('GET', '/clips');
      answers++;
      await new Promise((resume) => setTimeout(resume, 10));
    }
    expect(await saved).toMatchObject({ status: 200 });
    // How long each takes is measured by the bench; one that had to wait for the save would be the only one.
    expect(answers).toBeGreaterThan(10);
  });
});

describe('a list of clips', () => {
  it('comes in pages that hold each clip once, also of clips of one moment', async () => {
    const createdAt = '2020-01-01T00:00:00.000Z';
    for (const id of ['one', 'two', 'three', 'four']) await server.addClip(id, {}, { createdAt });
    const list = async (query: string) => {
      const { body } = await server.call('GET', `/clips${query}`);
      return (body as unknown as { id: string }[]).map((c) => c.id);
    };
    const all = await list('');
    const paged: string[] = [];
    for (let page = await list('?limit=3'); page.length > 0;) {
      paged.push(...page);
      page = await list(`?limit=3&after=${page[page.length - 1]}`);
    }
    expect(paged).toEqual(all);
    expect(new Set(all).size).toBe(all.length);
    expect(await server.call('GET', '/clips?limit=0')).toMatchObject({ status: 400 });
    expect(await server.call('GET', '/clips?limit=x')).toMatchObject({ status: 400 });
    expect(await server.call('GET', '/clips?limit=3&after=nobody')).toMatchObject({ status: 404 });
  });
});

describe('a second server', () => {
  it('on the same data refuses to start and says why', async () => {
    await expect(createApp(new Settings(folder.data))).rejects.toMatchObject({
      ...{ code: 'data-in-use', message: expect.stringContaining('Another Lurn works on') },
    });
  });
});
