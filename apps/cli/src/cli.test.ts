import { execFile } from 'node:child_process';
import { link, mkdir, mkdtemp, readdir, readFile, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { ffmpegPath, indexClip } from '@lurn/engine';
import { run } from './run.js';

const exec = promisify(execFile);
let folder: string;
const at = (name: string) => join(folder, name);

async function lurn(...argv: string[]): Promise<{ status: number; out: string; err: string }> {
  let out = '';
  let err = '';
  const signal = new AbortController().signal;
  const status = await run(argv, { signal, out: (t) => (out += t), err: (t) => (err += t), progress: false });
  return { status, out, err };
}

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-cli-'));
  // A still test picture seen through a crop that shakes by whole pixels, so that the motion is known.
  const surface = '128+50*sin(X/5+Y/17)*cos(Y/6)+40*sin(X*Y/400)';
  const crop = 'crop=320:180:20+4*mod(n\\,3):10+2*mod(n\\,2)';
  await exec(await ffmpegPath(), [
    ...[
      '-y',
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      `nullsrc=size=400x220:rate=25:duration=1,format=gray,geq=lum='${surface}'`,
    ],
    ...[
      '-vf',
      crop,
      '-frames:v',
      '12',
      '-c:v',
      'libx264',
      '-pix_fmt',
      'yuv420p',
      '-crf',
      '5',
      at('clip.mp4'),
    ],
  ]);
  await writeFile(
    at('spots.json'),
    JSON.stringify({
      spots: [
        { name: 'left', frame: 0, x: 120, y: 90, patch: [12, 12], reach: [14, 12] },
        { name: 'right', frame: 5, x: 190, y: 88, patch: [12, 12], reach: [14, 12] },
      ],
    }),
  );
});
afterAll(() => rm(folder, { recursive: true, force: true }));

describe('lurn track', () => {
  it('writes every sample, forwards and backwards from each spot’s own frame', async () => {
    const { status, out } = await lurn(
      'track',
      at('clip.mp4'),
      '--spots',
      at('spots.json'),
      '--out',
      at('tracks.csv'),
      '--json',
    );
    expect(status).toBe(0);
    expect(JSON.parse(out)).toMatchObject({
      frames: 12,
      spots: [
        { name: 'left', samples: 12 },
        { name: 'right', samples: 12 },
      ],
      stopped: [],
    });
    const rows = (await readFile(at('tracks.csv'), 'utf8'))
      .trim()
      .split('\n')
      .slice(1)
      .map((r) => r.split(','));
    for (const [name, frame0, x0, y0] of [
      ['left', 0, 120, 90],
      ['right', 5, 190, 88],
    ] as const) {
      for (const [, frame, time, x, y] of rows.filter((r) => r[0] === name)) {
        const f = Number(frame);
        expect(Number(time)).toBeCloseTo(f / 25, 5);
        expect(Math.abs(Number(x) - (x0 + 4 * (frame0 % 3) - 4 * (f % 3)))).toBeLessThan(0.1);
        expect(Math.abs(Number(y) - (y0 + 2 * (frame0 % 2) - 2 * (f % 2)))).toBeLessThan(0.1);
      }
    }
  });
});

describe('lurn track with options', () => {
  it('keeps pins where they are, follows the picture between them, and matches on another channel', async () => {
    const at7 = { x: 120 + 4 * (0 % 3) - 4 * (7 % 3), y: 90 - 2 * (7 % 2) };
    const spot = { name: 'left', frame: 0, x: 120, y: 90, patch: [12, 12], reach: [14, 12] };
    const options = { channel: 'green', detail: 0.5, allow: 'shift', refresh: 'never', lowMatch: 'stop' };
    const spots = [{ ...spot, ...options, minConfidence: 0.1, pins: [{ frame: 7, ...at7 }] }];
    await writeFile(at('pinned.json'), JSON.stringify({ spots }));
    const { status, out, err } = await lurn('track', at('clip.mp4'), '--spots', at('pinned.json'));
    expect([status, err]).toEqual([0, '']);
    const rows = out
      .trim()
      .split('\n')
      .slice(1)
      .map((r) => r.split(','));
    expect(rows).toHaveLength(12);
    expect(rows.filter((r) => r[6] === 'pinned').map((r) => r[1])).toEqual(['0', '7']);
    for (const [, frame, , x, y] of rows) {
      const f = Number(frame);
      expect(Math.abs(Number(x) - (120 - 4 * (f % 3)))).toBeLessThan(0.15);
      expect(Math.abs(Number(y) - (90 - 2 * (f % 2)))).toBeLessThan(0.15);
    }
  });

  it('refuses what an option cannot be, by its name', async () => {
    const spots = [{ name: 'left', frame: 0, x: 120, y: 90, lowMatch: 'panic' }];
    await writeFile(at('odd.json'), JSON.stringify({ spots }));
    const { status, err } = await lurn('track', at('clip.mp4'), '--spots', at('odd.json'));
    expect([status, err]).toEqual([
      1,
      expect.stringContaining('spots[0].lowMatch must be one of coast, stop, carryOn, not "panic"'),
    ]);
  });
});

describe('lurn steady', () => {
  it('renders and writes the motion', async () => {
    const { status, out } = await lurn(
      ...[
        'steady',
        at('clip.mp4'),
        '--tracks',
        at('tracks.csv'),
        '--goal',
        'still',
        '--use',
        'x,y',
        '--fit-zoom',
      ],
      ...['--motion', at('motion.json'), '--out', at('steady.mp4'), '--json'],
    );
    expect(status).toBe(0);
    const result = JSON.parse(out) as Record<string, number>;
    expect(result.shake_before_px).toBeGreaterThan(2);
    expect(result.shake_after_px).toBeLessThan(0.1);
    expect(result.zoom).toBeCloseTo(1 / (1 - 16 / 320), 2);
    const motion = JSON.parse(await readFile(at('motion.json'), 'utf8')) as {
      frames: { motion: number[] }[];
      zoom: number;
    };
    expect(motion.frames).toHaveLength(12);
    expect(motion.frames[2].motion[2]).toBeCloseTo(-8, 0);
    expect((await indexClip(at('steady.mp4'))).info).toMatchObject({ frames: 12, width: 320, height: 180 });
  });

  it('calms: the smoothed course, or one that keeps a zoom limit', async () => {
    const steady = async (...more: string[]) => {
      const argv = [
        'steady',
        at('clip.mp4'),
        '--tracks',
        at('tracks.csv'),
        '--goal',
        'calm',
        '--json',
        ...more,
      ];
      const { status, out, err } = await lurn(...argv);
      expect([status, err]).toEqual([0, '']);
      return JSON.parse(out) as Record<string, number>;
    };
    const weak = await steady('--smooth', '0');
    expect(weak.shake_before_px).toBeLessThan(0.1); // all of it is taken for meant
    expect(weak.fit_zoom).toBeCloseTo(1, 2);
    const strong = await steady('--smooth', '0.4', '--fit-zoom');
    expect(strong.shake_before_px).toBeGreaterThan(2);
    expect(strong.shake_after_px).toBeLessThan(0.15);
    expect(strong.zoom).toBeGreaterThan(1.01);
    const limited = await steady('--smooth', '0.4', '--max-zoom', '1.02', '--fit-zoom');
    expect(limited.zoom).toBeLessThanOrEqual(1.02);
    expect(limited.shake_after_px).toBeLessThan(strong.shake_before_px);
  });

  it('locks the subject and mirrors what lies beyond the edges', async () => {
    const { status, out } = await lurn(
      ...['steady', at('clip.mp4'), '--tracks', at('tracks.csv'), '--goal', 'lock', '--ref', '4'],
      ...['--edges', 'mirrored', '--out', at('locked.mp4'), '--json'],
    );
    expect(status).toBe(0);
    const result = JSON.parse(out) as Record<string, number>;
    expect(result.shake_after_px).toBeLessThan(0.1);
    expect(result.edge_frames).toBeGreaterThan(4);
    expect((await indexClip(at('locked.mp4'))).info.frames).toBe(12);
  });
});

describe('outputs', () => {
  const bytes = (name: string) => readFile(at(name));

  it('are never written over an input, by whatever name', async () => {
    const before = await bytes('clip.mp4');
    await symlink(at('clip.mp4'), at('alias.mp4'));
    await link(at('clip.mp4'), at('twin.mp4'));
    for (const out of ['clip.mp4', 'alias.mp4', 'twin.mp4', '../' + folder.split('/').pop()! + '/clip.mp4']) {
      const { status, err } = await lurn(
        'track',
        at('clip.mp4'),
        '--marks',
        at('spots.json'),
        '--out',
        at(out),
      );
      expect([status, err]).toEqual([1, expect.stringMatching(/that is the clip, which would be lost/)]);
    }
    const marks = await lurn('track', at('clip.mp4'), '--marks', at('spots.json'), '--out', at('spots.json'));
    expect([marks.status, marks.err]).toEqual([1, expect.stringContaining('the file of marks')]);
    const tracks = ['steady', at('clip.mp4'), '--tracks', at('tracks.csv'), '--goal', 'still'];
    expect((await lurn(...tracks, '--motion', at('tracks.csv'))).status).toBe(1);
    const same = await lurn(...tracks, '--motion', at('both'), '--out', at('both'));
    expect([same.status, same.err]).toEqual([1, expect.stringContaining('that is --motion')]);
    expect(await bytes('clip.mp4')).toEqual(before);
  });

  it('need a folder to be in, and are no folder themselves', async () => {
    await mkdir(at('folder'));
    for (const out of [at('folder'), at('nowhere/x.csv'), 'http://127.0.0.1:1/x.mp4']) {
      const { status, err } = await lurn('track', at('clip.mp4'), '--marks', at('spots.json'), '--out', out);
      expect([status, err.trim().split('\n')]).toEqual([1, [expect.stringContaining('--out')]]);
    }
  });

  it('may be called anything that a file may', async () => {
    const steady = ['steady', at('clip.mp4'), '--tracks', at('tracks.csv'), '--goal', 'still', '--to', '3'];
    const here = process.cwd();
    process.chdir(folder);
    try {
      for (const name of ['-x.mp4', 'a:b.mp4', 'sp ace.mp4']) {
        expect(await lurn(...steady, `--out=${name}`)).toMatchObject({ status: 0, err: '' });
        expect((await indexClip(at(name))).info.frames).toBe(4);
      }
    } finally {
      process.chdir(here);
    }
    expect((await readdir(folder)).filter((f) => f.includes('.part'))).toEqual([]);
  });

  it('in a format with alpha leave the edges open', async () => {
    const { status } = await lurn(
      ...['steady', at('clip.mp4'), '--tracks', at('tracks.csv'), '--goal', 'still', '--to', '3'],
      ...['--edges', 'transparent', '--format', 'prores-4444-mov', '--out', at('open.mov')],
    );
    expect(status).toBe(0);
    expect((await indexClip(at('open.mov'))).info.codec).toBe('prores');
  });

  it('that can be written are listed', async () => {
    const { out } = await lurn('formats', '--json');
    expect(JSON.parse(out)).toContainEqual(
      expect.objectContaining({ id: 'h264-mp4', extension: 'mp4', depths: [8], alpha: false, sound: true }),
    );
    expect((await lurn('formats')).out).toContain('prores-4444-mov');
  });
});

describe('what goes wrong', () => {
  it('a spot that is lost is told of, though the rest is written', async () => {
    const spots = [
      { name: 'left', frame: 0, x: 120, y: 90, patch: [12, 12], reach: [14, 12] },
      {
        name: 'rim',
        frame: 0,
        x: 4,
        y: 90,
        patch: [12, 12],
        reach: [2, 2],
        lowMatch: 'stop',
        minConfidence: 1,
      },
    ];
    await writeFile(at('rim.json'), `\uFEFF${JSON.stringify({ spots })}`);
    const { status, err, out } = await lurn('track', at('clip.mp4'), '--marks', at('rim.json'), '--shape');
    expect(status).toBe(0);
    expect(err).toMatch(/^lurn: note: "rim"/);
    expect(out.split('\n')[0]).toMatch(/,turn_deg,scale_pct$/);
  });

  it('stopped by the person ends with 130 and leaves no file', async () => {
    let err = '';
    const stopped = AbortSignal.abort();
    const argv = ['track', at('clip.mp4'), '--marks', at('spots.json'), '--out', at('never.csv')];
    const io = { signal: stopped, out: () => undefined, err: (t: string) => (err += t), progress: false };
    expect(await run(argv, io)).toBe(130);
    expect(err).toBe('lurn: stopped.\n');
    expect(await readdir(folder)).not.toContain('never.csv');
  });

  it.each([
    [['dance', 'clip.mp4'], /"dance" is not a command/],
    [['track', 'clip.mp4'], /needs --marks/],
    [['track', 'clip.mp4', '--spots', 's', '--goal', 'still'], /track has no option --goal/],
    [
      ['steady', 'clip.mp4', '--spots', 's', '--goal', 'float'],
      /--goal float is not one of still, calm, lock/,
    ],
    [
      ['steady', 'clip.mp4', '--spots', 's', '--goal', 'still', '--smooth', '2'],
      /--smooth belongs to --goal calm/,
    ],
    [
      ['steady', 'clip.mp4', '--spots', 's', '--goal', 'calm', '--smooth', 'long'],
      /--smooth must be a number/,
    ],
    [['steady', 'clip.mp4', '--spots', 's', '--goal', 'calm', '--max-zoom', '0.5'], /from 1 to 4, not "0.5"/],
    [
      ['steady', 'clip.mp4', '--spots', 's', '--goal', 'still', '--edges', 'torn'],
      /--edges torn is not one of/,
    ],
    [
      ['steady', 'clip.mp4', '--spots', 's', '--goal', 'still', '--edges', 'transparent'],
      /a --format with alpha/,
    ],
    [
      ['steady', 'clip.mp4', '--auto', '--marks', 's', '--goal', 'still'],
      /one of --marks, --tracks and --auto/,
    ],
    [['steady', 'clip.mp4', '--goal', 'still'], /one of --marks, --tracks and --auto/],
    [['steady', 'clip.mp4', '--marks', 's', '--hold', 'a', '--goal', 'still'], /--hold belongs to --auto/],
    [['suggest', 'clip.mp4', '--count', '0'], /--count must be 1 or more/],
    [['suggest', 'clip.mp4', '--ref', '2'], /suggest has no option --ref/],
    [['movers', 'clip.mp4', '--marks', 's'], /movers has no option --marks/],
    [['steady', 'clip.mp4', '--spots', 's', '--goal', 'still', '--ref', '-3', '--json'], /ref/],
    [['steady', 'clip.mp4', '--spots', 's', '--goal', 'still', '--use', 'x,tilt', '--json'], /not "tilt"/],
    [['track', 'clip.mp4', '--spots', 's', '--shiny'], /shiny/],
    [['track', 'clip.mp4', '--spots', 's', '--marks', 's'], /another name of --marks/],
    [['track', 'clip.mp4', '--marks', 's', '--corners', 'c.csv'], /--corners is not built yet/],
    [['steady', 'clip.mp4', '--marks', 's', '--goal', 'still'], /nothing to write/],
    [
      ['steady', 'clip.mp4', '--marks', 's', '--goal', 'still', '--out', 'o', '--format', 'tape'],
      /--format tape/,
    ],
    [['hand-over', 'clip.mp4'], /hand-over is not built yet/],
  ])('usage: %j ends with 2', async (argv, message) => {
    const { status, out, err } = await lurn(...argv);
    expect([status, out]).toEqual([2, '']);
    expect(err).toMatch(message);
    expect(err.trim().split('\n')).toHaveLength(1);
  });

  it('input at fault ends with 1 and one line that says what and where', async () => {
    const gone = await lurn('track', at('gone.mp4'), '--spots', at('spots.json'));
    expect([gone.status, gone.err]).toEqual([
      1,
      expect.stringMatching(/^lurn: "gone.mp4" is not there any more.*\n$/),
    ]);
    await writeFile(at('bad.json'), '{"spots":[{"name":"a","frame":0,"x":9999,"y":1}]}');
    const bad = await lurn('track', at('clip.mp4'), '--spots', at('bad.json'));
    expect([bad.status, bad.err]).toEqual([
      1,
      expect.stringContaining('spots[0].x must be a number from 0 to 320, not 9999'),
    ]);
    const ref = await lurn(
      'steady',
      at('clip.mp4'),
      '--tracks',
      at('tracks.csv'),
      '--goal',
      'still',
      '--ref',
      '12',
      '--json',
    );
    expect([ref.status, ref.err]).toEqual([1, expect.stringContaining('past the clip')]);
  });

  it('help ends with 0', async () => {
    expect(await lurn('--help')).toMatchObject({
      status: 0,
      out: expect.stringContaining('lurn track CLIP'),
    });
  });
});

describe('the whole picture', () => {
  /** Where the crop of a frame lies against that of frame 0. */
  const moved = (frame: number) => [-4 * (frame % 3), -2 * (frame % 2)];

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
    told.movers[0].motion.forEach((m, f) => {
      const [x, y] = moved(f);
      expect(Math.hypot(m[2] - x, m[5] - y)).toBeLessThan(0.3);
      expect(m[0] * 160 + m[1] * 90 + m[2] - 160).toBeCloseTo(x, 0);
    });
    expect(JSON.parse(await readFile(at('movers.json'), 'utf8'))).toEqual(told);
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
