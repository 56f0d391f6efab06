import { readdir, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import type { RenderSummary, SavedShot } from '@lurn/model';
import { truthOf } from './bench-page.js';
import { TestServer } from './server.js';
import { trackedShot } from './tracked.js';

/** The API under bad input, crashes and restarts: clear answers, the server up, nothing lost. */

let server: TestServer;
test.beforeAll(async () => {
  server = await TestServer.start({ demo: true });
});
test.afterAll(() => server.stop());

async function call(
  method: string,
  path: string,
  body?: unknown,
): Promise<{ status: number; body: { code?: string; message?: string } & Record<string, unknown> }> {
  const response = await fetch(`${server.url}/api${path}`, {
    method,
    headers: { 'Content-Type': 'application/json' },
    body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body),
  });
  const text = await response.text();
  return { status: response.status, body: text ? (JSON.parse(text) as Record<string, unknown>) : {} };
}

const twoTracked = (): SavedShot => trackedShot(truthOf('station'), ['gable', 'door']);

test('values outside their range, and ids that are not there, are refused with one shape of error', async () => {
  const { id } = await server.clip('station');
  const shot = twoTracked();
  const track = shot.measured.s0;
  const cases: [string, string, unknown, number, string][] = [
    ['GET', '/clips/nobody', undefined, 404, 'not-found'],
    ['GET', '/nowhere', undefined, 404, 'not-found'],
    ['GET', `/clips/${id}/frames/-1`, undefined, 400, 'no-such-frame'],
    ['GET', `/clips/${id}/frames/1000000000`, undefined, 400, 'no-such-frame'],
    ['GET', `/clips/${id}/frames/x`, undefined, 400, 'bad-request'],
    ['PATCH', `/clips/${id}`, { name: '' }, 400, 'bad-request'],
    ['PATCH', `/clips/${id}`, { name: 'x', size: 3 }, 400, 'bad-request'],
    ['PATCH', `/clips/${id}`, '{"name', 400, 'bad-request'],
    ['PUT', `/clips/${id}/shot`, { ...shot, revision: -1 }, 400, 'bad-request'],
    ['PUT', `/clips/${id}/shot`, { ...shot, document: { ...shot.document, ref: 999 } }, 400, 'bad-document'],
    [
      'PUT',
      `/clips/${id}/shot`,
      { ...shot, measured: { s0: { ...track, values: { ...track.values, x: ['a'] } } } },
      400,
      'bad-request',
    ],
    ['PUT', `/clips/${id}/shot`, { ...shot, measured: { s0: { ...track, start: 5 } } }, 400, 'bad-track'],
    ['PUT', `/clips/${id}/shot`, { ...shot, measured: { s0: { ...track, state: 't' } } }, 400, 'bad-track'],
    ['PUT', `/clips/${id}/shot`, { ...shot, revision: 7 }, 409, 'conflict'],
    ['POST', `/clips/${id}/renders`, { revision: 0, crf: 99 }, 400, 'bad-request'],
    ['POST', '/renders/nobody/stop', undefined, 404, 'not-found'],
  ];
  for (const [method, path, body, status, code] of cases) {
    const answer = await call(method, path, body);
    expect([method, path, answer.status, answer.body.code], JSON.stringify(answer.body)).toEqual([
      method,
      path,
      status,
      code,
    ]);
    expect(answer.body.message).toMatch(/\w+ \w+/);
  }
  expect((await call('GET', `/clips/${id}/shot`)).body.revision).toBe(0);
});

test('a file of the page that is not there is no page', async () => {
  expect((await fetch(`${server.url}/assets/gone-1234.js`)).status).toBe(404);
  expect((await fetch(`${server.url}/shots/any`)).headers.get('content-type')).toContain('text/html');
});

test('odd files are refused or taken in words, and the server stays up', async () => {
  const station = await readFile('demo/shots/station.mp4');
  const empty = await server.upload('nothing.mp4', new Uint8Array(0));
  expect(empty).toMatchObject({ status: 400, body: { code: 'empty-file' } });
  const files: [string, Uint8Array, RegExp][] = [
    [
      'words.mp4',
      new TextEncoder().encode('not a video'),
      /"words" is a text file or a playlist, not a video/,
    ],
    ['cut.mp4', station.subarray(0, 200), /"cut" is cut off|"cut" is not a video/],
    ['../../etc/"pass\'wd".mp4', new TextEncoder().encode('x'), /""pass'wd"" is a text file or a playlist/],
  ];
  for (const [name, bytes, message] of files) {
    const { status, body } = await server.upload(name, bytes);
    expect(status).toBe(200);
    await server.ready();
    const clip = (await server.clips()).find((c) => c.id === body.id)!;
    expect(clip.status).toBe('failed');
    expect(clip.error!.message).toMatch(message);
  }
  const again = await server.upload('again.mp4', station);
  expect(again.body).toMatchObject({ duplicate: true, name: 'station' });
});

test('a save is whole or not at all, and two tabs are told of each other', async () => {
  const { id } = await server.clip('station');
  const { document, ...rest } = twoTracked();
  const shot = { ...rest, document: { ...document, range: { from: 0, to: 89 } } };
  const first = await call('PUT', `/clips/${id}/shot`, shot);
  expect(first).toMatchObject({ status: 200, body: { revision: 1 } });
  const late = await call('PUT', `/clips/${id}/shot`, {
    ...twoTracked(),
    document: { ...twoTracked().document, ref: 50 },
  });
  expect(late).toMatchObject({ status: 409, body: { code: 'conflict', details: { revision: 1 } } });
  const { body } = await call('GET', `/clips/${id}/shot`);
  expect(body).toMatchObject({ revision: 1, document: { ref: 0 } });
});

async function renders(id: string): Promise<readonly RenderSummary[]> {
  return (await server.clips()).find((c) => c.id === id)!.renders;
}

async function until(check: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 400 && !(await check()); i++) await new Promise((resume) => setTimeout(resume, 100));
}

test('a killed server loses nothing: the interrupted render is made again, from its start', async () => {
  const { id } = await server.clip('station');
  await call('POST', `/clips/${id}/renders`, { revision: 1, crf: 23 });
  const second = await call('POST', `/clips/${id}/renders`, { revision: 1, crf: 28 });
  await until(async () => (await renders(id)).some((r) => r.status === 'running' && r.done > 10));
  await server.down('SIGKILL');
  await server.up();
  const stopped = await call('POST', `/renders/${String(second.body.id)}/stop`);
  expect(stopped.body.status).toBe('stopped');
  await until(async () => (await renders(id)).every((r) => ['done', 'stopped'].includes(r.status)));
  expect((await renders(id)).map((r) => [r.crf, r.status])).toEqual([
    [28, 'stopped'],
    [23, 'done'],
  ]);
  expect((await readdir(join(server.data, 'renders'))).filter((f) => f.includes('.part'))).toEqual([]);
  expect((await call('GET', `/clips/${id}/shot`)).body.revision).toBe(1);
});

test('a file that has vanished from disk is said to be, by name', async () => {
  const { id } = await server.clip('station');
  await rm(join(server.data, 'clips', id, 'original.mp4'));
  expect(await call('GET', `/clips/${id}/file`)).toMatchObject({
    status: 410,
    body: { code: 'missing-file' },
  });
  const answer = await call('POST', `/clips/${id}/renders`, { revision: 1, crf: 23 });
  expect(answer).toMatchObject({ status: 410, body: { code: 'missing-file' } });
  expect(answer.body.message).toContain('"station"');
});

test('pages elsewhere cannot use the server; its documentation is at /api/docs', async () => {
  const foreign = await fetch(`${server.url}/api/clips`, { headers: { Origin: 'http://example.org' } });
  expect(foreign.status).toBe(403);
  expect((await fetch(`${server.url}/api/docs`)).status).toBe(200);
  expect(await (await fetch(`${server.url}/api/docs-json`)).text()).toContain('/api/clips/{id}/shot');
});

test('its pages are isolated, so that memory may be shared between their threads', async ({ page }) => {
  await page.goto(server.url);
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
});

test('Ctrl-C ends it cleanly', async () => {
  expect(await server.down('SIGINT')).toBe(0);
  await server.up();
});
