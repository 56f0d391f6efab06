import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { decode } from 'fast-png';
import { ffmpegPath } from '@lurn/engine';
import { at, clearUp, exec, lurn, moved, setOut } from './testing/try-out.js';

beforeAll(setOut);
afterAll(clearUp);

describe('the whole picture', () => {
  it('is told by lurn movers: what there is, and how it moves', async () => {
    const { status, out } = await lurn('movers', at('clip.mp4'), '--json', '--out', at('movers.json'));
    expect(status).toBe(0);
    const told = JSON.parse(out) as {
      movers: { name: string; share: number; motion: number[][] }[];
      cuts: number[];
    };
    expect(told.cuts).toEqual([]);
    expect(told.movers.map((m) => m.name)).toEqual(['surroundings']);
    expect(told.movers[0].share).toBeGreaterThan(0.9);
    expect(told.movers[0]).toMatchObject({ candidate: 1, why: expect.stringContaining('throughout') });
    told.movers[0].motion.forEach((m, f) => {
      const [x, y] = moved(f);
      expect(Math.hypot(m[2] - x, m[5] - y)).toBeLessThan(0.3);
      expect(m[0] * 160 + m[1] * 90 + m[2] - 160).toBeCloseTo(x, 0);
    });
    expect(JSON.parse(await readFile(at('movers.json'), 'utf8'))).toEqual(told);
  });

  it('is laid out in masks of its movers, a picture a frame', async () => {
    const masks = at('masks');
    const { status, out } = await lurn(
      'movers',
      at('clip.mp4'),
      '--masks',
      masks,
      '--from',
      '3',
      '--to',
      '5',
      '--json',
    );
    expect(status).toBe(0);
    const [{ id }] = (JSON.parse(out) as { movers: { id: string }[] }).movers;
    expect(await readdir(masks)).toEqual([id]);
    expect(await readdir(join(masks, id))).toEqual(['000003.png', '000004.png', '000005.png']);
    const { width, height, channels, data } = decode(await readFile(join(masks, id, '000004.png')));
    expect([width, height, channels]).toEqual([320, 180, 1]);
    // Nothing else moves: all of the picture is it.
    expect(data.filter((v) => v > 200).length).toBeGreaterThan(0.98 * 320 * 180);
  });

  it('gives masks of frames that there are, where they can be written', async () => {
    const past = await lurn('movers', at('clip.mp4'), '--masks', at('masks'), '--to', '12');
    expect([past.status, past.err]).toEqual([1, expect.stringContaining('Frames 0 to 12 are none of')]);
    const nowhere = await lurn('movers', at('clip.mp4'), '--masks', at('clip.mp4'));
    expect([nowhere.status, nowhere.err]).toEqual([1, expect.stringContaining('clip.mp4 cannot be written')]);
    const alone = await lurn('movers', at('clip.mp4'), '--from', '3');
    expect([alone.status, alone.err]).toEqual([2, expect.stringContaining('--masks')]);
  });

  it('is steadied without a mark, and says what it holds', async () => {
    const answer = await lurn(
      'steady',
      at('clip.mp4'),
      '--auto',
      '--goal',
      'still',
      '--fit-zoom',
      '--motion',
      at('auto.json'),
      '--json',
    );
    expect(answer.status).toBe(0);
    const told = JSON.parse(answer.out) as Record<string, number | string>;
    expect(told.held).toBe('surroundings');
    expect(told.candidates).toMatchObject([{ name: 'surroundings', candidate: 1 }]);
    expect(told.shake_after_px).toBeLessThan(0.2);
    expect(told.shake_before_px).toBeGreaterThan(1.5);
    const motion = JSON.parse(await readFile(at('auto.json'), 'utf8')) as {
      held: string;
      frames: { correction: number[] }[];
    };
    expect(motion.held).toBe('surroundings');
    motion.frames.forEach(({ correction: c }, f) => {
      const [x, y] = moved(f);
      // The middle of the picture goes back to where it was.
      expect(c[0] * (160 + x) + c[1] * (90 + y) + c[2]).toBeCloseTo(160, 0);
      expect(c[3] * (160 + x) + c[4] * (90 + y) + c[5]).toBeCloseTo(90, 0);
    });
  });

  it('suggests marks that lurn track follows to the end', async () => {
    const suggested = await lurn(
      'suggest',
      at('clip.mp4'),
      '--count',
      '3',
      '--frame',
      '2',
      '--out',
      at('marks.json'),
    );
    expect([suggested.status, suggested.out]).toEqual([0, '']);
    const { spots } = JSON.parse(await readFile(at('marks.json'), 'utf8')) as { spots: { frame: number }[] };
    expect(spots).toHaveLength(3);
    expect(spots.every((s) => s.frame === 2)).toBe(true);
    const tracked = await lurn('track', at('clip.mp4'), '--marks', at('marks.json'), '--json');
    const { spots: done, stopped } = JSON.parse(tracked.out) as {
      spots: { samples: number }[];
      stopped: object[];
    };
    expect(stopped).toEqual([]);
    expect(done.map((s) => s.samples)).toEqual([12, 12, 12]);
  });

  it('with nothing in it to hold, or no such mover, is refused in words', async () => {
    const black = 'color=black:size=160x120:rate=25:duration=0.4';
    await exec(await ffmpegPath(), [
      '-y',
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      black,
      '-pix_fmt',
      'yuv420p',
      at('black.mp4'),
    ]);
    await exec(await ffmpegPath(), [
      '-y',
      '-v',
      'error',
      '-i',
      at('clip.mp4'),
      '-frames:v',
      '2',
      at('two.mp4'),
    ]);
    const two = await lurn('movers', at('two.mp4'));
    expect([two.status, two.err]).toEqual([
      1,
      expect.stringContaining('The clip has only 2 frames: too few'),
    ]);
    for (const argv of [
      ['steady', at('black.mp4'), '--auto', '--goal', 'still', '--json'],
      ['movers', at('black.mp4')],
    ]) {
      const nothing = await lurn(...argv);
      expect([nothing.status, nothing.err]).toEqual([
        1,
        expect.stringContaining('Nothing in the picture can be held'),
      ]);
    }
    const nobody = await lurn(
      'steady',
      at('clip.mp4'),
      '--auto',
      '--hold',
      'nobody',
      '--goal',
      'still',
      '--json',
    );
    expect([nobody.status, nobody.err]).toEqual([
      1,
      expect.stringContaining('no mover "nobody" in this clip. It has "surroundings"'),
    ]);
  });
});
