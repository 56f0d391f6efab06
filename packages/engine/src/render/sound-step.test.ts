import { ffmpegPath, formatById } from '../index.js';
import { ClipFolder, indexed, picture, renderPlain, run, x264 } from '../testing/clips.js';
import { covering } from '../testing/covering.js';

/** The sound of every format is in step with the source's, whole and cut to a range. */

let clips: ClipFolder;
const RATE = 48_000;
/** Clicks at uneven moments, each of another height: where they are, a correlation has one peak. */
const NOISE =
  "aevalsrc='if(lt(mod(t*t*7.3+t*1.9,1),0.02),0.6*sin(9000*t*t),0)+0.05*sin(2*PI*310*t)':s=48000:d=7";

beforeAll(async () => {
  clips = await ClipFolder.open();
  const sound = ['-f', 'lavfi', '-i', NOISE, '-shortest'];
  const short = picture('256x144', 3.4);
  await clips.make('pcm.mov', ...short, ...sound, ...x264, '-c:a', 'pcm_s16le');
  await clips.make('aac.mp4', ...short, ...sound, ...x264, '-c:a', 'aac', '-b:a', '256k');
  // As telephones do: one picture of seven is missing.
  const uneven = ['-vf', "select='not(eq(mod(n,7),3))'", '-vsync', 'vfr'];
  await clips.make('uneven.mp4', ...short, ...sound, ...uneven, ...x264, '-c:a', 'aac', '-b:a', '256k');
  // As screens are recorded.
  await clips.make('opus.mkv', ...short, ...sound, ...x264, '-c:a', 'libopus', '-b:a', '192k');
}, 60_000);
afterAll(() => clips.remove());

/** One channel of a file's sound as it is presented, from the first picture's moment on. */
async function heard(file: string): Promise<Float32Array> {
  const { info } = await indexed(file);
  const zero = info.startTime - info.fileStart;
  const filter = `aresample=async=1:first_pts=0${zero > 0 ? `,atrim=start=${zero}` : ''}`;
  const { stdout } = await run(
    await ffmpegPath(),
    ['-v', 'error', '-i', file, '-vn', '-af', filter, '-ac', '1', '-ar', String(RATE), '-f', 'f32le', '-'],
    { encoding: 'buffer', maxBuffer: 1e8 },
  ); // prettier-ignore
  const bytes = stdout as unknown as Buffer;
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
}

/** What is heard of a source; asked for again and again. */
const sources = new Map<string, Promise<Float32Array>>();
function heardOf(source: string): Promise<Float32Array> {
  const known = sources.get(source) ?? heard(clips.at(source));
  sources.set(source, known);
  return known;
}

/** By how many samples `b` lies later than `a` from some sample on, by the correlation's peak. */
function later(a: Float32Array, b: Float32Array, from: number): number {
  const [n, reach] = [RATE / 4, 1200];
  let [best, at] = [-Infinity, 0];
  for (let lag = -reach; lag <= reach; lag++) {
    let sum = 0;
    for (let j = 4800; j < 4800 + n; j++) sum += a[from + j] * (b[j + lag] ?? 0);
    if (sum > best) [best, at] = [sum, lag];
  }
  return at;
}

/** First what has been out of step before. */
const CASES: [string, string, number][] = [
  // Carried over, and coded anew where QuickTime has no place for it.
  ['vp9-webm', 'opus.mkv', 61],
  ['vp9-webm', 'pcm.mov', 0],
  ['h264-mp4', 'opus.mkv', 61],
  ['h264-mov', 'opus.mkv', 61],
  ['hevc-mov', 'opus.mkv', 61],
  ['h264-mp4', 'aac.mp4', 61],
  ['prores-422-mov', 'uneven.mp4', 61],
  ['dnxhr-mov', 'pcm.mov', 61],
  ['ffv1-mkv', 'pcm.mov', 61],
  ['ffv1-mkv', 'aac.mp4', 0],
  ['h264-mp4', 'uneven.mp4', 0],
  ['h264-mp4', 'uneven.mp4', 61],
  ['h264-mp4', 'aac.mp4', 0],
  ...['h264-mp4', 'h264-mov', 'hevc-mov', 'vp9-webm'].map((f): [string, string, number] => [
    f,
    'opus.mkv',
    0,
  ]),
  ...['h264-mp4', 'h264-mov', 'prores-422-mov', 'vp9-webm'].map((f): [string, string, number] => [
    f,
    'pcm.mov',
    61,
  ]),
  ...['h264-mov', 'prores-422-mov', 'dnxhr-mov', 'ffv1-mkv', 'vp9-webm'].map((f): [string, string, number] => [f, 'aac.mp4', 61]), // prettier-ignore
];

it.each(covering(CASES))(
  '%s of %s from frame %d',
  async (format, source, from) => {
    const clip = await indexed(clips.at(source));
    const { extension } = formatById(format);
    const out = clips.at(`${format} ${source} ${from}.${extension}`);
    await renderPlain(clips.at(source), clip, out, { format, from });
    const whole = await heardOf(source);
    const off = later(whole, await heard(out), Math.round(clip.times[from] * RATE));
    const lossless = source === 'pcm.mov' && /prores|dnxhr|ffv1/.test(format);
    expect(Math.abs(off)).toBeLessThanOrEqual(lossless ? 1 : RATE / 1000);
  },
  60_000,
);
