import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { crc32, deflateSync, gzipSync } from 'node:zlib';
import { NEW_EDGE, NEW_TEXT_STYLE } from '@lurn/model';
import sharp from 'sharp';
import { factsOfPicture, pictureLimits, pictureOf } from './picture-process.js';
import { makeRaster } from './rasters.js';
import { drawText } from './text.js';

/** Pictures that are made to do harm, and ones that ask for more than there is. */

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-pictures-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const file = async (name: string, bytes: Buffer | string) => {
  const path = join(folder, name);
  await writeFile(path, bytes);
  return path;
};
const svg = (inside: string, more = '') =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="2000" height="2000"${more}>${inside}</svg>`;

/** A black square PNG of one bit a pixel: hardly any bytes, however large it is. */
function blackPng(side: number): Buffer {
  const chunk = (name: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(name, 'latin1'), data]);
    const out = Buffer.alloc(body.length + 8);
    out.writeUInt32BE(data.length);
    body.copy(out, 4);
    out.writeUInt32BE(crc32(body), body.length + 4);
    return out;
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(side);
  head.writeUInt32BE(side, 4);
  head[8] = 1;
  const rows = deflateSync(Buffer.alloc(side * (1 + side / 8)), { level: 1 });
  const parts = [chunk('IHDR', head), chunk('IDAT', rows), chunk('IEND', Buffer.alloc(0))];
  return Buffer.concat([Buffer.from('89504e470d0a1a0a', 'hex'), ...parts]);
}

describe('a picture that somebody brings', () => {
  it('is ended when it draws for too long, and the next one is read all the same', async () => {
    const veil = '<rect width="2000" height="2000" fill="#fff" opacity=".5"/>';
    const path = await file('veils.svg', svg(veil.repeat(20_000)));
    const before = { ...pictureLimits };
    // By its processor time, not by the clock.
    Object.assign(pictureLimits, { longestMs: 700, patience: 1e5 });
    const plain = await file('plain.svg', svg('<rect width="9" height="9"/>'));
    const [heavy, light] = await Promise.allSettled([
      factsOfPicture(path, 'veils.svg'),
      factsOfPicture(plain, 'plain.svg'),
    ]);
    Object.assign(pictureLimits, before);
    expect(heavy).toMatchObject({
      status: 'rejected',
      reason: {
        code: 'too-heavy',
        message: expect.stringMatching(/^"veils.svg" takes longer than 0.7 s to draw\. Make it/),
      },
    });
    expect(light).toMatchObject({ status: 'fulfilled', value: { width: 2000, vector: true } });
  });

  it('may not be packed, nor have pictures in it that are larger than others may be', async () => {
    const packed = await file('packed.svg', gzipSync(svg('')));
    await expect(factsOfPicture(packed, 'packed.svgz')).rejects.toThrow(/is packed with gzip/);
    const inside = blackPng(16_000).toString('base64');
    const bomb = await file(
      'bomb.svg',
      svg(`<image width="9" height="9" href="data:image/png;base64,${inside}"/>`),
    );
    await expect(factsOfPicture(bomb, 'bomb.svg')).rejects.toMatchObject({
      code: 'too-large',
      message: expect.stringMatching(/has pictures of 256 million pixels in it/),
    });
  });

  it('gives the samples that it has, and says what is wrong in the words of its reader', async () => {
    const path = await file('dot.png', await sharp({ create: { width: 3, height: 2, channels: 4, background: '#ff000080' } }).png().toBuffer()); // prettier-ignore
    const { width, height, data } = await pictureOf(path);
    expect([width, height, [...data.subarray(0, 4)]]).toEqual([3, 2, [128, 0, 0, 128]]);
    const text = await file('text.png', 'no picture');
    await expect(factsOfPicture(text, 'text.png')).rejects.toMatchObject({ code: 'bad-picture' });
  });
});

describe('an edge', () => {
  it('that is far wider than what it runs round takes no more samples for that', async () => {
    const path = await file('wide.png', await sharp({ create: { width: 900, height: 600, channels: 3, background: '#0f0' } }).png().toBuffer()); // prettier-ignore
    const ask = { kind: 'asset', key: 'a', hash: 'h', side: 1, edge: { ...NEW_EDGE, blur: 20 } } as const;
    const raster = (await makeRaster(ask, () => path))!;
    expect(raster.width * raster.height).toBeLessThan(2e6);
    // A pixel a side, blurred by 20: its core is a twentieth of a blur's standard deviation.
    const inner = raster.inner!;
    expect((20 * inner.width) / Math.sqrt(1.5) / 128).toBeCloseTo(1, 0);
    const least = (await makeRaster({ ...ask, side: 1e-6, edge: { grow: 500, soften: 500, blur: 500 } }, () => path))!; // prettier-ignore
    expect(least.width).toBeLessThan(2000);
  });
});

describe('a text', () => {
  it('of very many lines is no larger than others', () => {
    const lines = Array.from({ length: 1000 }, (_, i) => `pylon ${i}`);
    const { width, height } = drawText(lines.join('\n'), NEW_TEXT_STYLE);
    expect(width * height).toBeLessThan(10e6);
  });
});
