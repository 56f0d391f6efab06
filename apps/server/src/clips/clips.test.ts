import { execFile } from 'node:child_process';
import { mkdir, mkdtemp, readdir, readFile, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { ffmpegPath } from '@lurn/engine';
import type { ClipInfo, ClipMade, ShotDocument } from '@lurn/model';
import { eq } from 'drizzle-orm';
import { clips, jobs } from '../database/schema.js';
import { JobStore } from '../jobs/job-store.js';
import { JobRunner } from '../jobs/runner.js';
import { smallClip, tempData, TestApp } from '../testing/test-app.js';
import { Reading } from './reading.js';

const run = promisify(execFile);

/** Clips from the last byte of an upload until they are ready, whatever comes between. */

let made: string;
const bytes: Buffer[] = [];
beforeAll(async () => {
  made = await mkdtemp(join(tmpdir(), 'lurn-made-'));
  for (let seed = 0; seed < 2; seed++) bytes.push(await smallClip(made, seed));
});
afterAll(() => rm(made, { recursive: true, force: true }));

let folder: Awaited<ReturnType<typeof tempData>>;
let server: TestApp;
const start = async () => (server = await TestApp.start(folder.data));
const ready = (name: string) =>
  server.until(async () => {
    const clip = await server.clip(name);
    return clip && clip.status !== 'reading' && clip.status !== 'copying' && clip;
  });
beforeEach(async () => (folder = await tempData()));
afterEach(async () => {
  await server.stop();
  await folder.remove();
});

describe('an upload', () => {
  it('becomes a clip that is read; the same file again becomes none', async () => {
    await start();
    expect((await server.upload('valley.mp4', bytes[0])).body).toMatchObject({
      name: 'valley',
      duplicate: false,
    });
    expect(await ready('valley')).toMatchObject({
      status: 'ready',
      info: { frames: 12, width: 160, height: 120 },
    });
    expect((await server.upload('again.mp4', bytes[0])).body).toMatchObject({
      name: 'valley',
      duplicate: true,
    });
    expect(await readdir(server.settings.uploads)).toEqual([]);
  });

  it('that another clip was made of is known when it comes again, unless that has gone', async () => {
    const woven = join(made, 'woven.mp4');
    await run(await ffmpegPath(), [
      ...[
        '-v',
        'error',
        '-y',
        '-f',
        'lavfi',
        '-i',
        'testsrc2=s=160x120:r=50:d=0.5',
        '-vf',
        'interlace=scan=tff',
      ],
      ...['-c:v', 'libx264', '-flags', '+ilme+ildct', '-preset', 'ultrafast', woven],
    ]);
    const whole = await readFile(woven);
    await start();
    await server.upload('woven.mp4', whole);
    expect(await ready('woven')).toMatchObject({ status: 'ready', info: { frames: 12 } });
    expect((await server.upload('again.mp4', whole)).body).toMatchObject({ name: 'woven', duplicate: true });
    const { id } = (await server.clip('woven'))!;
    await rm(join(server.settings.clipFolder(id), 'conformed.mkv'));
    expect((await server.upload('anew.mp4', whole)).body).toMatchObject({ name: 'anew', duplicate: false });
    expect(await ready('anew')).toMatchObject({ status: 'ready', info: { frames: 12 } });
  });

  it('that is no video is refused with what it is', async () => {
    await start();
    await server.upload('words.mp4', Buffer.from('#EXTM3U\nhttp://127.0.0.1:9/a.ts\n'));
    expect(await ready('words')).toMatchObject({ status: 'failed', error: { message: /playlist/ } });
    expect(await server.upload('nothing.mp4', Buffer.alloc(0))).toMatchObject({
      status: 400,
      body: { code: 'empty-file' },
    });
  });

  it('that had arrived whole when the server was killed is taken over at the next start', async () => {
    await start();
    const { uploads } = server.settings;
    await server.stop();
    const told = (size: number, filename: string) =>
      JSON.stringify({ id: filename, size, offset: 0, metadata: { filename } });
    await writeFile(join(uploads, 'whole'), bytes[0]);
    await writeFile(join(uploads, 'whole.json'), told(bytes[0].length, 'whole.mp4'));
    await writeFile(join(uploads, 'part'), bytes[1].subarray(0, 100));
    await writeFile(join(uploads, 'part.json'), told(bytes[1].length, 'part.mp4'));
    await writeFile(join(uploads, 'old'), bytes[1].subarray(0, 100));
    await writeFile(join(uploads, 'old.json'), told(bytes[1].length, 'old.mp4'));
    const longAgo = new Date(Date.now() - 8 * 24 * 3600 * 1000);
    await utimes(join(uploads, 'old'), longAgo, longAgo);
    await writeFile(join(uploads, 'nobody.json'), '{}');
    await writeFile(join(uploads, 'torn'), bytes[1]);
    await writeFile(join(uploads, 'torn.json'), '{"si');
    await start();
    expect(await ready('whole')).toMatchObject({ status: 'ready', info: { frames: 12 } });
    // What may still be gone on with is kept, and so is what cannot be told; what was given up is gone.
    expect((await readdir(uploads)).sort()).toEqual(['part', 'part.json', 'torn', 'torn.json']);
  });
});

describe('a clip that is still being read', () => {
  const waiting = async (info: Partial<ClipInfo>, made: ClipMade | null) => {
    await start();
    await server.addClip('slow', info, { status: 'copying', usesCopy: Boolean(made?.copy), made });
  };
  const copy = { width: 640, height: 360, part: 24 };

  it('can be opened and worked on; what is not copied yet is on its way', async () => {
    await waiting({ frames: 60 }, { copy, reduced: null, film: null, wave: false });
    expect(await server.clip('slow')).toMatchObject({ status: 'copying', there: 0, info: { frames: 60 } });
    expect((await server.call('GET', '/clips/slow/times')).body.times).toHaveLength(60);
    const { status, body } = await server.call('GET', '/clips/slow/shot');
    expect([status, body.revision]).toEqual([200, 0]);
    const saved = await server.call('PUT', '/clips/slow/shot', {
      ...{ revision: 0, document: body.document, measured: {} },
    });
    expect(saved.body).toEqual({ revision: 1 });
    expect(await server.call('GET', '/clips/slow/copy/1')).toMatchObject({
      status: 425,
      body: { code: 'not-read-yet', message: 'Frames 24 to 47 of "slow" are still being copied.' },
    });
    expect((await server.call('GET', '/clips/slow/copy/3')).status).toBe(404);
    expect((await server.call('GET', '/clips/slow/reduced/0')).status).toBe(404);
    // A render is of the whole of it.
    expect(await server.call('POST', '/clips/slow/renders', { revision: 1, crf: 18 })).toMatchObject({
      status: 409,
      body: { code: 'not-ready' },
    });
  });

  it('has the rows of its film as they are made; no answer that something is not there is kept', async () => {
    const film = { every: 6, row: 4, width: 96, height: 54 };
    await waiting({ frames: 60 }, { copy, reduced: null, film, wave: false });
    const folder = join(server.settings.clipFolder('slow'), 'film');
    await mkdir(folder, { recursive: true });
    const row = async (n: number) => {
      const { status, headers } = await fetch(`${server.url}/api/clips/slow/film/${n}`);
      return [status, headers.get('cache-control'), headers.get('retry-after')];
    };
    expect(await row(0)).toEqual([425, 'no-store', '1']);
    await writeFile(join(folder, '000.jpg'), 'as far as it is written');
    expect(await row(0)).toEqual([425, 'no-store', '1']);
    await writeFile(join(folder, '001.jpg'), '');
    expect(await row(0)).toEqual([200, 'private, max-age=3600', null]);
    expect(await row(3)).toEqual([404, 'no-store', null]);
    // Gone from the disk: an answer that is not kept either.
    await server.database.write((db) =>
      db.update(clips).set({ status: 'ready' }).where(eq(clips.id, 'slow')),
    );
    expect((await row(2)).slice(0, 2)).toEqual([410, 'no-store']);
  });

  it('cannot be opened before it is known what it is', async () => {
    await start();
    await server.addClip('new', {}, { status: 'reading', info: null, times: null });
    expect(await server.call('GET', '/clips/new/shot')).toMatchObject({
      status: 409,
      body: { code: 'not-ready' },
    });
  });

  it('says that it cannot be read, once that is known, and not that it is being read', async () => {
    await start();
    const error = { code: 'not-video', message: 'It has no pictures in it.' };
    await server.addClip('torn', {}, { status: 'failed', info: null, times: null, error });
    const { body } = await server.call('GET', '/clips/torn/shot');
    expect(body.message).toBe('"torn" could not be read: It has no pictures in it.');
  });

  it('takes no more of a shot as JSON than can be looked at', async () => {
    await waiting({ frames: 60 }, null);
    const many = `{"revision":0,"document":{},"measured":{"a":[${'1.5,'.repeat(9e6)}1]}}`;
    expect(await server.call('PUT', '/clips/slow/shot', many)).toMatchObject({
      status: 413,
      body: { code: 'too-large' },
    });
  });

  it('keeps what was done on it when it has been read; what its container promised too much is left out', async () => {
    await start();
    await server.upload('valley.mp4', bytes[0]);
    const { id, info } = await ready('valley');
    // As if it had been opened by a container that told of twice the frames.
    const times = Float64Array.from({ length: 24 }, (_, i) => i / 25);
    await server.database.write((db) =>
      db
        .update(clips)
        .set({ status: 'reading', info: { ...info!, frames: 24 }, times: Buffer.from(times.buffer) })
        .where(eq(clips.id, id)),
    );
    const { body } = await server.call('GET', `/clips/${id}/shot`);
    const document = { ...(body.document as ShotDocument), ref: 20 };
    expect(document.range.to).toBe(23);
    await server.call('PUT', `/clips/${id}/shot`, { revision: 0, document, measured: {} });
    await server.stop();
    await start();
    expect(await ready('valley')).toMatchObject({ status: 'ready', info: { frames: 12 } });
    const after = (await server.call('GET', `/clips/${id}/shot`)).body;
    expect(after).toMatchObject({ document: { ref: 11, range: { from: 0, to: 11 } } });
  });

  it('is played from parts once it has been copied', async () => {
    await start();
    const file = join(made, 'odd.avi');
    const source = ['-f', 'lavfi', '-i', 'testsrc2=size=160x120:rate=25:duration=1.6', '-c:v', 'mjpeg'];
    await promisify(execFile)(await ffmpegPath(), ['-y', '-v', 'error', ...source, file]);
    await server.upload('odd.avi', await readFile(file));
    const clip = await ready('odd');
    expect(clip).toMatchObject({ usesCopy: true, there: 40, made: { copy: { width: 160, part: 24 } } });
    for (const [part, status] of [
      [0, 200],
      [1, 200],
      [2, 404],
    ]) {
      const answer = await fetch(`${server.url}/api/clips/${clip.id}/copy/${part}`);
      expect(answer.status).toBe(status);
      if (status === 200) expect(answer.headers.get('content-type')).toBe('video/mp4');
    }
    const row = await fetch(`${server.url}/api/clips/${clip.id}/film/0`);
    expect([row.status, row.headers.get('content-type')]).toEqual([200, 'image/jpeg']);
  });
});

describe('a clip', () => {
  it('that is deleted while it waits, and brought back, is read', async () => {
    await start();
    await server.upload('first.mp4', bytes[0]);
    await server.upload('second.mp4', bytes[1]);
    const second = (await server.clip('second'))!;
    expect((await server.call('DELETE', `/clips/${second.id}`)).status).toBe(204);
    await ready('first');
    expect(await server.clip('second')).toBeUndefined();
    expect((await server.call('POST', `/clips/${second.id}/restore`)).status).toBe(200);
    expect(await ready('second')).toMatchObject({ status: 'ready', info: { frames: 12 } });
  });

  it('that somebody opens is the next to be read', async () => {
    await start();
    const names = ['a', 'b', 'c'];
    for (const [i, id] of names.entries()) {
      await server.addClip(id, {}, { status: 'reading', createdAt: `2026-01-0${i + 1}T00:00:00Z` });
      const held = { state: 'waiting', notBefore: Date.now() + 1e6, createdAt: i } as const;
      await server.database.write((db) => db.insert(jobs).values({ id, kind: 'read', subject: id, ...held }));
    }
    const order = async () =>
      (await server.database.read.select().from(jobs).orderBy(jobs.createdAt)).map((j) => j.subject);
    expect(await order()).toEqual(['a', 'b', 'c']);
    expect((await server.call('POST', '/clips/c/first')).status).toBe(204);
    expect(await order()).toEqual(['c', 'a', 'b']);
    expect((await server.call('POST', '/clips/none/first')).status).toBe(404);
  });

  it('can be opened soon though it waits for others to be read', async () => {
    await start();
    // Nothing is read before it can be opened.
    const claim = jest.spyOn(server.app.get(JobStore), 'claim').mockResolvedValue(null);
    await server.upload('valley.mp4', bytes[0]);
    const waiting = await server.until(async () => {
      const clip = await server.clip('valley');
      return clip?.info && clip;
    });
    expect(waiting).toMatchObject({ status: 'reading', info: { frames: 12, width: 160, height: 120 } });
    expect((await server.call('GET', `/clips/${waiting.id}/shot`)).status).toBe(200);
    claim.mockRestore();
    server.app.get(JobRunner).look();
    expect(await ready('valley')).toMatchObject({ status: 'ready' });
  });

  it('that was being read when the server ended is read at the next start', async () => {
    await start();
    await server.upload('valley.mp4', bytes[0]);
    await server.stop();
    await start();
    expect(await ready('valley')).toMatchObject({ status: 'ready', info: { frames: 12 } });
  });

  it('that was uploaded again after it was deleted is back, under its own name', async () => {
    await start();
    await server.upload('valley.mp4', bytes[0]);
    const { id } = await ready('valley');
    await server.call('DELETE', `/clips/${id}`);
    expect((await server.upload('other.mp4', bytes[0])).body).toMatchObject({
      id,
      name: 'valley',
      duplicate: true,
    });
    expect(await server.clip('valley')).toMatchObject({ status: 'ready' });
  });

  it('whose file has gone is whole again when the file is brought in again', async () => {
    await start();
    await server.upload('valley.mp4', bytes[0]);
    const { id } = await ready('valley');
    await rm(server.settings.clipFolder(id), { recursive: true });
    expect((await server.call('GET', `/clips/${id}/file`)).status).toBe(410);
    expect((await server.upload('valley.mp4', bytes[0])).body).toMatchObject({ id, duplicate: false });
    expect((await server.call('GET', `/clips/${id}/file`)).status).toBe(200);
  });

  it('that was deleted more than seven days ago goes for good, with its files', async () => {
    await start();
    await server.upload('valley.mp4', bytes[0]);
    const { id } = await ready('valley');
    await server.call('DELETE', `/clips/${id}`);
    const longAgo = new Date(Date.now() - 8 * 24 * 3600 * 1000).toISOString();
    await server.database.write((db) => db.update(clips).set({ deletedAt: longAgo }).where(eq(clips.id, id)));
    await server.stop();
    await start();
    expect((await server.call('POST', `/clips/${id}/restore`)).status).toBe(404);
    expect(await readdir(join(folder.data, 'clips'))).toEqual([]);
  });

  it('waits for room when the disk is full, says so, and goes on', async () => {
    await start();
    const full = Object.assign(new Error('no space left on device'), { code: 'ENOSPC' });
    const reading = jest.spyOn(server.app.get(Reading) as never, 'read' as never);
    reading.mockRejectedValueOnce(full as never);
    await server.upload('valley.mp4', bytes[0]);
    const waiting = await server.until(async () => {
      const clip = await server.clip('valley');
      return clip?.error ? clip : null;
    });
    expect(waiting).toMatchObject({ status: 'reading', error: { code: 'disk-full' } });
    await server.lookAgain();
    expect(await ready('valley')).toMatchObject({ status: 'ready', error: null });
  });

  it('is looked at as a whole on its own where that was left out, or cut short, when it was read', async () => {
    await start();
    await server.upload('valley.mp4', bytes[0]);
    const known = await server.until(async () => {
      const clip = await server.clip('valley');
      return clip && clip.shakiness !== null && clip;
    });
    const { id } = known;
    const { scene: _scene, unheld: _unheld, ...without } = known.made!;
    await server.database.write((db) =>
      db.update(clips).set({ made: without, shakiness: null }).where(eq(clips.id, id)),
    );
    // As a server leaves it that ended after the clip was ready.
    await server.app.get(JobRunner).add('read', id);
    const again = await server.until(async () => {
      const clip = await server.clip('valley');
      return clip && clip.shakiness !== null && clip;
    });
    expect(again.made).toEqual(known.made);
    expect(again.status).toBe('ready');
    expect(again.made!.scene ?? again.made!.unheld).toBeTruthy();
  });

  it('whose look at the whole has gone from the disk gets it anew when it is asked for', async () => {
    await start();
    // A still picture with texture, seen through a crop that shakes.
    const surface = '128+50*sin(X/5+Y/17)*cos(Y/6)+40*sin(X*Y/400)';
    await promisify(execFile)(await ffmpegPath(), [
      ...['-y', '-v', 'error', '-f', 'lavfi'],
      ...['-i', `nullsrc=size=400x220:rate=25:duration=1,format=gray,geq=lum='${surface}'`],
      ...['-vf', 'crop=320:180:20+4*mod(n\\,3):10+2*mod(n\\,2)', '-frames:v', '16'],
      ...['-pix_fmt', 'yuv420p', '-crf', '5', join(made, 'texture.mp4')],
    ]);
    await server.upload('valley.mp4', await readFile(join(made, 'texture.mp4')));
    const whole = () =>
      server.until(async () => {
        const clip = await server.clip('valley');
        return clip?.made?.scene && clip.shakiness !== null && clip;
      });
    const { id } = await whole();
    await rm(join(server.settings.clipFolder(id), 'scene.bin'));
    expect((await server.call('GET', `/clips/${id}/scene`)).status).toBe(404);
    await whole();
    expect((await server.call('GET', `/clips/${id}/scene`)).status).toBe(200);
  });

  it('with sound gives it alone, once it is asked for; one without says that it has none', async () => {
    await start();
    await server.upload('valley.mp4', bytes[0]);
    const { id } = await ready('valley');
    expect(await server.call('GET', `/clips/${id}/sound`)).toMatchObject({
      status: 404,
      body: { code: 'no-sound' },
    });
  });
});
