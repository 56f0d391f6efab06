import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { unpackRaster } from '@lurn/core/formats';
import { NEW_EDGE, NEW_TEXT_STYLE, type Asset } from '@lurn/model';
import { shakingClip, smallClip, tempData, TestApp } from '../testing/test-app.js';

/** The files of layers: sent, kept by what is in them, drawn for the page. */

let server: TestApp;
let folder: Awaited<ReturnType<typeof tempData>>;
beforeAll(async () => {
  folder = await tempData();
  server = await TestApp.start(folder.data);
});
afterAll(async () => {
  await server.stop();
  await folder.remove();
});

const SVG =
  '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="20"><rect width="40" height="20"/></svg>';
const encoded = (text: string) => Buffer.from(text).toString('base64');

/** Sends a file as the page does, in one go. */
async function send(name: string, bytes: string): Promise<Response> {
  const tus = { 'Tus-Resumable': '1.0.0' };
  const made = await fetch(`${server.url}/api/uploads`, {
    method: 'POST',
    headers: {
      ...tus,
      'Upload-Length': String(Buffer.byteLength(bytes)),
      'Upload-Metadata': `filename ${encoded(name)},for ${encoded('layer')}`,
    },
  });
  const place = made.headers.get('Location')!;
  return fetch(place.startsWith('http') ? place : server.url + place, {
    method: 'PATCH',
    headers: { ...tus, 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' },
    body: bytes,
  });
}

const post = (path: string, body: object) =>
  fetch(`${server.url}/api/assets/${path}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  });

describe('files of layers', () => {
  it('are kept by their hash, once, and given out to be kept only', async () => {
    const { asset, notes } = (await (await send('crest.svg', SVG)).json()) as {
      asset: Asset;
      notes: string[];
    };
    expect(asset).toMatchObject({
      name: 'crest.svg',
      width: 40,
      height: 20,
      vector: true,
      frames: 1,
      fps: 0,
      bytes: SVG.length,
    });
    expect(notes).toEqual([]);
    const again = (await (await send('another name.svg', SVG)).json()) as { asset: Asset };
    expect(again.asset.hash).toBe(asset.hash);
    expect(await readdir(join(server.settings.data, 'assets'))).toEqual([asset.hash]);
    const file = await fetch(`${server.url}/api/assets/${asset.hash}`);
    expect(file.headers.get('Content-Type')).toBe('application/octet-stream');
    expect(file.headers.get('Content-Disposition')).toBe('attachment');
    expect(await file.text()).toBe(SVG);
    // It is no clip.
    expect(await (await fetch(`${server.url}/api/clips`)).json()).toEqual([]);
    const drawn = await post('raster', { key: 'k', hash: asset.hash, edge: NEW_EDGE, side: 0 });
    const raster = unpackRaster(new Uint8Array(await drawn.arrayBuffer()));
    expect(raster.width / raster.height).toBeCloseTo(2, 2);
    expect(raster.data[3]).toBe(255);
  });

  it('that are no pictures are refused in words, and nothing is left of them', async () => {
    const answer = await send('notes.png', 'no picture');
    expect(answer.status).toBe(400);
    expect(await answer.json()).toMatchObject({
      code: 'bad-picture',
      message: expect.stringMatching(/"notes.png" is no picture/),
    });
    expect((await readdir(server.settings.uploads)).filter((n) => !n.endsWith('.json'))).toEqual([]);
  });

  it('that have gone are said to have', async () => {
    const gone = 'f'.repeat(64);
    expect((await fetch(`${server.url}/api/assets/${gone}`)).status).toBe(404);
    const answer = await post('raster', { key: 'gone', hash: gone, edge: NEW_EDGE, side: 0 });
    expect(answer.status).toBe(410);
    expect(await answer.json()).toMatchObject({ code: 'missing-file' });
    // A hash leads nowhere else.
    expect((await fetch(`${server.url}/api/assets/..%2F..%2Flurn.db`)).status).toBe(404);
  });
});

describe('texts', () => {
  const ask = { key: 't', text: 'Tal', style: NEW_TEXT_STYLE, edge: NEW_EDGE, side: 0 };

  it('are drawn, and letters that the font lacks are named', async () => {
    const answer = await post('text', ask);
    expect(answer.headers.get('X-Letters-Missing')).toBe('');
    expect(unpackRaster(new Uint8Array(await answer.arrayBuffer())).width).toBeGreaterThan(50);
    const other = await post('text', { ...ask, key: 'u', text: '谷 Tal' });
    expect(decodeURIComponent(other.headers.get('X-Letters-Missing')!)).toBe('谷');
  });

  it('of a font that is not there, or too long, are refused by name', async () => {
    const styled = await post('text', { ...ask, style: { ...NEW_TEXT_STYLE, font: 'Fraktur' } });
    expect(styled.status).toBe(400);
    expect(await styled.json()).toMatchObject({
      message: expect.stringMatching(/style\.font must be one of Hanken/),
    });
    expect((await post('text', { ...ask, text: 'x'.repeat(3000) })).status).toBe(400);
  });
});

describe('a film of masks', () => {
  it('is made of what moves in a clip, and tells how far it is', async () => {
    await server.upload('moving.mp4', await shakingClip(folder.data));
    const clip = await server.until(async () => {
      const found = await server.clip('moving');
      return found?.made?.scene && found;
    });
    const ask = async (more: object) => {
      const body = { mover: 'scene-1', regroups: [], from: 2, to: 5, name: 'Front', ...more };
      const answer = await post(`mask-of/${clip.id}`, body);
      return (await answer.text())
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line) as object);
    };
    const lines = await ask({});
    expect(lines.slice(0, -1)).toEqual([0, 1, 2, 3, 4].map((done) => ({ done })));
    expect(lines.at(-1)).toMatchObject({
      asset: { name: 'Front.mkv', frames: 4, width: 320, height: 180 },
      scale: 1,
    });
    // Another layer may lie behind the same.
    expect(await ask({})).toEqual(lines.slice(-1));
    expect(await ask({ mover: 'nobody' })).toMatchObject([{ error: { code: 'no-mover' } }]);
    expect(await ask({ to: 12 })).toMatchObject([{ error: { code: 'bad-range' } }]);
    expect((await readdir(join(server.settings.data, 'assets'))).filter((n) => /coming/.test(n))).toEqual([]);
    expect((await post(`mask-of/${clip.id}`, { mover: 'scene-1' })).status).toBe(400);
  });
});

describe('a film', () => {
  it('may be a clip of the server’s, of which frames are given out one by one', async () => {
    await server.upload('valley.mp4', await smallClip(folder.data));
    const clip = await server.until(async () => {
      const found = await server.clip('valley');
      return found?.status === 'ready' && found;
    });
    const { asset } = (await (await post(`from-clip/${clip.id}`, {})).json()) as { asset: Asset };
    expect(asset).toMatchObject({ frames: clip.info!.frames, fps: clip.info!.fps, width: clip.info!.width });
    // Once more it is the same file, and nothing else stays behind.
    await post(`from-clip/${clip.id}`, {});
    const kept = await readdir(join(server.settings.data, 'assets'));
    expect([kept.includes(asset.hash), kept.filter((name) => !/^[0-9a-f]{64}$/.test(name))]).toEqual([
      true,
      [],
    ]);
    const frame = (n: number) => post('film', { hash: asset.hash, width: 16, height: 12, frame: n });
    const [first, again, last] = await Promise.all([frame(0), frame(0), frame(asset.frames - 1)]);
    for (const answer of [first, again, last])
      expect(unpackRaster(new Uint8Array(await answer.arrayBuffer()))).toMatchObject({
        width: 16,
        height: 12,
      });
    const beyond = await frame(asset.frames);
    expect([beyond.status, ((await beyond.json()) as { code: string }).code]).toEqual([
      400,
      'frame-unreadable',
    ]);
    const gone = await post('film', { hash: 'f'.repeat(64), width: 16, height: 12, frame: 0 });
    expect(((await gone.json()) as { code: string }).code).toBe('missing-file');
  });
});
