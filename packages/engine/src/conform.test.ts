import { mkdir, readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { conform, FileFrames, fieldsOf, indexClip } from './index.js';
import { ClipFolder, picture, streams, x264 } from './testing/clips.js';

/** Pictures and interlaced clips become clips, without loss, and nothing is written where it should not be. */

let clips: ClipFolder;
beforeAll(async () => {
  clips = await ClipFolder.open();
  await mkdir(clips.at('stills'));
  await clips.make('stills/view%d.png', ...picture('64x48', 0.6));
  await clips.make('fields.ts', ...picture('320x180', 1.2), '-vf', 'interlace=scan=tff', '-c:v', 'mpeg2video', '-flags', '+ildct+ilme', '-q:v', '2'); // prettier-ignore
  await clips.make('tone.wav', '-f', 'lavfi', '-i', 'sine=duration=0.6');
  await clips.make('uneven.mp4', ...picture(), '-vf', 'select=not(mod(n\\,3))', '-vsync', 'vfr', ...x264);
}, 60_000);
afterAll(() => clips.remove());

async function zipOf(name: string, files: Readonly<Record<string, string>>): Promise<string> {
  const entries = await Promise.all(
    Object.entries(files).map(
      async ([as, file]) => [as, new Uint8Array(await readFile(clips.at(file)))] as const,
    ),
  );
  await writeFile(clips.at(name), zipSync(Object.fromEntries(entries), { level: 0 }));
  return clips.at(name);
}
const made = (path: string, out: string, rate: number | null = null) =>
  conform({ path, name: path.split('/').pop()!, out: clips.at(out), rate });

describe('film that was spread over fields', () => {
  const film = ['-f', 'lavfi', '-i', 'testsrc2=size=320x240:rate=24000/1001:duration=4'];
  const woven = ['-c:v', 'libx264', '-crf', '8', '-preset', 'veryfast', '-pix_fmt', 'yuv420p', '-flags', '+ilme+ildct', '-x264opts', 'tff=1']; // prettier-ignore

  it('becomes its own pictures again, at its own rate', async () => {
    await clips.make('film.mkv', ...film, '-pix_fmt', 'yuv420p', '-c:v', 'ffv1');
    await clips.make('telecined.mp4', ...film, '-vf', 'telecine=first_field=top:pattern=23', ...woven);
    expect((await indexClip(clips.at('telecined.mp4'))).info).toMatchObject({ frames: 120 });
    const { note } = await made(clips.at('telecined.mp4'), 'whole.mkv');
    expect(note).toBe(
      'Conformed without loss: film that was spread over fields was put together again, four pictures of five.',
    );
    const [own, back] = [await indexClip(clips.at('film.mkv')), await indexClip(clips.at('whole.mkv'))];
    expect(back.info.fps).toBeCloseTo(24000 / 1001, 3);
    expect(Math.abs(back.info.frames - own.info.frames)).toBeLessThanOrEqual(1);
    const [a, b] = [
      new FileFrames(clips.at('film.mkv'), own.info),
      new FileFrames(clips.at('whole.mkv'), back.info),
    ];
    // Where the cadence begins and ends one picture may be of two moments; in between each is the film's.
    for (let f = 4; f < 90; f += 5) {
      const [p, q] = [await a.plane(f, 'luma'), await b.plane(f, 'luma')];
      let sum = 0;
      for (let i = 0; i < p.data.length; i++) sum += Math.abs(p.data[i] - q.data[i]);
      expect(sum / p.data.length).toBeLessThan(1.5);
    }
    a.close();
    b.close();
  }, 60_000);

  it('is told from fields that are moments of their own', async () => {
    const video = ['-f', 'lavfi', '-i', 'testsrc2=size=320x240:rate=60000/1001:duration=4', '-vf', 'tinterlace=interleave_top']; // prettier-ignore
    await clips.make('video.mp4', ...video, ...woven);
    const { note } = await made(clips.at('video.mp4'), 'video.mkv');
    expect(note).toContain('its fields, the top one first, were put together');
    expect((await indexClip(clips.at('video.mkv'))).info.frames).toBe(120);
  }, 60_000);
});

describe('pictures', () => {
  it('of a folder follow one another by their numbers, at the rate, bit for bit', async () => {
    const { note } = await made(clips.at('stills'), 'stills.mkv', 24);
    expect(note).toBe('15 pictures at 24 a second.');
    const { info } = await indexClip(clips.at('stills.mkv'));
    expect(info).toMatchObject({ frames: 15, fps: 24, width: 64, height: 48 });
    await clips.make('back%d.png', '-i', clips.at('stills.mkv'), '-start_number', '1');
    for (const n of [1, 2, 10, 15]) {
      const raw = async (file: string, name: string) => {
        await clips.make(name, '-i', clips.at(file), '-f', 'rawvideo', '-pix_fmt', 'rgb24');
        return readFile(clips.at(name));
      };
      expect((await raw(`back${n}.png`, 'a.raw')).equals(await raw(`stills/view${n}.png`, 'b.raw'))).toBe(
        true,
      );
    }
  });

  it('of a zip come with the sound that lies beside them', async () => {
    const zip = await zipOf('pack.zip', { 'a/2.png': 'stills/view2.png', 'a/10.png': 'stills/view10.png', 'a/t.wav': 'tone.wav', '__MACOSX/._x.png': 'tone.wav' }); // prettier-ignore
    const { note } = await made(zip, 'pack.mkv');
    expect(note).toBe('2 pictures at 25 a second, as nothing said otherwise, with their sound.');
    expect((await streams(clips.at('pack.mkv'))).map((s) => s.codec_type)).toEqual(['video', 'audio']);
  });

  it.each([
    ['a zip with paths outside', { '../../evil.png': 'stills/view1.png' }, 'bad-zip', /relative path/],
    [
      'pictures of two sizes',
      { '1.png': 'stills/view1.png', '2.png': 'other.png' },
      'uneven-pictures',
      /"2.png" is 32 x 20/,
    ],
    [
      'pictures of two kinds',
      { '1.png': 'stills/view1.png', '2.jpg': 'other.jpg' },
      'uneven-pictures',
      /"2.jpg"/,
    ],
    [
      'a broken picture',
      { '1.png': 'stills/view1.png', '2.png': 'tone.wav' },
      'uneven-pictures',
      /"2.png" cannot be read/,
    ],
    ['no pictures', { 'notes.txt': 'tone.wav' }, 'not-video', /no pictures/],
  ])('%s are told of', async (_, files, code, message) => {
    await clips.make('other.png', ...picture('32x20', 0.04));
    await clips.make('other.jpg', ...picture('64x48', 0.04));
    const zip = await zipOf('bad.zip', files as Record<string, string>);
    await expect(made(zip, 'bad.mkv')).rejects.toMatchObject({
      code,
      message: expect.stringMatching(message) as string,
    });
    expect((await readdir(clips.path)).filter((n) => /evil|bad\.mkv|part/.test(n))).toEqual([]);
    expect(await readdir(join(clips.path, '..')).then((n) => n.includes('evil.png'))).toBe(false);
  });

  it('of which one is cut off are refused by its name, and nothing is left', async () => {
    await mkdir(clips.at('torn'));
    for (const n of [1, 2, 3]) {
      const bytes = await readFile(clips.at(`stills/view${n}.png`));
      await writeFile(clips.at(`torn/view${n}.png`), n === 2 ? bytes.subarray(0, bytes.length / 3) : bytes);
    }
    await expect(made(clips.at('torn'), 'torn.mkv')).rejects.toMatchObject({
      code: 'uneven-pictures',
      message: expect.stringMatching(/^"view2.png" is broken or cut off/) as string,
    });
    expect((await readdir(clips.at('.'))).filter((name) => name.startsWith('torn.mkv'))).toEqual([]);
  });

  it('of a zip that is cut off are told of', async () => {
    const zip = await readFile(await zipOf('whole.zip', { '1.png': 'stills/view1.png' }));
    await writeFile(clips.at('half.zip'), zip.subarray(0, 200));
    await expect(made(clips.at('half.zip'), 'half.mkv')).rejects.toMatchObject({ code: 'bad-zip' });
  });
});

describe('clips', () => {
  it('woven of fields become whole pictures, as many as before', async () => {
    expect(await fieldsOf(clips.at('fields.ts'), 'fields.ts')).toBe('top');
    const { note } = await made(clips.at('fields.ts'), 'whole.mkv');
    expect(note).toMatch(/top one first/);
    expect(await fieldsOf(clips.at('whole.mkv'), 'whole.mkv')).toBeNull();
    const [before, after] = [await indexClip(clips.at('fields.ts')), await indexClip(clips.at('whole.mkv'))];
    expect(after.info.frames).toBe(before.info.frames);
    // Combs are edges between every other row: they go.
    const combs = async (file: string, clip: typeof before) => {
      const frames = new FileFrames(clips.at(file), clip.info);
      const { data, width, height } = await frames.luma(8);
      let sum = 0;
      for (let y = 1; y < height - 1; y++)
        for (let x = 0; x < width; x++) {
          const [a, b, c] = [-1, 0, 1].map((k) => data[(y + k) * width + x]);
          if ((b - a) * (b - c) > 400) sum++;
        }
      frames.close();
      return sum;
    };
    expect(await combs('whole.mkv', after)).toBeLessThan(0.5 * (await combs('fields.ts', before)));
  });

  it('of a varying rate become even where that is asked', async () => {
    await made(clips.at('uneven.mp4'), 'even.mkv', 25);
    const { info } = await indexClip(clips.at('even.mkv'));
    expect(info.rate).not.toBeNull();
    expect(info.fps).toBeCloseTo(25, 6);
  });
});
