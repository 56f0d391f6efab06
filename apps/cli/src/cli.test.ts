import { link, mkdir, readdir, readFile, symlink, writeFile } from 'node:fs/promises';
import { indexClip } from '@lurn/engine';
import { basename } from 'node:path';
import { run } from './run.js';
import { at, clearUp, lurn, setOut } from './testing/try-out.js';

beforeAll(async () => {
  await setOut();
  await lurn('track', at('clip.mp4'), '--marks', at('spots.json'), '--out', at('tracks.csv'));
});
afterAll(clearUp);

describe('outputs', () => {
  const bytes = (name: string) => readFile(at(name));

  it('are never written over an input, by whatever name', async () => {
    const before = await bytes('clip.mp4');
    await symlink(at('clip.mp4'), at('alias.mp4'));
    await link(at('clip.mp4'), at('twin.mp4'));
    for (const out of ['clip.mp4', 'alias.mp4', 'twin.mp4', '../' + basename(at('.')) + '/clip.mp4']) {
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
    process.chdir(at('.'));
    try {
      for (const name of ['-x.mp4', 'a:b.mp4', 'sp ace.mp4']) {
        expect(await lurn(...steady, `--out=${name}`)).toMatchObject({ status: 0, err: '' });
        expect((await indexClip(at(name))).info.frames).toBe(4);
      }
    } finally {
      process.chdir(here);
    }
    expect((await readdir(at('.'))).filter((f) => f.includes('.part'))).toEqual([]);
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
    expect(await readdir(at('.'))).not.toContain('never.csv');
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
      /one of --marks, --tracks, --auto and --shot/,
    ],
    [['steady', 'clip.mp4', '--goal', 'still'], /one of --marks, --tracks, --auto and --shot/],
    [
      ['steady', 'clip.mp4', '--tracks', 's', '--hold', 'a', '--goal', 'still'],
      /--hold belongs to --auto or --marks/,
    ],
    [['suggest', 'clip.mp4', '--count', '0'], /--count must be 1 or more/],
    [['suggest', 'clip.mp4', '--ref', '2'], /suggest has no option --ref/],
    [['movers', 'clip.mp4', '--marks', 's'], /movers has no option --marks/],
    [['steady', 'clip.mp4', '--spots', 's', '--goal', 'still', '--ref', '-3', '--json'], /ref/],
    [['steady', 'clip.mp4', '--spots', 's', '--goal', 'still', '--use', 'x,tilt', '--json'], /not "tilt"/],
    [['track', 'clip.mp4', '--spots', 's', '--shiny'], /shiny/],
    [['track', 'clip.mp4', '--spots', 's', '--marks', 's'], /another name of --marks/],
    [['steady', 'clip.mp4', '--auto', '--goal', 'still', '--mesh', 'm.json'], /steady has no option --mesh/],
    [['steady', 'clip.mp4', '--marks', 's', '--goal', 'still'], /nothing to write/],
    [
      ['steady', 'clip.mp4', '--marks', 's', '--goal', 'still', '--out', 'o', '--format', 'tape'],
      /--format tape/,
    ],
    [['hand-over'], /hand-over needs MOTION.json/],
    [['hand-over', 'm.json'], /needs --as NAME/],
    [['hand-over', 'm.json', '--as', 'tape', '--out', 'o'], /--as tape is not one of csv, json/],
    [['hand-over', 'm.json', '--as', 'csv'], /give --out/],
    [['hand-over', 'm.json', '--as', 'css', '--out', 'o', '--origin', 'centre'], /means nothing to css/],
    [['hand-over', 'm.json', '--as', 'csv', '--out', 'o', '--y', 'left'], /--y left is not one of down, up/],
    [['hand-over', 'm.json', '--as', 'csv', '--out', 'o', '--size', '0x4'], /must be as 1920x1080/],
    [['hand-over', 'm.json', '--as', 'csv', '--out', 'o', '--fps', '0'], /--fps must be a number/],
    [
      ['hand-over', 'm.json', '--as', 'csv', '--out', 'o', '--goal', 'still'],
      /hand-over has no option --goal/,
    ],
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
      out: expect.stringContaining('track [options] <CLIP>'),
    });
    expect(await lurn('hand-over', '--help')).toMatchObject({
      status: 0,
      out: expect.stringContaining('--origin <WHERE>'),
    });
  });
});
