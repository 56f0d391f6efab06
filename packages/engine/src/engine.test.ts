import { execFile } from 'node:child_process';
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import {
  chain,
  IDENTITY,
  invert,
  scaling,
  translation,
  type Donor,
  type Matrix3,
  type Size,
} from '@lurn/core';
import { NEW_EDGES, type Edges } from '@lurn/model';
import {
  Decoder,
  ffmpegPath,
  ffprobePath,
  FileFrames,
  indexClip,
  makeWorkingCopy,
  render,
  type IndexedClip,
} from './index.js';

const run = promisify(execFile);
let folder: string;
const at = (name: string) => join(folder, name);

async function make(name: string, ...args: string[]): Promise<string> {
  await run(await ffmpegPath(), ['-y', '-v', 'error', ...args, at(name)]);
  return at(name);
}

const picture = (size = '320x180', seconds = 1.2) => [
  '-f',
  'lavfi',
  '-i',
  `testsrc2=size=${size}:rate=25:duration=${seconds}`,
];
const x264 = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-preset', 'veryfast'];

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-engine-'));
  await make(
    'plain.mp4',
    ...picture(),
    ...x264,
    '-bf',
    '2',
    '-colorspace',
    'bt709',
    '-color_primaries',
    'bt709',
    '-color_trc',
    'bt709',
    '-color_range',
    'tv',
  );
}, 60_000);
afterAll(() => rm(folder, { recursive: true, force: true }));

async function streams(file: string): Promise<Record<string, never>[]> {
  const { stdout } = await run(await ffprobePath(), [
    '-v',
    'error',
    '-count_packets',
    '-show_streams',
    '-show_format',
    '-of',
    'json',
    file,
  ]);
  return (JSON.parse(stdout) as { streams: Record<string, never>[] }).streams;
}

function renderStill(
  file: string,
  clip: IndexedClip,
  out: string,
  options: {
    from?: number;
    to?: number;
    picture?: (f: number) => Matrix3;
    delivery?: Size;
    edges?: Edges;
    donors?: (f: number) => Donor[];
    signal?: AbortSignal;
    crf?: number;
    onProgress?: (n: number) => void;
  } = {},
) {
  const { from = 0, to = clip.info.frames - 1, picture: matrix = () => IDENTITY, crf = 8, ...rest } = options;
  return render({
    source: file,
    info: clip.info,
    times: clip.times,
    file: out,
    from,
    to,
    picture: matrix,
    delivery: clip.info,
    edges: NEW_EDGES,
    donors: () => [],
    crf,
    preset: 'ultrafast',
    ...rest,
  });
}

/** Mean absolute difference of luma between two files' frames. */
async function difference(a: string, aClip: IndexedClip, b: string, shift = 0): Promise<number> {
  const bClip = await indexClip(b);
  const [la, lb] = [new FileFrames(a, aClip.info), new FileFrames(b, bClip.info)];
  let sum = 0;
  let n = 0;
  for (const frame of [0, Math.floor(bClip.info.frames / 2), bClip.info.frames - 1]) {
    const [pa, pb] = [await la.luma(frame + shift), await lb.luma(frame)];
    const w = Math.min(pa.width, pb.width);
    for (let y = 0; y < Math.min(pa.height, pb.height); y++) {
      for (let x = 0; x < w; x++, n++)
        sum += Math.abs(pa.data[y * pa.stride + x] - pb.data[y * pb.stride + x]);
    }
  }
  la.close();
  lb.close();
  return sum / n;
}

describe('the frame index', () => {
  it('tells size, rate, length and colour', async () => {
    const { info, times, direct } = await indexClip(at('plain.mp4'));
    expect(info).toMatchObject({
      width: 320,
      height: 180,
      frames: 30,
      fps: 25,
      rate: '25/1',
      turns: 0,
      bitDepth: 8,
      warning: null,
    });
    expect(info.colour).toMatchObject({ range: 'tv', space: 'bt709' });
    expect(direct).toBe(true);
    times.forEach((t, i) => expect(t).toBeCloseTo(i / 25, 6));
  });

  it('keeps the times of a varying rate', async () => {
    const file = await make(
      'vfr.mp4',
      ...picture(),
      '-vf',
      'select=not(mod(n\\,3))+not(mod(n\\,7))',
      '-vsync',
      'vfr',
      ...x264,
    );
    const { info, times } = await indexClip(file);
    expect(info.rate).toBeNull();
    expect(info.frames).toBe(13);
    expect([...times].slice(0, 5).map((t) => Math.round(t * 25))).toEqual([0, 3, 6, 7, 9]);
  });

  it('gives the same picture whichever way it is reached', async () => {
    const { info } = await indexClip(at('plain.mp4'));
    const luma = new FileFrames(at('plain.mp4'), info);
    const forwards = await luma.luma(17);
    await luma.luma(28);
    await luma.luma(3);
    expect((await luma.luma(17)).data).toEqual(forwards.data);
    luma.close();
  });

  it.each([
    ['missing.mp4', null, 'missing-file'],
    ['empty.mp4', '', 'empty-file'],
    ['words.mp4', 'this is not a video', 'not-video'],
  ])('%s is refused with a code', async (name, content, code) => {
    if (content !== null) await writeFile(at(name), content);
    await expect(indexClip(at(name))).rejects.toMatchObject({ code, message: expect.stringContaining(name) });
  });

  it('refuses sound alone and a renamed picture', async () => {
    const sound = await make('sound.mp4', '-f', 'lavfi', '-i', 'sine=duration=1', '-c:a', 'aac');
    await expect(indexClip(sound)).rejects.toMatchObject({ code: 'audio-only' });
    await make('still.png', ...picture(), '-frames:v', '1');
    await writeFile(at('still.mp4'), await readFile(at('still.png')));
    await expect(indexClip(at('still.mp4'))).rejects.toMatchObject({ code: 'still-picture' });
  });

  it('works with what is left of a file that is cut off, and says so', async () => {
    const file = await make('whole.mkv', ...picture('320x180', 3), ...x264);
    const bytes = await readFile(file);
    await writeFile(at('half.mkv'), bytes.subarray(0, Math.floor(bytes.length * 0.6)));
    const { info } = await indexClip(at('half.mkv'));
    expect(info.frames).toBeGreaterThan(10);
    expect(info.frames).toBeLessThan(75);
    const plain = await readFile(at('plain.mp4'));
    await writeFile(at('half.mp4'), plain.subarray(0, Math.floor(plain.length / 2)));
    await expect(indexClip(at('half.mp4'))).rejects.toMatchObject({ code: 'cut-off' });
  });
});

describe('rendering', () => {
  it('by the identity gives the picture back, with rate, colour and frames as they were', async () => {
    const clip = await indexClip(at('plain.mp4'));
    await renderStill(at('plain.mp4'), clip, at('same.mp4'));
    expect(await difference(at('plain.mp4'), clip, at('same.mp4'))).toBeLessThan(0.6);
    const [video] = await streams(at('same.mp4'));
    expect(video).toMatchObject({
      codec_name: 'h264',
      r_frame_rate: '25/1',
      nb_read_packets: '30',
      color_space: 'bt709',
      color_range: 'tv',
      color_transfer: 'bt709',
      color_primaries: 'bt709',
    });
  });

  it('moves the picture the way the matrix says', async () => {
    const clip = await indexClip(at('plain.mp4'));
    await renderStill(at('plain.mp4'), clip, at('moved.mp4'), { picture: () => translation(16, -8) });
    const moved = await indexClip(at('moved.mp4'));
    const [a, b] = [new FileFrames(at('plain.mp4'), clip.info), new FileFrames(at('moved.mp4'), moved.info)];
    const [from, to] = [await a.luma(5), await b.luma(5)];
    let worst = 0;
    for (let y = 20; y < 150; y++) {
      for (let x = 40; x < 300; x++)
        worst = Math.max(worst, Math.abs(to.data[y * 320 + x] - from.data[(y + 8) * 320 + x - 16]));
    }
    expect(worst).toBeLessThan(24); // the encoder's own loss
    a.close();
    b.close();
  });

  it('shows beyond the picture what was chosen: a colour, the edge drawn out, or mirrored', async () => {
    const clip = await indexClip(at('plain.mp4'));
    const source = new FileFrames(at('plain.mp4'), clip.info);
    const shot = await source.luma(3);
    source.close();
    for (const mode of ['colour', 'stretched', 'mirrored'] as const) {
      const out = at(`${mode}.mp4`);
      await renderStill(at('plain.mp4'), clip, out, {
        to: 6,
        picture: () => translation(40, 0),
        edges: { mode, colour: '#ffffff' },
      });
      const frames = new FileFrames(out, (await indexClip(out)).info);
      const luma = await frames.luma(3);
      frames.close();
      for (const [x, y] of [
        [10, 60],
        [25, 90],
        [31, 120],
      ]) {
        const from = mode === 'mirrored' ? 79 - x : 40;
        const wanted = mode === 'colour' ? 235 : shot.data[y * shot.stride + (from - 40)];
        expect(Math.abs(luma.data[y * luma.stride + x] - wanted)).toBeLessThan(24);
      }
    }
  });

  it('borrows from other frames what is beyond the edge', async () => {
    // A still picture seen through a crop that moves by 32 px from frame 5 on.
    const file = await make(
      'crop.mp4',
      ...[
        '-f',
        'lavfi',
        '-i',
        "nullsrc=size=400x180:rate=25:duration=1,geq=lum='128+60*sin(X/9)*cos(Y/11)':cb=128:cr=128",
      ],
      ...['-vf', "crop=320:180:'if(lt(n,5),0,32)':0", '-frames:v', '10', ...x264, '-crf', '5'],
    );
    const clip = await indexClip(file);
    const motion = (f: number) => translation(f < 5 ? 0 : -32, 0);
    const donors = (f: number): Donor[] => (f < 5 ? [] : [{ frame: 2, toSource: IDENTITY }]);
    const out = at('borrowed.mp4');
    await renderStill(file, clip, out, {
      picture: (f) => invert(motion(f)),
      edges: { mode: 'borrowed', colour: '#000000' },
      donors,
    });
    const first = new FileFrames(file, clip.info);
    const wanted = await first.luma(2);
    first.close();
    const frames = new FileFrames(out, (await indexClip(out)).info);
    const filled = await frames.luma(8);
    frames.close();
    let worst = 0;
    for (let y = 4; y < 176; y += 3)
      for (let x = 4; x < 316; x += 3)
        worst = Math.max(
          worst,
          Math.abs(filled.data[y * filled.stride + x] - wanted.data[y * wanted.stride + x]),
        );
    expect(worst).toBeLessThan(20);
  });

  it('delivers another size', async () => {
    const clip = await indexClip(at('plain.mp4'));
    const delivery = { width: 160, height: 160 };
    await renderStill(at('plain.mp4'), clip, at('square.mp4'), {
      delivery,
      to: 4,
      picture: () => chain(translation(80, 80), scaling(160 / 180), translation(-160, -90)),
    });
    expect((await indexClip(at('square.mp4'))).info).toMatchObject({ ...delivery, frames: 5 });
  });

  it('leaves edges open in a file with alpha, and refuses where times vary', async () => {
    const clip = await indexClip(at('plain.mp4'));
    const edges: Edges = { mode: 'transparent', colour: '#000000' };
    const out = at('open.mov');
    await renderStill(at('plain.mp4'), clip, out, { to: 4, picture: () => translation(40, 0), edges });
    const [video] = await streams(out);
    expect(video).toMatchObject({ codec_name: 'prores', width: 320, height: 180 });
    expect(video.pix_fmt).toMatch(/^yuva/);
    const alpha = ['-vf', 'alphaextract', '-frames:v', '1', '-f', 'rawvideo', '-pix_fmt', 'gray', '-'];
    const { stdout } = await run(await ffmpegPath(), ['-v', 'error', '-i', out, ...alpha], {
      encoding: 'buffer',
      maxBuffer: 1e8,
    });
    expect([stdout[90 * 320 + 20], stdout[90 * 320 + 200]].map((v) => Math.round(v / 255))).toEqual([0, 1]);
    const varying = await indexClip(at('vfr.mp4'));
    await expect(renderStill(at('vfr.mp4'), varying, at('vfr.mov'), { edges })).rejects.toMatchObject({
      code: 'no-alpha',
    });
  });

  it('turned and anamorphic clips come out turned and anamorphic', async () => {
    await make(
      'turned.mp4',
      '-i',
      at('plain.mp4'),
      '-c',
      'copy',
      '-metadata:s:v:0',
      'rotate=270',
      '-aspect',
      '4:3',
    );
    const clip = await indexClip(at('turned.mp4'));
    expect(clip.info).toMatchObject({ turns: 1, width: 180, height: 320 });
    await renderStill(at('turned.mp4'), clip, at('turned-out.mp4'));
    const out = await indexClip(at('turned-out.mp4'));
    expect(out.info).toMatchObject({ turns: 1, width: 180, height: 320 });
    expect(out.info.pixelAspect).toBeCloseTo(clip.info.pixelAspect, 4);
    expect(await difference(at('turned.mp4'), clip, at('turned-out.mp4'))).toBeLessThan(0.6);
  });

  it('keeps the times of a varying rate', async () => {
    const clip = await indexClip(at('vfr.mp4'));
    await renderStill(at('vfr.mp4'), clip, at('vfr-out.mp4'), { from: 2 });
    const out = await indexClip(at('vfr-out.mp4'));
    expect(out.info.frames).toBe(11);
    out.times.forEach((t, i) => expect(t).toBeCloseTo(clip.times[i + 2] - clip.times[2], 3));
    expect(await difference(at('vfr.mp4'), clip, at('vfr-out.mp4'), 2)).toBeLessThan(0.6);
  });

  it('carries the sound over untouched, and in step when the range is cut', async () => {
    const beeps = 'aevalsrc=sin(880*2*PI*t)*lt(mod(t\\,0.5)\\,0.05):duration=2:sample_rate=48000';
    const file = await make(
      'sounding.mp4',
      ...picture('320x180', 2),
      '-f',
      'lavfi',
      '-i',
      beeps,
      ...x264,
      '-c:a',
      'aac',
      '-shortest',
    );
    const clip = await indexClip(file);
    await renderStill(file, clip, at('sounding-out.mp4'));
    const hash = async (f: string) =>
      (await run(await ffmpegPath(), ['-v', 'error', '-i', f, '-map', '0:a', '-c', 'copy', '-f', 'md5', '-']))
        .stdout;
    expect(await hash(at('sounding-out.mp4'))).toBe(await hash(file));
    await renderStill(file, clip, at('sounding-cut.mp4'), { from: 20, to: 44 });
    // Frame 20 is at 0.8 s: the beep that began at 1.0 s must begin at 0.2 s.
    const { stdout } = await run(
      await ffmpegPath(),
      [
        '-v',
        'error',
        '-i',
        at('sounding-cut.mp4'),
        '-map',
        '0:a',
        '-ac',
        '1',
        '-ar',
        '48000',
        '-f',
        's16le',
        '-',
      ],
      { encoding: 'buffer', maxBuffer: 1e8 },
    );
    const samples = new Int16Array(
      stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + (stdout.length & ~1)),
    );
    const first = samples.findIndex((v, i) => i > 4800 && Math.abs(v) > 6000);
    expect(Math.abs(first / 48000 - 0.2)).toBeLessThan(0.03);
  });

  it('cuts an odd last row and column off, since H.264 has even sizes only', async () => {
    const file = await make(
      'odd.webm',
      ...picture(),
      '-vf',
      'scale=161:91',
      '-c:v',
      'libvpx-vp9',
      '-deadline',
      'realtime',
      '-cpu-used',
      '8',
    );
    const clip = await indexClip(file);
    expect(clip.info).toMatchObject({ width: 161, height: 91 });
    await renderStill(file, clip, at('odd-out.mp4'));
    expect((await indexClip(at('odd-out.mp4'))).info).toMatchObject({ width: 160, height: 90 });
  });

  it('stopped, or impossible, leaves no half file', async () => {
    const clip = await indexClip(at('plain.mp4'));
    const stop = new AbortController();
    const stopped = renderStill(at('plain.mp4'), clip, at('stopped.mp4'), {
      signal: stop.signal,
      onProgress: (n) => n === 5 && stop.abort(),
    });
    await expect(stopped).rejects.toMatchObject({ code: 'stopped' });
    await expect(renderStill(at('gone.mp4'), clip, at('gone-out.mp4'))).rejects.toMatchObject({
      code: 'frame-unreadable',
    });
    await expect(
      renderStill(at('plain.mp4'), clip, join(folder, 'no such folder', 'x.mp4')),
    ).rejects.toMatchObject({ code: 'encode-failed' });
    expect(
      (await readdir(folder)).filter(
        (f) => f.includes('.part') || f.startsWith('stopped') || f.startsWith('gone'),
      ),
    ).toEqual([]);
  });
});

describe('working copies', () => {
  it('have every frame once, in order, and stop on demand', async () => {
    const file = await make('motion.avi', ...picture(), '-c:v', 'mjpeg', '-q:v', '3', '-pix_fmt', 'yuvj420p');
    const clip = await indexClip(file);
    expect(clip.direct).toBe(false);
    await makeWorkingCopy(file, clip.info, at('copy.mp4'));
    const copy = await indexClip(at('copy.mp4'));
    expect(copy.times.map((t) => Math.round(t * 25))).toEqual(clip.times.map((_, i) => i));
    expect(await difference(file, clip, at('copy.mp4'))).toBeLessThan(2);
    await expect(
      makeWorkingCopy(file, clip.info, at('never.mp4'), AbortSignal.abort()),
    ).rejects.toMatchObject({ code: 'stopped' });
  });
});

describe('decoding', () => {
  it('starts at any frame', async () => {
    const { info } = await indexClip(at('plain.mp4'));
    const luma = new FileFrames(at('plain.mp4'), info);
    const truth = await luma.luma(21);
    const decoder = await Decoder.open(at('plain.mp4'), info, { from: 21, to: 22 }, 'planes');
    const planes = new Uint8Array(decoder.frameSize);
    expect(await decoder.read(planes)).toBe(true);
    expect(planes.subarray(0, 320 * 180)).toEqual(truth.data);
    expect(await decoder.read(planes)).toBe(true);
    expect(await decoder.read(planes)).toBe(false);
    luma.close();
  });
});
