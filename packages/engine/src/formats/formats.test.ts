import { readdir, readFile, writeFile } from 'node:fs/promises';
import { ffmpegPath, FORMATS, formatsAtHand, whyNot, ZipFile, type Format } from '../index.js';
import {
  ClipFolder,
  difference,
  indexed,
  picture,
  renderPlain,
  run,
  streams,
  x264,
} from '../testing/clips.js';

let clips: ClipFolder;
let offered: readonly Format[];
beforeAll(async () => {
  clips = await ClipFolder.open();
  await clips.plain();
  const tone = ['-f', 'lavfi', '-i', 'sine=frequency=440:duration=1.2:sample_rate=48000'];
  await clips.make('sounding.mp4', ...picture('320x180', 1.2), ...tone, ...x264, '-c:a', 'aac', '-shortest');
  ({ offered } = await formatsAtHand());
}, 60_000);
afterAll(() => clips.remove());

/** The bytes of a stored zip's files, by their names (PKWARE, local file headers by the central directory). */
async function filesIn(path: string): Promise<Map<string, Buffer>> {
  const all = await readFile(path);
  const out = new Map<string, Buffer>();
  for (let at = all.indexOf('PK\x01\x02'); at >= 0; at = all.indexOf('PK\x01\x02', at + 4)) {
    const [size, names] = [all.readUInt32LE(at + 20), all.readUInt16LE(at + 28)];
    const local = all.readUInt32LE(at + 42);
    const name = all.toString('utf8', at + 46, at + 46 + names);
    const from = local + 30 + all.readUInt16LE(local + 26) + all.readUInt16LE(local + 28);
    out.set(name, all.subarray(from, from + size));
  }
  return out;
}

async function meanColour(file: string): Promise<number[]> {
  const scale = ['-vf', 'scale=1:1:flags=area', '-frames:v', '1', '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-'];
  const { stdout } = await run(await ffmpegPath(), ['-v', 'error', '-i', file, ...scale], {
    encoding: 'buffer',
  });
  return [...(stdout as unknown as Buffer)];
}

describe('formats', () => {
  it('are told apart, and those that cannot be written here say why', async () => {
    expect(new Set(FORMATS.map((f) => f.id)).size).toBe(FORMATS.length);
    expect(offered.length).toBeGreaterThanOrEqual(14);
    expect(await whyNot({ encoder: 'tape' })).toMatch(/no encoder tape/);
  });

  /** Mean difference of luma from the source, in grey levels, and the codecs of picture and sound. */
  const CODED: Record<string, readonly [number, string, string]> = {
    'h264-mov': [0.6, 'h264', 'aac'],
    'hevc-mp4': [1.2, 'hevc', 'aac'],
    'hevc-mov': [1.2, 'hevc', 'aac'],
    'vp9-webm': [1.6, 'vp9', 'opus'],
    'prores-422-mov': [0.8, 'prores', 'pcm_s24le'],
    'prores-422-hq-mov': [0.6, 'prores', 'pcm_s24le'],
    'prores-4444-mov': [0.6, 'prores', 'pcm_s24le'],
    'dnxhr-mov': [0.8, 'dnxhd', 'pcm_s24le'],
    'ffv1-mkv': [0, 'ffv1', 'flac'],
    'vp9-alpha-webm': [1.6, 'vp9', 'opus'],
  };
  it.each(Object.keys(CODED))('%s has every frame, the picture and the sound', async (id) => {
    const format = FORMATS.find((f) => f.id === id)!;
    const [most, codec, sound] = CODED[id];
    const source = await indexed(clips.at('sounding.mp4'));
    const out = clips.at(`out-${id}.${format.extension}`);
    await renderPlain(clips.at('sounding.mp4'), source, out, { format: id, from: 3 });
    const [video, audio] = await streams(out);
    expect([video.codec_name, audio.codec_name]).toEqual([codec, sound]);
    expect((await indexed(out)).info.frames).toBe(27);
    expect(await difference(clips.at('sounding.mp4'), source, out, 3)).toBeLessThanOrEqual(most);
  });

  it.each(['prores-422-mov', 'ffv1-mkv', 'hevc-mp4', 'vp9-webm'])('%s keeps the colour tags', async (id) => {
    const source = await indexed(clips.at('plain.mp4'));
    const out = clips.at(`tags-${id}.${FORMATS.find((f) => f.id === id)!.extension}`);
    await renderPlain(clips.at('plain.mp4'), source, out, { format: id, to: 4 });
    expect((await streams(out))[0]).toMatchObject({ color_space: 'bt709' });
  });

  it('what cannot say that it is turned has its pictures turned', async () => {
    const turn = ['-i', clips.at('plain.mp4'), '-c', 'copy', '-metadata:s:v:0', 'rotate=90'];
    await clips.make('turned.mp4', ...turn);
    const source = await indexed(clips.at('turned.mp4'));
    expect(source.info).toMatchObject({ width: 180, height: 320 });
    const out = clips.at('turned.mkv');
    await renderPlain(clips.at('turned.mp4'), source, out, { format: 'ffv1-mkv' });
    const made = await indexed(out);
    expect(made.info).toMatchObject({ turns: 0, width: 180, height: 320 });
    expect(await difference(clips.at('turned.mp4'), source, out)).toBe(0);
  });

  it.each(['png', 'tiff'])(
    '%s pictures come as a zip, in the colours of the clip, numbered as its frames',
    async (kind) => {
      const tags = ['-colorspace', 'bt709', '-color_range', 'tv'];
      const flat = ['-f', 'lavfi', '-i', 'color=c=0xC04020:size=320x180:rate=25:duration=0.4'];
      const file = await clips.make(
        `flat-${kind}.mp4`,
        ...flat,
        '-vf',
        'scale=out_color_matrix=bt709',
        ...x264,
        ...tags,
      );
      const source = await indexed(file);
      const out = clips.at(`${kind}.zip`);
      await renderPlain(file, source, out, { format: `${kind}-zip`, from: 2, to: 6 });
      const files = await filesIn(out);
      expect([...files.keys()]).toEqual([2, 3, 4, 5, 6].map((f) => `00000${f}.${kind}`));
      await writeFile(clips.at(`one.${kind}`), files.get(`000004.${kind}`)!);
      const [r, g, b] = await meanColour(clips.at(`one.${kind}`));
      [0xc0, 0x40, 0x20].forEach((v, k) => expect(Math.abs([r, g, b][k] - v)).toBeLessThanOrEqual(3));
      expect((await readdir(clips.path)).filter((n) => n.includes('.part'))).toEqual([]);
    },
  );

  it.each(['gif', 'webp'])('%s is a small picture that moves', async (id) => {
    const source = await indexed(clips.at('plain.mp4'));
    const out = clips.at(`small.${id}`);
    await renderPlain(clips.at('plain.mp4'), source, out, { format: id });
    const bytes = await readFile(out);
    expect(bytes.toString('latin1', 0, 12)).toMatch(id === 'gif' ? /^GIF89a/ : /^RIFF....WEBP/s);
    const frames = id === 'gif' ? bytes.toString('latin1').split('\x21\xf9\x04').length - 1 : bytes.toString('latin1').split('ANMF').length - 1; // prettier-ignore
    expect(frames).toBeGreaterThan(8);
  });

  it('pictures too small for a codec are refused with what to do', async () => {
    const file = await clips.make('tiny.mp4', ...picture('64x48', 0.2), ...x264);
    const source = await indexed(file);
    const out = renderPlain(file, source, clips.at('tiny.mov'), { format: 'dnxhr-mov' });
    await expect(out).rejects.toThrow(/256 x 120 pixels and more/);
  });

  it('stopped in the middle, a zip of pictures leaves nothing', async () => {
    const source = await indexed(clips.at('plain.mp4'));
    const stop = new AbortController();
    const options = {
      format: 'png-zip',
      signal: stop.signal,
      onProgress: (n: number) => n > 5 && stop.abort(),
    };
    const out = renderPlain(clips.at('plain.mp4'), source, clips.at('stopped.zip'), options);
    await expect(out).rejects.toMatchObject({ code: 'stopped' });
    const left = (await readdir(clips.path)).filter((n) => n.includes('stopped'));
    expect(left).toEqual([]);
  });
});

describe('a zip', () => {
  it('has what was put in, and the same bytes each time', async () => {
    const write = async (name: string) => {
      const zip = new ZipFile(clips.at(name));
      await zip.add('a/one.txt', Buffer.from('one'));
      await zip.add('two.txt', Buffer.from('two'));
      await zip.finish();
      return { files: await filesIn(clips.at(name)), bytes: await readFile(clips.at(name)) };
    };
    const [a, b] = [await write('a.zip'), await write('b.zip')];
    expect(a.files.get('a/one.txt')!.toString()).toBe('one');
    expect([...a.files.keys()]).toEqual(['a/one.txt', 'two.txt']);
    expect(b.bytes.equals(a.bytes)).toBe(true);
  });

  it('says where it cannot be', async () => {
    const zip = new ZipFile(clips.at('no/such/folder.zip'));
    const written = zip.add('a', Buffer.from('a')).then(() => zip.finish());
    await expect(written).rejects.toMatchObject({ code: 'cannot-write' });
  });
});
