import { createHash } from 'node:crypto';
import { readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { formatById, partsOf } from '../index.js';
import { ClipFolder, difference, indexed, picture, renderPlain, streams, x264 } from '../testing/clips.js';
import { covering } from '../testing/covering.js';

let clips: ClipFolder;
const SMALL = picture('160x90', 8.4);
beforeAll(async () => {
  clips = await ClipFolder.open();
  const tone = ['-f', 'lavfi', '-i', 'sine=frequency=440:duration=8.4', '-c:a', 'aac', '-shortest'];
  await clips.make('long.mp4', ...SMALL, ...tone, ...x264, '-bf', '2');
  await clips.make('uneven.mp4', ...SMALL, '-vf', 'select=not(mod(n\\,3))+not(mod(n\\,7))', '-vsync', 'vfr', ...x264); // prettier-ignore
  await clips.make('ntsc.mp4', '-f', 'lavfi', '-i', 'testsrc2=size=160x90:rate=30000/1001:duration=8.4', ...x264); // prettier-ignore
}, 60_000);
afterAll(() => clips.remove());

const hashOf = async (name: string) => createHash('sha256').update(await readFile(clips.at(name))).digest('hex'); // prettier-ignore

describe('the parts of a render', () => {
  it('cover a range once, each of some seconds, and are one where parts cannot be joined', () => {
    const parts = partsOf({ fps: 25 }, 30, 310, formatById('h264-mp4'));
    expect(parts.map((p) => [p.from, p.to])).toEqual([[30, 79], [80, 129], [130, 179], [180, 229], [230, 279], [280, 310]]); // prettier-ignore
    expect(partsOf({ fps: 25 }, 30, 310, formatById('gif'))).toHaveLength(1);
  });

  it.each(
    covering<[string, string, string, number]>([
      ['long.mp4', 'hevc-mp4', 'mp4', 2e-5],
      ['ntsc.mp4', 'prores-422-mov', 'mov', 2e-5],
      ['uneven.mp4', 'vp9-webm', 'webm', 1e-3],
      ['long.mp4', 'vp9-alpha-webm', 'webm', 1e-3],
      ['ntsc.mp4', 'ffv1-mkv', 'mkv', 1e-3],
      ['uneven.mp4', 'h264-mp4', 'mp4', 2e-5],
      ['long.mp4', 'h264-mp4', 'mp4', 2e-5],
      ['ntsc.mp4', 'h264-mp4', 'mp4', 2e-5],
    ]),
  )(
    'of %s as %s are joined, every frame in its time',
    async (name, format, extension, within) => {
      const clip = await indexed(clips.at(name));
      const out = `joined ${format} ${name}.${extension}`;
      await renderPlain(clips.at(name), clip, clips.at(out), { format, from: 7 });
      const made = await indexed(clips.at(out));
      expect(made.info.frames).toBe(clip.info.frames - 7);
      const off = [...made.times].map((t, i) => Math.abs(t - (clip.times[i + 7] - clip.times[7])));
      expect(Math.max(...off)).toBeLessThan(within);
      expect(await difference(clips.at(name), clip, clips.at(out), 7)).toBeLessThan(2.5);
      expect(!!made.info.audio).toBe(name === 'long.mp4');
      if (format === 'vp9-alpha-webm') {
        const [{ tags }] = (await streams(clips.at(out))) as unknown as { tags: Record<string, string> }[];
        expect(Object.fromEntries(Object.entries(tags).map(([k, v]) => [k.toLowerCase(), v]))).toMatchObject({ alpha_mode: '1' }); // prettier-ignore
      }
    },
    60_000,
  );

  it.each(['h264-mp4', 'png-zip'])(
    'are taken up where a %s was stopped, and give the same bits',
    async (format) => {
      const clip = await indexed(clips.at('long.mp4'));
      const extension = formatById(format).extension;
      await renderPlain(clips.at('long.mp4'), clip, clips.at(`whole.${extension}`), { format });
      const work = clips.at(`kept ${format}`);
      const rendered: number[] = [];
      for (const end of [80, 90, 170]) {
        const stop = new AbortController();
        let first = true;
        const going = renderPlain(clips.at('long.mp4'), clip, clips.at(`parts.${extension}`), {
          ...{ format, work, signal: stop.signal },
          onProgress: (n) => {
            if (first) rendered.push(n);
            first = false;
            if (n >= end) stop.abort();
          },
        });
        await expect(going).rejects.toMatchObject({ code: 'stopped' });
        // What was half written by a process that is gone is swept away.
        await writeFile(`${work}/.00009.0123abcd.part`, 'half');
      }
      const kept = await readdir(work);
      expect(kept.length).toBeGreaterThanOrEqual(2);
      await renderPlain(clips.at('long.mp4'), clip, clips.at(`parts.${extension}`), { format, work });
      expect(await hashOf(`parts.${extension}`)).toBe(await hashOf(`whole.${extension}`));
      // It went on, and nothing is left of its parts.
      expect(rendered[0]).toBe(1);
      expect(rendered[2]).toBeGreaterThanOrEqual(50);
      await expect(readdir(work)).rejects.toMatchObject({ code: 'ENOENT' });
      await rm(clips.at(`parts.${extension}`));
    },
    60_000,
  );
});
