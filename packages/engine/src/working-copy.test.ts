import { mkdir, readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import fc from 'fast-check';
import { unpackScene } from '@lurn/core/formats';
import {
  copiesFor,
  indexClip,
  ingestClip,
  knowClip,
  makePart,
  makeWorkingCopy,
  PART_FRAMES,
  partFile,
  reducedSize,
  type IngestProgress,
  type KnownClip,
} from './index.js';
import { ClipFolder, difference, picture, run, x264 } from './testing/clips.js';
import { ffmpegPath } from './tools.js';

/** Copies for the page, whole and in parts, and what else is made while a clip is read. */

let clips: ClipFolder;
/** 60 frames that browsers do not play: two parts and a half. */
let motion: string;
beforeAll(async () => {
  clips = await ClipFolder.open();
  await clips.plain();
  const code = ['-c:v', 'mjpeg', '-q:v', '3', '-pix_fmt', 'yuvj420p'];
  motion = await clips.make('motion.avi', ...picture('320x180', 2.4), ...code);
}, 60_000);
afterAll(() => clips.remove());

const newFolder = async (name: string) => {
  await mkdir(clips.at(name));
  return clips.at(name);
};
const ingest = async (path: string, name: string) => {
  const folder = await newFolder(name);
  const seen: IngestProgress[] = [];
  const told: KnownClip[] = [];
  const request = { path, name, folder };
  const clip = await ingestClip(
    request,
    undefined,
    (p) => seen.push(p),
    (c) => told.push(c),
  );
  return { clip, folder, seen, told };
};

describe('a copy', () => {
  it('has every frame once, in order, in parts; and stops on demand', async () => {
    const clip = await indexClip(motion);
    expect(clip.direct).toBe(false);
    const [plan] = copiesFor(clip.info, 25, false);
    await makeWorkingCopy(motion, clip.info, clips.at('copy'), plan);
    const parts = (await readdir(clips.at('copy'))).sort();
    expect(parts).toEqual([0, 1, 2].map(partFile));
    for (const [k, part] of parts.entries()) {
      const file = join(clips.at('copy'), part);
      const { times } = await indexClip(file);
      expect([...times].map((t) => Math.round(t * 25))).toEqual(
        Array.from({ length: k < 2 ? PART_FRAMES : 12 }, (_, i) => i),
      );
      expect(await difference(motion, clip, file, k * PART_FRAMES)).toBeLessThan(2);
      expect(await difference(motion, clip, file, Math.max(1, k * PART_FRAMES - 1))).toBeGreaterThan(2);
    }
    const stopped = makeWorkingCopy(motion, clip.info, clips.at('never'), plan, AbortSignal.abort());
    await expect(stopped).rejects.toMatchObject({ code: 'stopped' });
  });

  it.each(['motion', 'varying rate', 'begins late'])(
    'has the same frames in a part made out of turn: %s',
    async (kind) => {
      const long = picture('320x180', 2.4);
      const select = ['-vf', 'select=not(mod(n\\,3))+not(mod(n\\,2))', '-vsync', 'vfr'];
      const file = {
        motion: () => Promise.resolve(motion),
        'varying rate': () => clips.make('vary.mp4', ...long, ...select, ...x264, '-bf', '2', '-g', '17'),
        'begins late': () => clips.make('late.mkv', ...long, ...x264, '-bf', '3', '-output_ts_offset', '1.3'),
      }[kind]!;
      const path = await file();
      const clip = await indexClip(path);
      // What the container tells is what it turns out to be, wherever its time begins.
      if (kind !== 'motion') expect((await knowClip({ path, name: kind }))!.info).toEqual(clip.info);
      const [plan] = copiesFor(clip.info, 25, false);
      const out = clips.at(`asked-${kind.length}.mp4`);
      await makePart(path, clip, 1, plan, out);
      const { info } = await indexClip(out);
      expect(info.frames).toBe(Math.min(PART_FRAMES, clip.info.frames - PART_FRAMES));
      expect(await difference(path, clip, out, PART_FRAMES)).toBeLessThan(2);
    },
  );

  it('in reduced size is small enough to be played, even, and only of what is too large', () => {
    const sides = fc.integer({ min: 16, max: 8192 });
    fc.assert(
      fc.property(sides, sides, fc.constantFrom(24, 25, 30, 50, 60, 120), (width, height, fps) => {
        const size = reducedSize({ width, height }, fps);
        if (width * height * fps <= 1920 * 1080 * 30) expect(size).toBeNull();
        if (!size) return;
        expect([size.width % 8, size.height % 8]).toEqual([0, 0]);
        expect(size.width * size.height).toBeLessThan(width * height);
        if (Math.min(width, height) < 400) return;
        expect(size.width * size.height * fps).toBeLessThan(1920 * 1080 * 32);
        expect(size.width / size.height / (width / height)).toBeCloseTo(1, 1);
      }),
    );
    expect(reducedSize({ width: 3840, height: 2160 }, 30)).toEqual({ width: 1704, height: 960 });
  });
});

describe('reading', () => {
  it('makes everything in one pass, where the container tells that a copy is needed', async () => {
    const sound = ['-f', 'lavfi', '-i', 'sine=frequency=500:duration=1.2', '-c:a', 'pcm_s16le'];
    const odd = ['-vf', 'scale=317:181,format=yuvj444p', '-c:v', 'mjpeg'];
    const file = await clips.make('odd.avi', ...picture(), ...sound, ...odd);
    await mkdir(clips.at('left'));
    await writeFile(join(clips.at('left'), '.copy.mp4.0123abcd.part.mp4'), 'left by one that was killed');
    const seen: IngestProgress[] = [];
    const request = { path: file, name: 'odd', folder: clips.at('left') };
    const clip = await ingestClip(request, undefined, (p) => seen.push(p));
    expect(clip).toMatchObject({ usesCopy: true, info: { frames: 30, width: 317, height: 181 } });
    expect(clip.made).toMatchObject({
      copy: { width: 318, height: 182, part: PART_FRAMES },
      reduced: null,
      film: { every: 6, row: 12, width: 96, height: 54 },
      wave: true,
    });
    // Each frame was decoded once, for everything.
    expect(seen.map((p) => [p.phase, p.frames])).toEqual(
      Array.from({ length: 30 }, (_, i) => ['copying', i + 1]),
    );
    const [first, second] = [0, 1].map((k) => indexClip(join(request.folder, 'copy', partFile(k))));
    expect((await first).info).toMatchObject({ frames: PART_FRAMES, width: 318, height: 182 });
    expect((await second).info.frames).toBe(30 - PART_FRAMES);
    expect((await readdir(request.folder)).sort()).toEqual([
      'copy',
      'film',
      'scene.bin',
      'thumb.jpg',
      'wave.bin',
    ]);
    // A sine of an eighth of full scale, all along.
    const wave = await readFile(join(request.folder, 'wave.bin'));
    expect(Math.abs(wave.length - 60)).toBeLessThan(4);
    for (const level of wave.subarray(2, 56)) expect(Math.abs(level - 16)).toBeLessThan(3);
  });

  it('makes no copy where none is needed; a picture from the first third and a film it makes', async () => {
    const { clip, folder, seen, told } = await ingest(clips.at('plain.mp4'), 'direct');
    expect(clip).toMatchObject({ usesCopy: false, info: { frames: 30 }, made: { copy: null, wave: false } });
    // What was found out of its whole picture lies beside it.
    const scene = unpackScene(await readFile(join(folder, 'scene.bin')));
    expect(scene.tracks.frames).toBe(30);
    expect(clip.made.scene).toMatchObject({ movers: scene.movers, cuts: [...scene.tracks.cuts] });
    expect(seen.every((p) => p.phase === 'reading')).toBe(true);
    expect((await readdir(folder)).sort()).toEqual(['film', 'scene.bin', 'thumb.jpg']);
    expect(await readdir(join(folder, 'film'))).toEqual(['000.jpg']);
    // What the container said at once is what it turned out to be.
    expect(told).toHaveLength(1);
    expect({ ...told[0].info }).toEqual(clip.info);
    expect(told[0].times).toEqual(clip.times);
    expect(await knowClip({ path: clips.at('plain.mp4'), name: 'direct' })).toEqual(told[0]);
  });

  it('says nothing early of clips whose frames are told by decoding alone', async () => {
    const raw = await clips.make(
      'raw.h264',
      '-i',
      clips.at('plain.mp4'),
      '-c',
      'copy',
      '-bsf:v',
      'h264_mp4toannexb',
    );
    const { clip, told } = await ingest(raw, 'raw');
    expect([clip.info.frames, told]).toEqual([30, []]);
  });

  it('puts a film together of pictures evenly apart', async () => {
    const { clip, folder } = await ingest(motion, 'film-of');
    const { every, row, width, height } = clip.made.film!;
    expect((await readdir(join(folder, 'film'))).length).toBe(Math.ceil(clip.info.frames / every / row));
    const grey = ['-pix_fmt', 'gray', '-f', 'rawvideo', '-'];
    const pixels = async (...args: string[]) =>
      (await run(await ffmpegPath(), ['-v', 'error', ...args, ...grey], { encoding: 'buffer' }))
        .stdout as unknown as Buffer;
    const strip = await pixels('-i', join(folder, 'film/000.jpg'));
    for (const k of [0, 3, 9]) {
      const own = await pixels(
        '-i',
        motion,
        '-vf',
        `select=eq(n\\,${k * every}),scale=${width}:${height}`,
        '-vframes',
        '1',
      );
      let sum = 0;
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++)
          sum += Math.abs(strip[y * row * width + k * width + x] - own[y * width + x]);
      expect(sum / width / height).toBeLessThan(9);
    }
  });

  it('that cannot write the copy has an error of its own: the clip is not taken for one that is cut off', async () => {
    const request = { path: motion, name: 'odd', folder: clips.at('nowhere') };
    await expect(ingestClip(request)).rejects.toMatchObject({ code: 'copy-failed' });
  });
});
