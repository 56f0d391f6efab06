import { getEventListeners } from 'node:events';
import { copyFile, mkdir, readFile, readdir, rename, utimes, writeFile } from 'node:fs/promises';
import { csvParse } from 'd3-dsv';
import { watchCommand } from './watch.js';
import { at, clearUp, lurn, setOut } from './testing/try-out.js';

beforeAll(async () => {
  await setOut();
  await mkdir(at('in'));
  await copyFile(at('clip.mp4'), at('in/valley station.mp4'));
  await writeFile(at('in/=broken.mp4'), 'this is no film');
  await writeFile(at('in/notes.txt'), 'not a clip');
}, 60_000);
afterAll(clearUp);

describe('lurn watch', () => {
  it('steadies what is there, says in the report what came of each, and does nothing twice', async () => {
    const first = await lurn('watch', at('in'), '--out', at('out'), '--goal', 'still', '--once', '--json');
    expect(first.status).toBe(0);
    expect(JSON.parse(first.out)).toMatchObject({ done: 1, failed: 1 });
    const rows = csvParse(await readFile(at('out/report.csv'), 'utf8'));
    const [broken, good] = [...rows].sort((a, b) => a.result.localeCompare(b.result)).reverse();
    expect(good).toMatchObject({
      file: 'valley station.mp4',
      result: 'done',
      out: 'valley station steady.mp4',
    });
    expect(Number(good.shake_after_px)).toBeLessThan(Number(good.shake_before_px));
    expect(broken.file).toBe("'=broken.mp4");
    expect(broken.message).toMatch(/=broken.mp4/);
    expect((await readdir(at('out'))).sort()).toEqual([
      'report.csv',
      'valley station motion.json',
      'valley station steady.mp4',
    ]);
    const again = await lurn('watch', at('in'), '--out', at('out'), '--once', '--json');
    expect(JSON.parse(again.out)).toMatchObject({ done: 0, failed: 0 });
  }, 60_000);

  it('takes clips of one name apart, and files that have changed up again, though not in size', async () => {
    await copyFile(at('clip.mp4'), at('in/valley station.mov'));
    const twin = await lurn('watch', at('in'), '--out', at('out'), '--once', '--json');
    expect(JSON.parse(twin.out)).toMatchObject({ done: 1, failed: 0 });
    expect(await readdir(at('out'))).toEqual(
      expect.arrayContaining(['valley station steady.mp4', 'valley station.mov steady.mp4']),
    );
    // Of the same size, and its content has arrived by now.
    await utimes(at('in/=broken.mp4'), new Date(), new Date(2026, 1, 1));
    const changed = await lurn('watch', at('in'), '--out', at('out'), '--once', '--json');
    expect(JSON.parse(changed.out)).toMatchObject({ done: 0, failed: 1 });
  }, 60_000);

  it('waits for its folder to come back, and tries again what failed for want of something else', async () => {
    await mkdir(at('coming'));
    await mkdir(at('results'));
    const stop = new AbortController();
    const told: string[] = [];
    const until = async (line: RegExp) => {
      while (!told.some((t) => line.test(t))) await new Promise((r) => setImmediate(r));
    };
    const args = { kind: 'watch', folder: at('coming'), out: at('results'), goal: 'still', format: 'h264-mp4' } as const; // prettier-ignore
    const watching = watchCommand(
      { ...args, crf: 30, once: false, json: false },
      {
        signal: stop.signal,
        err: (t: string) => void told.push(t),
        out: () => undefined,
        progress: false,
      },
    );
    watching.catch(() => undefined);
    await rename(at('coming'), at('gone'));
    await until(/is gone: waiting/);
    await rename(at('gone'), at('coming'));
    await until(/is there again/);
    stop.abort();
    await expect(watching).rejects.toMatchObject({ code: 'stopped' });
    expect(getEventListeners(stop.signal, 'abort')).toEqual([]);
  }, 30_000);

  it('refuses to write into what it watches, and a folder that is not there', async () => {
    expect(await lurn('watch', at('in'), '--out', at('in'))).toMatchObject({ status: 1 });
    expect(await lurn('watch', at('nowhere'), '--out', at('out'))).toMatchObject({ status: 1 });
    expect(await lurn('watch', at('in'))).toMatchObject({ status: 2 });
  });
});
