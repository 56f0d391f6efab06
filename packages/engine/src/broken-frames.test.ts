import { readFile, writeFile } from 'node:fs/promises';
import { isComplaint, namedStretches, stretchesOf } from './broken-frames.js';
import { indexClip } from './frame-index.js';
import { ClipFolder, picture, run } from './testing/clips.js';
import { ffprobePath } from './tools.js';

describe('stretches of broken frames', () => {
  const stamps = Array.from({ length: 40 }, (_, i) => 2 + i / 25);
  const keys = [2, 2.4, 2.8, 3.2];

  it('go on until the next frame that stands by itself, and join where they touch', () => {
    expect(stretchesOf([stamps[13]], stamps, keys)).toEqual([{ from: 13, to: 19 }]);
    expect(stretchesOf([stamps[22], stamps[13], stamps[15]], stamps, keys)).toEqual([
      { from: 13, to: 19 },
      { from: 22, to: 29 },
    ]);
    expect(stretchesOf([stamps[19], stamps[20]], stamps, keys)).toEqual([{ from: 19, to: 29 }]);
    expect(stretchesOf([stamps[35]], stamps, keys)).toEqual([{ from: 35, to: 39 }]);
    expect(stretchesOf([], stamps, keys)).toEqual([]);
  });

  it('are named', () => {
    expect(namedStretches([{ from: 4, to: 4 }])).toBe('frame 4');
    expect(namedStretches([{ from: 4, to: 9 }, { from: 20, to: 20 }])).toBe('frames 4 to 9 and 20'); // prettier-ignore
    expect(namedStretches(Array.from({ length: 9 }, (_, i) => ({ from: 3 * i, to: 3 * i })))).toMatch(/^frames 0, 3, 6, 9, 12 and others$/); // prettier-ignore
  });
});

describe('what ffmpeg says', () => {
  it('is a complaint where it is of the pictures, not where a name or a setting has such a word', () => {
    for (const line of [
      '[h264 @ 0x5f1c] error while decoding MB 12 3, bytestream -5',
      '[mov,mp4 @ 0x5f1c] stream 0, offset 0x30: partial file',
      'Error while decoding stream #0:0: Invalid data found when processing input',
      'av_interleaved_write_frame(): No space left on device',
    ])
      expect([line, isComplaint(line)]).toEqual([line, true]);
    for (const line of [
      'Using -vsync 0 and -r can produce invalid output files',
      "Input #0, mov,mp4, from 'file:/takes/partial/gondola.mp4':",
      "[segment @ 0x5f1c] Opening 'file:/error/copy/00001.mp4' for writing",
      '    title           : the invalid’s lift',
      '[h264 @ 0x5f1c] ct_type:0 pic_struct:0',
    ])
      expect([line, isComplaint(line)]).toEqual([line, false]);
  });
});

describe('a clip that is damaged in the middle', () => {
  let clips: ClipFolder;
  beforeAll(async () => {
    clips = await ClipFolder.open();
  });
  afterAll(() => clips.remove());

  it.each(['0', '2'])('says which frames, with %s B-frames, and keeps them all', async (between) => {
    const coded = [
      '-c:v',
      'libx264',
      '-preset',
      'veryfast',
      '-g',
      '25',
      '-sc_threshold',
      '0',
      '-bf',
      between,
    ];
    const whole = await clips.make(`whole${between}.mkv`, ...picture('320x180', 4), ...coded);
    const { info, times } = await indexClip(whole);
    expect(info.warning).toBeNull();
    // A picture in the middle is overwritten, but for its first bytes: what the container says is whole.
    const bytes = await readFile(whole);
    const asked = ['-v', 'error', '-show_entries', 'packet=pos,size', '-of', 'csv=p=0', whole];
    const { stdout } = await run(await ffprobePath(), asked);
    const [size, pos] = stdout.trim().split('\n')[55].split(',').map(Number);
    bytes.fill(0x55, pos + Math.min(40, size >> 2), pos + size);
    const file = clips.at(`broken${between}.mkv`);
    await writeFile(file, bytes);
    const { info: broken } = await indexClip(file);
    expect(broken.frames).toBe(times.length);
    const [, from, to] = /What is seen on frames? (\d+)(?: to (\d+))?/.exec(broken.warning ?? '') ?? [];
    expect(Number(from)).toBeGreaterThan(40);
    expect(Number(from)).toBeLessThan(65);
    // Up to the next frame that stands by itself.
    expect((Number(to ?? from) + 1) % 25).toBe(0);
    expect(broken.damaged).toEqual([{ from: Number(from), to: Number(to ?? from) }]);
    expect(info.damaged).toBeUndefined();
  });
});
