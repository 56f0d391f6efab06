import { createHash } from 'node:crypto';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { readExr } from '@lurn/core/formats';
import { matrixWarp } from '@lurn/core/geometry';
import { lightTable } from '@lurn/core/picture';
import { unzipSync } from 'fflate';
import { chromaOf, ffmpegPath, layoutFor } from '../index.js';
import { ClipFolder, indexed, renderPlain, run, streams } from '../testing/clips.js';

/** What is deeper or finer than eight bits and 4:2:0 stays so, through drawing and encoding. */

let clips: ClipFolder;
const COLOURS = [
  '-color_range',
  'tv',
  '-colorspace',
  'bt709',
  '-color_trc',
  'bt709',
  '-color_primaries',
  'bt709',
];
/** A ramp of every code from black to white, and one down, that moves on from frame to frame. */
const ramp = (depth: number) => {
  const unit = 2 ** (depth - 8);
  const luma = `${16 * unit}+mod(X+3*N,${219 * unit})`;
  return `geq=lum='${luma}':cb='${128 * unit}+mod(Y,${40 * unit})':cr='${128 * unit}-mod(X,${40 * unit})'`;
};
const FORMATS = [
  'yuv420p10le',
  'yuv422p10le',
  'yuv444p10le',
  'yuv420p12le',
  'yuv444p16le',
  'yuv422p',
] as const;
const depthOf = (format: string) => Number(/p(\d+)/.exec(format)?.[1] ?? 8);

beforeAll(async () => {
  clips = await ClipFolder.open();
  for (const format of FORMATS) {
    const source = ['-f', 'lavfi', '-i', `color=size=1024x32:rate=25:duration=0.2,format=${format},${ramp(depthOf(format))}`]; // prettier-ignore
    await clips.make(`${format}.mkv`, ...source, '-c:v', 'ffv1', '-pix_fmt', format, ...COLOURS);
  }
}, 60_000);
afterAll(() => clips.remove());

/** Decoded samples of a file as some pixel format. */
async function samples(file: string, format: string, ...input: string[]): Promise<Buffer> {
  const { stdout } = await run(await ffmpegPath(), ['-v', 'error', ...input, '-i', file, '-f', 'rawvideo', '-pix_fmt', format, '-'], { encoding: 'buffer', maxBuffer: 1e9 }); // prettier-ignore
  return stdout as unknown as Buffer;
}
const hashOf = (bytes: Buffer) => createHash('sha256').update(bytes).digest('hex');

it('is told by the pixel format', () => {
  expect(['yuv420p', 'nv12', 'yuv422p10le', 'uyvy422', 'gbrp12le', 'yuvj444p'].map(chromaOf)).toEqual(['420', '420', '422', '422', '444', '444']); // prettier-ignore
  const info = { pixelFormat: 'yuv444p12le', bitDepth: 12 } as never;
  expect(layoutFor(info, { depths: [8, 10], chroma: ['420', '422'] }).pixelFormat).toBe('yuv422p10le');
});

it.each(FORMATS)('%s is the same bit for bit as FFV1', async (format) => {
  const clip = await indexed(clips.at(`${format}.mkv`));
  const out = clips.at(`${format} out.mkv`);
  await renderPlain(clips.at(`${format}.mkv`), clip, out, { format: 'ffv1-mkv' });
  const [{ pix_fmt }] = (await streams(out)) as unknown as { pix_fmt: string }[];
  expect(pix_fmt).toBe(format);
  expect(hashOf(await samples(out, format))).toBe(hashOf(await samples(clips.at(`${format}.mkv`), format)));
});

it('ten bits are within a code of 1023 as ProRes 4444, with every code of the ramp still there', async () => {
  const clip = await indexed(clips.at('yuv444p10le.mkv'));
  const out = clips.at('master.mov');
  await renderPlain(clips.at('yuv444p10le.mkv'), clip, out, { format: 'prores-4444-mov' });
  const read = async (file: string) => {
    const bytes = await samples(file, 'yuv444p10le');
    return new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2);
  };
  const [before, after] = [await read(clips.at('yuv444p10le.mkv')), await read(out)];
  expect(after.length).toBe(before.length);
  const off = before.reduce((sum, v, i) => sum + Math.abs(v - after[i]), 0) / before.length;
  expect(off).toBeLessThan(1);
  // No banding: eight bits would leave a quarter of them.
  expect(new Set(after.subarray(0, 1024 * 32)).size).toBeGreaterThan(800);
});

it('ten bits go into sixteen of PNG as ffmpeg itself would bring them there', async () => {
  const clip = await indexed(clips.at('yuv444p10le.mkv'));
  const out = clips.at('pictures.zip');
  await renderPlain(clips.at('yuv444p10le.mkv'), clip, out, { format: 'png-zip' });
  await mkdir(clips.at('pictures'));
  const files = unzipSync(await readFile(out));
  for (const [name, bytes] of Object.entries(files)) await writeFile(clips.at(`pictures/${name}`), bytes);
  const ours = await samples(clips.at('pictures/%06d.png'), 'rgb48le');
  const theirs = await samples(clips.at('yuv444p10le.mkv'), 'rgb48le', '-sws_flags', 'bicubic+accurate_rnd+full_chroma_int+full_chroma_inp'); // prettier-ignore
  const [a, b] = [ours, theirs].map(
    (bytes) => new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2),
  );
  expect(a.length).toBe(b.length);
  expect(a.every((v, i) => v === b[i])).toBe(true);
});

it('ten bits go into half precision of OpenEXR, and every code comes back', async () => {
  const clip = await indexed(clips.at('yuv444p10le.mkv'));
  const out = clips.at('light.zip');
  await renderPlain(clips.at('yuv444p10le.mkv'), clip, out, { format: 'exr-zip', to: 0 });
  const { '000000.exr': bytes } = unzipSync(await readFile(out));
  const { width, height, channels } = readExr(bytes);
  expect([width, height]).toEqual([1024, 32]);
  const rgb = new Uint16Array((await samples(clips.at('yuv444p10le.mkv'), 'rgb48le', '-sws_flags', 'bicubic+accurate_rnd+full_chroma_int+full_chroma_inp')).buffer.slice(0, 1024 * 32 * 6)); // prettier-ignore
  const table = lightTable('bt709');
  // The light of each sample is that of its code, to the precision of a half: so the codes of ten bits stay apart.
  let worst = -Infinity;
  for (let i = 0; i < 1024 * 32; i += 7)
    for (const [k, name] of ['R', 'G', 'B'].entries()) {
      const light = table[rgb[3 * i + k]];
      // ... and that of one of 65 536 codes more, a sixty-fourth of one of ten bits: what becomes red, green and blue with
      // alpha beside it is rounded on another way.
      const step = table[Math.min(65535, rgb[3 * i + k] + 1)] - light;
      worst = Math.max(worst, Math.abs(channels[name][i] - light) - light * 2 ** -11 - step);
    }
  expect(worst).toBeLessThanOrEqual(2 ** -24);
  expect(channels.A.every((a) => a === 1)).toBe(true);
});

it.each(['png-zip', 'exr-zip'])('eight bits are quite opaque as %s', async (format) => {
  const clip = await indexed(clips.at('yuv422p.mkv'));
  const out = clips.at(`${format}.zip`);
  await renderPlain(clips.at('yuv422p.mkv'), clip, out, { format, to: 0 });
  const [bytes] = Object.values(unzipSync(await readFile(out)));
  if (format === 'exr-zip') return expect(readExr(bytes).channels.A.every((a) => a === 1)).toBe(true);
  await writeFile(clips.at('one.png'), bytes);
  expect([...(await samples(clips.at('one.png'), 'rgba'))].every((v, i) => i % 4 < 3 || v === 255)).toBe(
    true,
  );
});

it('what is moved keeps its depth: between two codes of ten bits lie others of a blend', async () => {
  const clip = await indexed(clips.at('yuv420p10le.mkv'));
  const out = clips.at('moved.mkv');
  const toSource = matrixWarp([0.9, 0, 20, 0, 0.9, 1, 0, 0, 1]);
  await renderPlain(clips.at('yuv420p10le.mkv'), clip, out, { format: 'ffv1-mkv', toSource });
  const bytes = await samples(out, 'yuv420p10le');
  const luma = new Uint16Array(bytes.buffer, bytes.byteOffset, 1024 * 32);
  const row = luma.subarray(1024 * 16 + 60, 1024 * 16 + 760);
  // A ramp of one code a sample, sampled every 0.9: it goes up by 0 or 1 each time, never by a step of eight bits.
  const steps = [...row].slice(1).map((v, i) => v - row[i]);
  expect(Math.max(...steps)).toBeLessThanOrEqual(1);
  expect(steps.filter((s) => s === 1).length).toBeGreaterThan(600);
});
