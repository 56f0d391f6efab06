import { Decoder, type DecodeRange } from './index.js';
import { ClipFolder, indexed, picture } from './testing/clips.js';

/** Reading from the middle of a file gives the very frames that reading it from the beginning gives. */

let clips: ClipFolder;
const LONG = picture('96x64', 11);
const x264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-pix_fmt', 'yuv420p'];
const CODED: Readonly<Record<string, readonly string[]>> = {
  'b-frames.mp4': [...x264, '-bf', '3', '-g', '90'],
  'open.mp4': [...x264, '-bf', '3', '-g', '30', '-x264-params', 'open-gop=1'],
  'open.mkv': [...x264, '-bf', '3', '-g', '30', '-x264-params', 'open-gop=1'],
  'hevc.mp4': ['-c:v', 'libx265', '-preset', 'veryfast', '-x265-params', 'keyint=40:log-level=error'],
  'late.mov': ['-c:v', 'libx264', '-preset', 'veryfast', '-output_ts_offset', '3.7', '-bf', '2'],
  'vfr.mp4': ['-vf', 'select=not(mod(n\\,3))+not(mod(n\\,7))', '-vsync', 'vfr', ...x264, '-bf', '2'],
  'hidden.webm': [
    '-c:v',
    'libvpx-vp9',
    '-deadline',
    'realtime',
    '-cpu-used',
    '8',
    '-g',
    '60',
    '-crf',
    '30',
    '-b:v',
    '0',
  ],
  'all.mov': ['-c:v', 'prores_ks'],
  'stream.ts': [...x264, '-bf', '2', '-g', '40'],
};

beforeAll(async () => {
  clips = await ClipFolder.open();
  for (const [name, how] of Object.entries(CODED)) await clips.make(name, ...LONG, ...how);
}, 120_000);
afterAll(() => clips.remove());

async function frames(
  file: string,
  info: Parameters<typeof Decoder.open>[1],
  range: DecodeRange,
): Promise<Buffer[]> {
  const decoder = await Decoder.open(file, info, range, 'planes');
  const out: Buffer[] = [];
  for (let f = range.from; f <= range.to; f++) {
    const bytes = new Uint8Array(decoder.frameSize);
    if (!(await decoder.read(bytes))) break;
    out.push(Buffer.from(bytes));
  }
  decoder.close();
  return out;
}

it.each(Object.keys(CODED))(
  '%s',
  async (name) => {
    const { info, times } = await indexed(clips.at(name));
    const whole = await frames(clips.at(name), info, { from: 0, to: info.frames - 1 });
    expect(whole).toHaveLength(info.frames);
    const last = info.frames - 1;
    for (const from of [80, 89, 90, 91, 100, 119, 120, 121, last - 2]) {
      const to = Math.min(last, from + 2);
      const some = await frames(clips.at(name), info, { from, to, times });
      expect(some.map((b, i) => b.equals(whole[from + i]))).toEqual(
        whole.slice(from, to + 1).map(() => true),
      );
    }
  },
  60_000,
);
