import { copyFile, mkdir, readFile, readdir, writeFile } from 'node:fs/promises';
import { csvParse } from 'd3-dsv';
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

  it('refuses to write into what it watches, and a folder that is not there', async () => {
    expect(await lurn('watch', at('in'), '--out', at('in'))).toMatchObject({ status: 1 });
    expect(await lurn('watch', at('nowhere'), '--out', at('out'))).toMatchObject({ status: 1 });
    expect(await lurn('watch', at('in'))).toMatchObject({ status: 2 });
  });
});
