import { readdir, readFile, writeFile } from 'node:fs/promises';
import { readExr } from '@lurn/core/formats';
import { unzipSync } from 'fflate';
import { at, clearUp, lurn, setOut } from './testing/try-out.js';

interface Motion {
  readonly clip: object;
  readonly frames: { readonly motion: number[]; readonly correction: number[] }[];
}
const motionIn = async (name: string) => JSON.parse(await readFile(at(name), 'utf8')) as Motion;

beforeAll(async () => {
  await setOut();
  await lurn('track', at('clip.mp4'), '--marks', at('spots.json'), '--out', at('tracks.csv'));
  const steady = ['steady', at('clip.mp4'), '--tracks', at('tracks.csv'), '--goal', 'still'];
  await lurn(...steady, '--motion', at('motion.json'));
});
afterAll(clearUp);

const handOver = (from: string, as: string, out: string, ...more: string[]) =>
  lurn('hand-over', at(from), '--as', as, '--out', at(out), ...more);

describe('data handed over', () => {
  it('comes back as the same numbers through a timeline and a table', async () => {
    expect(await handOver('motion.json', 'otio', 'motion.otio')).toMatchObject({
      status: 0,
      out: '',
      err: '',
    });
    await handOver('motion.otio', 'csv', 'motion.csv', '--origin', 'centre', '--y', 'up', '--first', '1001');
    const back = await handOver(
      ...(['motion.csv', 'json', 'again.json', '--in-origin', 'centre', '--in-y', 'up'] as const),
      ...['--in-first', '1001', '--size', '320x180', '--fps', '25', '--json'],
    );
    expect(JSON.parse(back.out)).toMatchObject({ as: 'json', kind: 'motion', files: 1 });
    const [a, b] = [await motionIn('motion.json'), await motionIn('again.json')];
    expect(b.frames).toHaveLength(a.frames.length);
    a.frames.forEach((f, k) =>
      [...f.motion, ...f.correction].forEach((v, c) =>
        expect(Math.abs([...b.frames[k].motion, ...b.frames[k].correction][c] - v)).toBeLessThan(1e-6),
      ),
    );
  });

  it('tells spots with time codes, from 1', async () => {
    await handOver('tracks.csv', 'csv', 'told.csv', '--first', '1', '--time', 'timecode', '--fps', '25');
    const rows = (await readFile(at('told.csv'), 'utf8')).split('\n');
    expect(rows[0]).toBe('spot,frame,timecode,x_px,y_px,confidence,state');
    expect(rows[1]).toMatch(/^left,1,00:00:00:00,120,90,/);
  });

  it('writes ST maps into a zip or a folder', async () => {
    const zip = await handOver('motion.json', 'st-png', 'maps.zip', '--json');
    expect(JSON.parse(zip.out)).toMatchObject({ files: 24 });
    const names = Object.keys(unzipSync(await readFile(at('maps.zip'))));
    expect(names).toHaveLength(24);
    expect(names.slice(0, 2)).toEqual(['steady/000000.png', 'back/000000.png']);
    expect((await handOver('motion.json', 'st-exr', 'maps')).status).toBe(0);
    expect(await readdir(at('maps/back'))).toHaveLength(12);
    const map = readExr(await readFile(at('maps/steady/000001.exr')));
    const { correction } = (await motionIn('motion.json')).frames[1];
    // Without a zoom, where a place of the result comes from is off by what was taken out.
    expect(map.channels.R[90 * 320 + 160] * 320 - 160.5).toBeCloseTo(-correction[2], 0);
  });

  it.each([
    ['tracks.csv', ['csv', 'o.csv', '--origin', 'centre'], /needs the picture's size/],
    ['tracks.csv', ['st-png', 'o.zip'], /cannot tell of tracks/],
    ['clip.mp4', ['json', 'o.json'], /cannot be read: line 1: the columns/],
    ['motion.json', ['json', 'motion.json'], /that is the data file/],
    ['motion.json', ['st-png', 'gone/maps.zip'], /there is no folder/],
  ] as const)('refuses %s as %j with what is missing', async (from, [as, out, ...more], why) => {
    const { status, err } = await handOver(from, as, out, ...more);
    expect([status, err]).toEqual([1, expect.stringMatching(why)]);
  });

  it('names the frame that is broken, and leaves nothing behind', async () => {
    const broken = await motionIn('motion.json');
    broken.frames[3].motion.pop();
    await writeFile(at('broken.json'), JSON.stringify(broken));
    const { status, err } = await handOver('broken.json', 'css', 'broken.css');
    expect([status, err]).toEqual([1, expect.stringMatching(/frame 3, motion: 9 numbers are due/)]);
    expect(await readdir(at('.'))).not.toContain('broken.css');
  });
});
