import { readFile, writeFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import { Decoder, FileFrames, copiesFor, increasingStamps, indexClip, makeWorkingCopy } from './index.js';
import { ClipFolder, difference, picture, renderPlain, x264 } from './testing/clips.js';

let clips: ClipFolder;
beforeAll(async () => {
  clips = await ClipFolder.open();
  await clips.plain();
}, 60_000);
afterAll(() => clips.remove());

/** An MP4 file with what is said of it (and its cover) before its tracks. */
function coverFirst(file: Buffer): Buffer {
  const boxes = (from: number, to: number) => {
    const found: { type: string; from: number; to: number }[] = [];
    for (let at = from; at < to; at += file.readUInt32BE(at))
      found.push({ type: file.toString('latin1', at + 4, at + 8), from: at, to: at + file.readUInt32BE(at) });
    return found;
  };
  const moov = boxes(0, file.length).find((b) => b.type === 'moov')!;
  const inner = boxes(moov.from + 8, moov.to);
  const order = ['mvhd', 'udta'];
  const rank = (type: string) => (order.indexOf(type) + order.length + 1) % (order.length + 1);
  const sorted = [...inner].sort((a, b) => rank(a.type) - rank(b.type));
  const parts = sorted.map((b) => file.subarray(b.from, b.to));
  return Buffer.concat([file.subarray(0, moov.from + 8), ...parts, file.subarray(moov.to)]);
}

describe('the frame index', () => {
  it('tells size, rate, length and colour', async () => {
    const { info, times, direct } = await indexClip(clips.at('plain.mp4'));
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
    const { info, times } = await indexClip(await clips.varying());
    expect(info.rate).toBeNull();
    expect(info.frames).toBe(13);
    expect([...times].slice(0, 5).map((t) => Math.round(t * 25))).toEqual([0, 3, 6, 7, 9]);
  });

  it('decodes the stream that was chosen, though a cover comes first', async () => {
    const cover = await clips.make('cover.png', ...picture('64x64'), '-frames:v', '1');
    const file = await clips.make(
      'covered.mp4',
      ...['-i', cover, '-i', clips.at('plain.mp4'), '-map', '0', '-map', '1', '-c', 'copy'],
      ...['-disposition:v:0', 'attached_pic'],
    );
    // Some programs write the cover before the tracks, and then its stream comes first.
    await writeFile(file, coverFirst(await readFile(file)));
    const clip = await indexClip(file);
    expect(clip.info).toMatchObject({ frames: 30, width: 320, height: 180, stream: 1 });
    expect(clip.direct).toBe(false);
    expect(await difference(clips.at('plain.mp4'), await indexClip(clips.at('plain.mp4')), file)).toBe(0);
    const [plan] = copiesFor(clip.info, 25, false);
    await makeWorkingCopy(file, clip.info, clips.at('covered-copy'), plan);
    expect((await indexClip(clips.at('covered-copy/00001.mp4'))).info).toMatchObject({
      frames: 6,
      width: 320,
    });
    await renderPlain(file, clip, clips.at('covered-out.mp4'), { to: 9 });
    expect((await indexClip(clips.at('covered-out.mp4'))).info).toMatchObject({ frames: 10, width: 320 });
  });

  it('reads interlaced clips, and clips that begin before zero', async () => {
    const interlaced = ['-flags', '+ilme+ildct', '-vf', 'setfield=tff', '-c:v', 'mpeg2video', '-q:v', '3'];
    const woven = await indexClip(await clips.make('woven.mpg', ...picture(), ...interlaced));
    expect(woven.info.frames).toBeGreaterThan(27);
    expect(woven.info.fps).toBeCloseTo(25, 1);
    const early = await clips.make(
      'early.mkv',
      '-i',
      clips.at('plain.mp4'),
      '-c',
      'copy',
      '-output_ts_offset',
      '-0.5',
    );
    const { info, times } = await indexClip(early);
    expect([info.frames, times[0]]).toEqual([30, 0]);
    expect(times[29]).toBeCloseTo(29 / 25, 3);
  });

  it('gives the same picture whichever way it is reached', async () => {
    const { info } = await indexClip(clips.at('plain.mp4'));
    const luma = new FileFrames(clips.at('plain.mp4'), info);
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
    if (content !== null) await writeFile(clips.at(name), content);
    await expect(indexClip(clips.at(name))).rejects.toMatchObject({
      code,
      message: expect.stringContaining(name),
    });
  });

  it.each([
    ['list.m3u8', '#EXTM3U\n#EXTINF:1,\nhttp://127.0.0.1:1/a.ts\n'],
    ['hidden.mp4', '#EXTM3U\n#EXTINF:1,\nhttp://127.0.0.1:1/a.ts\n'],
    ['dash.mpd', '<?xml version="1.0"?><MPD><BaseURL>http://127.0.0.1:1/</BaseURL></MPD>'],
    ['concat.mov', 'ffconcat version 1.0\nfile plain.mp4\n'],
    ['call.sdp', 'v=0\no=- 0 0 IN IP4 127.0.0.1\nm=video 5004 RTP/AVP 96\n'],
    ['wide.mp4', '\ufeff#EXTM3U\nplain.mp4\n'],
  ])('refuses the playlist %s before any tool opens it', async (name, content) => {
    await writeFile(clips.at(name), content);
    const found = process.env.LURN_FFPROBE;
    await expect(indexClip(clips.at(name))).rejects.toMatchObject({
      code: 'not-video',
      message: expect.stringContaining('playlist'),
    });
    expect(process.env.LURN_FFPROBE).toBe(found);
  });

  it('lets no tool follow what a file names, even one that does not look like text', async () => {
    const asked: string[] = [];
    const server = createServer((request, response) => {
      asked.push(request.url ?? '');
      response.end();
    });
    await new Promise<void>((resume) => server.listen(0, '127.0.0.1', resume));
    const { port } = server.address() as { port: number };
    await writeFile(clips.at('sly.m3u8'), `#EXTM3U\n#EXTINF:1,\nhttp://127.0.0.1:${port}/a.ts\n#\0\u0001`);
    await expect(indexClip(clips.at('sly.m3u8'))).rejects.toMatchObject({ code: 'not-video' });
    server.close();
    expect(asked).toEqual([]);
  });

  it('refuses sound alone and a renamed picture', async () => {
    const sound = await clips.make('sound.mp4', '-f', 'lavfi', '-i', 'sine=duration=1', '-c:a', 'aac');
    await expect(indexClip(sound)).rejects.toMatchObject({ code: 'audio-only' });
    await clips.make('still.png', ...picture(), '-frames:v', '1');
    await writeFile(clips.at('still.mp4'), await readFile(clips.at('still.png')));
    await expect(indexClip(clips.at('still.mp4'))).rejects.toMatchObject({ code: 'still-picture' });
  });

  it('works with what is left of a file that is cut off, and says so', async () => {
    const file = await clips.make('whole.mkv', ...picture('320x180', 3), ...x264);
    const bytes = await readFile(file);
    await writeFile(clips.at('half.mkv'), bytes.subarray(0, Math.floor(bytes.length * 0.6)));
    const { info } = await indexClip(clips.at('half.mkv'));
    expect(info.frames).toBeGreaterThan(10);
    expect(info.frames).toBeLessThan(75);
    const plain = await readFile(clips.at('plain.mp4'));
    await writeFile(clips.at('half.mp4'), plain.subarray(0, Math.floor(plain.length / 2)));
    await expect(indexClip(clips.at('half.mp4'))).rejects.toMatchObject({ code: 'cut-off' });
  });
});

describe('decoding', () => {
  it('starts at any frame', async () => {
    const { info } = await indexClip(clips.at('plain.mp4'));
    const luma = new FileFrames(clips.at('plain.mp4'), info);
    const truth = await luma.luma(21);
    const decoder = await Decoder.open(clips.at('plain.mp4'), info, { from: 21, to: 22 }, 'planes');
    const planes = new Uint8Array(decoder.frameSize);
    expect(await decoder.read(planes)).toBe(true);
    expect(planes.subarray(0, 320 * 180)).toEqual(truth.data);
    expect(await decoder.read(planes)).toBe(true);
    expect(await decoder.read(planes)).toBe(false);
    luma.close();
  });
});

describe('time stamps', () => {
  it('that grow stay as they are', () => {
    expect(increasingStamps([-0.5, -0.46, -0.3], 25)).toEqual([-0.5, -0.46, -0.3]);
  });

  it('that are all the same, or missing, come from the rate', () => {
    expect(increasingStamps([3, 3, 3, 3], 25)).toEqual([0, 0.04, 0.08, 0.12]);
    expect(increasingStamps([0, NaN, 0.08], 25)).toEqual([0, 0.04, 0.08]);
    expect(increasingStamps([7], 25)).toEqual([0]);
  });

  it('that repeat or go back are spread up to the next that does not', () => {
    const spread = increasingStamps([0, 1, 1, 1, 4, 2, 5], 25);
    expect(spread.slice(0, 5)).toEqual([0, 1, 2, 3, 4]);
    expect(spread[5]).toBeCloseTo(4.5, 9);
    const end = increasingStamps([0, 0.04, 0.04], 25);
    expect(end[2]).toBeCloseTo(0.08, 9);
    spread.slice(1).forEach((t, i) => expect(t).toBeGreaterThan(spread[i]));
  });
});
