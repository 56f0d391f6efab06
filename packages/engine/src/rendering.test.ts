import { readdir } from 'node:fs/promises';
import {
  chain,
  IDENTITY,
  invert,
  matrixWarp,
  meshOver,
  scaling,
  translation,
  type Warp,
} from '@lurn/core/geometry';
import { createPlane } from '@lurn/core/picture';
import { warpPlane, type Donor } from '@lurn/core/warp';
import type { Edges } from '@lurn/model';
import { ffmpegPath, FileFrames, makeSound } from './index.js';
import {
  ClipFolder,
  difference,
  indexed,
  picture,
  renderPlain,
  run,
  streams,
  x264,
} from './testing/clips.js';

let clips: ClipFolder;
beforeAll(async () => {
  clips = await ClipFolder.open();
  await clips.plain();
  await clips.varying();
}, 60_000);
afterAll(() => clips.remove());

describe('rendering', () => {
  it('by the identity gives the picture back, with rate, colour and frames as they were', async () => {
    const clip = await indexed(clips.at('plain.mp4'));
    await renderPlain(clips.at('plain.mp4'), clip, clips.at('same.mp4'));
    expect(await difference(clips.at('plain.mp4'), clip, clips.at('same.mp4'))).toBeLessThan(0.6);
    const [video] = await streams(clips.at('same.mp4'));
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
    const clip = await indexed(clips.at('plain.mp4'));
    await renderPlain(clips.at('plain.mp4'), clip, clips.at('moved.mp4'), {
      picture: () => translation(16, -8),
    });
    const moved = await indexed(clips.at('moved.mp4'));
    const [a, b] = [
      new FileFrames(clips.at('plain.mp4'), clip.info),
      new FileFrames(clips.at('moved.mp4'), moved.info),
    ];
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

  it.each<[string, Warp]>([
    ['a homography', matrixWarp([1.04, 0.03, -8, -0.02, 1.03, 3, 0.0003, -0.0002, 1])],
    [
      'a mesh',
      meshOver(320, 180, 8, 5, (x, y) => ({ x: x + 5 * Math.sin(y / 30), y: y + 4 * Math.cos(x / 40) })),
    ],
  ])('draws through %s what the core draws', async (_, toSource) => {
    const clip = await indexed(clips.at('plain.mp4'));
    const out = clips.at('through.mp4');
    await renderPlain(clips.at('plain.mp4'), clip, out, { to: 3, toSource, crf: 1 });
    const [source, drawn] = [
      new FileFrames(clips.at('plain.mp4'), clip.info),
      new FileFrames(out, (await indexed(out)).info),
    ];
    const wanted = createPlane(320, 180);
    warpPlane(await source.luma(2), wanted, toSource, 16);
    const got = await drawn.luma(2);
    source.close();
    drawn.close();
    const off = wanted.data.map((v, i) => Math.abs(v - got.data[i]));
    expect(off.reduce((a, b) => a + b, 0) / off.length).toBeLessThan(0.8);
  });

  it('shows beyond the picture what was chosen: a colour, the edge drawn out, or mirrored', async () => {
    const clip = await indexed(clips.at('plain.mp4'));
    const source = new FileFrames(clips.at('plain.mp4'), clip.info);
    const shot = await source.luma(3);
    source.close();
    for (const mode of ['colour', 'stretched', 'mirrored'] as const) {
      const out = clips.at(`${mode}.mp4`);
      await renderPlain(clips.at('plain.mp4'), clip, out, {
        to: 6,
        picture: () => translation(40, 0),
        edges: { mode, colour: '#ffffff' },
      });
      const frames = new FileFrames(out, (await indexed(out)).info);
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
    const file = await clips.make(
      'crop.mp4',
      ...[
        '-f',
        'lavfi',
        '-i',
        "nullsrc=size=400x180:rate=25:duration=1,geq=lum='128+60*sin(X/9)*cos(Y/11)':cb=128:cr=128",
      ],
      ...['-vf', "crop=320:180:'if(lt(n,5),0,32)':0", '-frames:v', '10', ...x264, '-crf', '5'],
    );
    const clip = await indexed(file);
    const motion = (f: number) => translation(f < 5 ? 0 : -32, 0);
    const donors = (f: number): Donor[] => (f < 5 ? [] : [{ frame: 2, toSource: matrixWarp(IDENTITY) }]);
    const out = clips.at('borrowed.mp4');
    await renderPlain(file, clip, out, {
      picture: (f) => invert(motion(f)),
      edges: { mode: 'borrowed', colour: '#000000' },
      donors,
    });
    const first = new FileFrames(file, clip.info);
    const wanted = await first.luma(2);
    first.close();
    const frames = new FileFrames(out, (await indexed(out)).info);
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
    const clip = await indexed(clips.at('plain.mp4'));
    const delivery = { width: 160, height: 160 };
    await renderPlain(clips.at('plain.mp4'), clip, clips.at('square.mp4'), {
      delivery,
      to: 4,
      picture: () => chain(translation(80, 80), scaling(160 / 180), translation(-160, -90)),
    });
    expect((await indexed(clips.at('square.mp4'))).info).toMatchObject({ ...delivery, frames: 5 });
  });

  it('leaves edges open in a file with alpha, and refuses where times vary', async () => {
    const clip = await indexed(clips.at('plain.mp4'));
    const edges: Edges = { mode: 'transparent', colour: '#000000' };
    const out = clips.at('open.mov');
    await renderPlain(clips.at('plain.mp4'), clip, out, { to: 4, picture: () => translation(40, 0), edges });
    const [video] = await streams(out);
    expect(video).toMatchObject({ codec_name: 'prores', width: 320, height: 180 });
    expect(video.pix_fmt).toMatch(/^yuva/);
    const alpha = ['-vf', 'alphaextract', '-frames:v', '1', '-f', 'rawvideo', '-pix_fmt', 'gray', '-'];
    const { stdout } = await run(await ffmpegPath(), ['-v', 'error', '-i', out, ...alpha], {
      encoding: 'buffer',
      maxBuffer: 1e8,
    });
    expect([stdout[90 * 320 + 20], stdout[90 * 320 + 200]].map((v) => Math.round(v / 255))).toEqual([0, 1]);
    const varying = await indexed(clips.at('vfr.mp4'));
    await expect(
      renderPlain(clips.at('vfr.mp4'), varying, clips.at('vfr.mov'), { edges }),
    ).rejects.toMatchObject({
      code: 'no-alpha',
    });
  });

  it('turned and anamorphic clips come out turned and anamorphic', async () => {
    await clips.make(
      'turned.mp4',
      '-i',
      clips.at('plain.mp4'),
      '-c',
      'copy',
      '-metadata:s:v:0',
      'rotate=270',
      '-aspect',
      '4:3',
    );
    const clip = await indexed(clips.at('turned.mp4'));
    expect(clip.info).toMatchObject({ turns: 1, width: 180, height: 320 });
    await renderPlain(clips.at('turned.mp4'), clip, clips.at('turned-out.mp4'));
    const out = await indexed(clips.at('turned-out.mp4'));
    expect(out.info).toMatchObject({ turns: 1, width: 180, height: 320 });
    expect(out.info.pixelAspect).toBeCloseTo(clip.info.pixelAspect, 4);
    expect(await difference(clips.at('turned.mp4'), clip, clips.at('turned-out.mp4'))).toBeLessThan(0.6);
  });

  it('keeps the times of a varying rate', async () => {
    const clip = await indexed(clips.at('vfr.mp4'));
    await renderPlain(clips.at('vfr.mp4'), clip, clips.at('vfr-out.mp4'), { from: 2 });
    const out = await indexed(clips.at('vfr-out.mp4'));
    expect(out.info.frames).toBe(11);
    out.times.forEach((t, i) => expect(t).toBeCloseTo(clip.times[i + 2] - clip.times[2], 3));
    expect(await difference(clips.at('vfr.mp4'), clip, clips.at('vfr-out.mp4'), 2)).toBeLessThan(0.6);
  });

  it('carries the sound over untouched, and in step when the range is cut', async () => {
    const beeps = 'aevalsrc=sin(880*2*PI*t)*lt(mod(t\\,0.5)\\,0.05):duration=2:sample_rate=48000';
    const file = await clips.make(
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
    const clip = await indexed(file);
    await renderPlain(file, clip, clips.at('sounding-out.mp4'));
    const hash = async (f: string) =>
      (await run(await ffmpegPath(), ['-v', 'error', '-i', f, '-map', '0:a', '-c', 'copy', '-f', 'md5', '-']))
        .stdout;
    expect(await hash(clips.at('sounding-out.mp4'))).toBe(await hash(file));
    await renderPlain(file, clip, clips.at('sounding-cut.mp4'), { from: 20, to: 44 });
    // Frame 20 is at 0.8 s: the beep that began at 1.0 s must begin at 0.2 s.
    const { stdout } = await run(
      await ffmpegPath(),
      [
        '-v',
        'error',
        '-i',
        clips.at('sounding-cut.mp4'),
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

  it('is given alone with the first picture’s moment at its beginning, silent where it begins later', async () => {
    const beeps = 'aevalsrc=sin(880*2*PI*t)*lt(mod(t\\,0.5)\\,0.05):duration=1.5:sample_rate=44100';
    const late = ['-itsoffset', '0.3', '-f', 'lavfi', '-i', beeps];
    const file = await clips.make(
      'late.mkv',
      ...picture('320x180', 2),
      ...late,
      ...x264,
      '-c:a',
      'pcm_s16le',
    );
    const { info } = await indexed(file);
    const alone = clips.at('alone.m4a');
    await makeSound(file, info, alone);
    const raw = ['-v', 'error', '-i', alone, '-ac', '1', '-ar', '48000', '-f', 's16le', '-'];
    const { stdout } = await run(await ffmpegPath(), raw, { encoding: 'buffer', maxBuffer: 1e8 });
    const samples = new Int16Array(
      stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + (stdout.length & ~1)),
    );
    const begins = samples.findIndex((v) => Math.abs(v) > 6000) / 48000;
    expect(Math.abs(begins - 0.3)).toBeLessThan(0.03);
  });

  it('cuts an odd last row and column off, since H.264 has even sizes only', async () => {
    const file = await clips.make(
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
    const clip = await indexed(file);
    expect(clip.info).toMatchObject({ width: 161, height: 91 });
    await renderPlain(file, clip, clips.at('odd-out.mp4'));
    expect((await indexed(clips.at('odd-out.mp4'))).info).toMatchObject({ width: 160, height: 90 });
  });

  it('stopped, or impossible, leaves no half file', async () => {
    const clip = await indexed(clips.at('plain.mp4'));
    const stop = new AbortController();
    const stopped = renderPlain(clips.at('plain.mp4'), clip, clips.at('stopped.mp4'), {
      signal: stop.signal,
      onProgress: (n) => n === 5 && stop.abort(),
    });
    await expect(stopped).rejects.toMatchObject({ code: 'stopped' });
    await expect(renderPlain(clips.at('gone.mp4'), clip, clips.at('gone-out.mp4'))).rejects.toMatchObject({
      code: 'frame-unreadable',
    });
    await expect(
      renderPlain(clips.at('plain.mp4'), clip, clips.at('no such folder/x.mp4')),
    ).rejects.toMatchObject({ code: 'encode-failed' });
    expect(
      (await readdir(clips.path)).filter(
        (f) => f.includes('.part') || f.startsWith('stopped') || f.startsWith('gone'),
      ),
    ).toEqual([]);
  });
});
