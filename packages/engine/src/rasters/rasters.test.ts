import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Raster } from '@lurn/core/compose';
import { NEW_EDGE, NEW_TEXT_STYLE, type RasterSource } from '@lurn/model';
import sharp from 'sharp';
import { readPicture, readPictureFacts } from './picture-file.js';
import { makeRaster, makeRasters } from './rasters.js';
import { drawText, lettersMissing } from './text.js';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-rasters-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const file = async (name: string, bytes: Buffer | string) => {
  const path = join(folder, name);
  await writeFile(path, bytes);
  return path;
};
/** A red square with a green right half, half open. */
const square = (width = 40, height = 20) => {
  const data = Buffer.alloc(4 * width * height);
  for (let k = 0; k < width * height; k++)
    data.set(k % width < width / 2 ? [255, 0, 0, 255] : [0, 255, 0, 128], 4 * k);
  return sharp(data, { raw: { width, height, channels: 4 } });
};
const at = ({ width, data }: Raster, x: number, y: number) => [
  ...data.subarray(4 * (y * width + x), 4 * (y * width + x) + 4),
];

describe('picture files', () => {
  it.each(['png', 'webp', 'jpeg'] as const)('%s is read as it is seen, multiplied by alpha', async (kind) => {
    const path = await file(`a.${kind}`, await square()[kind]({ quality: 100 }).toBuffer());
    expect(await readPictureFacts(path, 'a')).toMatchObject({
      width: 40,
      height: 20,
      vector: false,
      notes: [],
    });
    const raster = await readPicture(path);
    expect([raster.width, raster.height]).toEqual([40, 20]);
    expect(at(raster, 5, 5)[3]).toBe(255);
    expect(at(raster, 5, 5)[0]).toBeGreaterThan(235);
    if (kind === 'jpeg') return;
    const [r, g, b, a] = at(raster, 35, 5);
    expect([r < 5, Math.abs(g - 128) < 5, b < 5, a]).toEqual([true, true, true, 128]);
  });

  it('are turned as the camera was held', async () => {
    const path = await file('turned.jpg', await square().jpeg().withMetadata({ orientation: 6 }).toBuffer());
    expect(await readPictureFacts(path, 'turned')).toMatchObject({ width: 20, height: 40 });
    const raster = await readPicture(path);
    expect([raster.width, raster.height]).toEqual([20, 40]);
    expect(at(raster, 10, 5)[0]).toBeGreaterThan(200);
  });

  it('in CMYK become sRGB, and animated ones show their first picture; both are said', async () => {
    const cmyk = await file('print.jpg', await square().toColourspace('cmyk').jpeg().toBuffer());
    const facts = await readPictureFacts(cmyk, 'print.jpg');
    expect(facts.notes).toEqual(['"print.jpg" is in CMYK: its colours were converted to sRGB.']);
    const [r, g] = at(await readPicture(cmyk), 5, 5);
    expect(r - g).toBeGreaterThan(100);
    const frames = Buffer.concat([await square().removeAlpha().raw().toBuffer(), Buffer.alloc(2400, 200)]);
    const moving = await sharp(frames, {
      raw: { width: 40, height: 40, channels: 3, pageHeight: 20 } as never,
    })
      .webp({ loop: 0 })
      .toBuffer();
    const path = await file('moving.webp', moving);
    const { notes } = await readPictureFacts(path, 'moving.webp');
    expect(notes).toEqual(['"moving.webp" is animated: its first picture is shown.']);
    expect((await readPicture(path)).height).toBe(20);
  });

  it('drawn in vectors are drawn large; scripts and what they refer to are neither run nor fetched', async () => {
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="30" height="10">
      <script>throw 1</script><image href="file:///etc/passwd" width="30" height="10"/>
      <image href="http://127.0.0.1:9/a.png" width="3" height="3"/>
      <rect width="15" height="10" fill="#ff0000"/></svg>`;
    const path = await file('sign.svg', svg);
    const facts = await readPictureFacts(path, 'sign.svg');
    expect(facts).toMatchObject({ width: 30, height: 10, vector: true });
    expect(facts.notes[0]).toMatch(/never run and never fetched/);
    const raster = await readPicture(path);
    expect(raster.width).toBeGreaterThan(1500);
    expect(at(raster, 100, 100)).toEqual([255, 0, 0, 255]);
    expect(at(raster, raster.width - 100, 100)[3]).toBe(0);
  });

  it.each([
    ['empty', '', /is empty/],
    ['text', 'no picture at all', /is no picture that can be read. Bring in one of PNG/],
  ])('that are %s are refused by name', async (name, bytes, told) => {
    await expect(readPictureFacts(await file(name, bytes), `${name}.png`)).rejects.toThrow(told);
  });

  it('that are cut off, or far too large, are refused in words', async () => {
    const whole = await square(400, 300).png().toBuffer();
    await expect(readPictureFacts(await file('cut', whole.subarray(0, 300)), 'cut.png')).rejects.toThrow(
      /"cut.png" is broken/,
    );
    const huge = await sharp({ create: { width: 20_000, height: 200, channels: 3, background: '#123456' } })
      .png()
      .toBuffer();
    await expect(readPictureFacts(await file('huge', huge), 'huge.png')).rejects.toThrow(
      /"huge.png" has 20000 x 200 pixels; at most 16384 a side .* Make it smaller/,
    );
  });
});

describe('texts', () => {
  const style = NEW_TEXT_STYLE;

  it('are as wide as their letters and as high as their lines', () => {
    const [one, long, two] = ['Tal', 'Talstation', 'Tal\nTal'].map((text) => drawText(text, style));
    expect(long.width).toBeGreaterThan(2 * one.width);
    expect(two.height).toBeGreaterThan(1.8 * one.height);
    expect(one.data.includes(255)).toBe(true);
    const heavy = drawText('Tal', { ...style, weight: 700 });
    const light = drawText('Tal', { ...style, weight: 400 });
    const ink = ({ data }: Raster) => data.reduce((s, v, k) => s + (k % 4 === 3 ? v : 0), 0);
    expect(ink(heavy)).toBeGreaterThan(1.15 * ink(light));
    expect(ink(drawText('Tal', { ...style, outline: 0.1 }))).toBeGreaterThan(1.2 * ink(heavy));
  });

  it('are the same every time, and show nothing when they are empty', () => {
    expect(drawText('Ridge', style)).toEqual(drawText('Ridge', style));
    expect(drawText(' \n', style)).toEqual({ width: 1, height: 1, data: new Uint8Array(4) });
  });

  it('stay within bounds however long they are', () => {
    expect(drawText('m'.repeat(600), style).width).toBeLessThanOrEqual(5200);
  });

  it('say which letters their font lacks', () => {
    expect(lettersMissing('Talstation Ő ß', 'Hanken Grotesk')).toEqual([]);
    expect(lettersMissing('谷駅 Tal', 'Hanken Grotesk')).toEqual(['谷', '駅']);
  });
});

describe('rasters', () => {
  it('are made of all that layers show, and what has gone is left out', async () => {
    const path = await file('crest.png', await square().png().toBuffer());
    const edge = { ...NEW_EDGE };
    const sources: RasterSource[] = [
      { kind: 'asset', key: 'a', hash: 'here', edge, side: 0 },
      { kind: 'asset', key: 'b', hash: 'gone', edge, side: 0 },
      { kind: 'text', key: 'c', text: 'x', style: NEW_TEXT_STYLE, edge, side: 0 },
    ];
    const made = await makeRasters(sources, (hash) => (hash === 'here' ? path : null));
    expect([...made.keys()]).toEqual(['a', 'c']);
    expect(made.get('a')!.data.buffer).toBeInstanceOf(SharedArrayBuffer);
  });

  it('have their edge told in pixels of the frame, however large they are themselves', async () => {
    const path = await file('big.png', await square(400, 200).png().toBuffer());
    // 400 x 200 samples on 100 x 50 pixels: a pixel is four samples.
    const source = { kind: 'asset', key: 'a', hash: 'here', side: Math.sqrt(100 * 50) } as const;
    const raster = (await makeRaster({ ...source, edge: { ...NEW_EDGE, grow: -5 } }, () => path))!;
    const { left, top } = raster.inner!;
    const row = top + 100;
    expect([18, 22].map((x) => at(raster, left + x, row)[3])).toEqual([0, 255]);
  });
});
