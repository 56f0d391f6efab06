import { readFile, stat } from 'node:fs/promises';
import { LurnError } from '@lurn/core';
import type { Raster } from '@lurn/core/compose';
import sharp from 'sharp';

/** The longest side that is taken, and the most pixels, so that nothing runs out of memory over one graphic. */
const LONGEST = 16384;
const MOST_PIXELS = 100e6;
const MOST_BYTES = 200e6;
/** Graphics are kept no larger than this a side: pictures are hardly larger. */
const KEPT = 4096;
/** A drawing that is sharp at any size is drawn at this size. */
const DRAWN = 2048;
/** Dots an inch that a drawing may be drawn with. */
const MOST_DENSE = 50_000;

const KINDS: Readonly<Record<string, string>> = { png: 'PNG', jpeg: 'JPEG', webp: 'WebP', svg: 'SVG' };

/** What is known of a file that layers may show. */
export interface PictureFacts {
  /** Pixels, upright. */
  readonly width: number;
  readonly height: number;
  readonly bytes: number;
  readonly vector: boolean;
  /** What the person should know, in sentences. */
  readonly notes: readonly string[];
}

/**
 * Looks at a picture file.
 *
 * @param name  what the person calls it
 * @throws LurnError `bad-picture`, `too-large` that say what is wrong and what to do
 */
export async function readPictureFacts(path: string, name: string): Promise<PictureFacts> {
  const { size } = await stat(path);
  if (size === 0) throw bad(name, 'is empty (0 bytes). Export it again.');
  if (size > MOST_BYTES)
    throw tooLarge(name, `has ${Math.round(size / 1e6)} MB; at most ${MOST_BYTES / 1e6} MB are taken`);
  const file = await readFile(path);
  if (file[0] === 0x1f && file[1] === 0x8b)
    throw bad(name, 'is packed with gzip. Export it as a plain SVG, or as a PNG.');
  const meta = await sharp(file, { limitInputPixels: false })
    .metadata()
    .catch(() => null);
  const kind = meta?.format && KINDS[meta.format];
  if (!meta || !kind || !meta.width || !meta.height)
    throw bad(name, `is no picture that can be read. Bring in one of ${Object.values(KINDS).join(', ')}.`);
  const vector = meta.format === 'svg';
  const turned = (meta.orientation ?? 1) >= 5;
  const [width, height] = turned ? [meta.height, meta.width] : [meta.width, meta.height];
  if (!vector && (Math.max(width, height) > LONGEST || width * height > MOST_PIXELS))
    throw tooLarge(
      name,
      `has ${width} x ${height} pixels; at most ${LONGEST} a side and ${MOST_PIXELS / 1e6} million in all are taken`,
    );
  if (vector) {
    await demandSmall(file, name);
    // As large as it will be drawn: what takes too long then is told now.
    await readPicture(path);
  }
  await sharp(file, { limitInputPixels: MOST_PIXELS })
    .resize(8, 8, { fit: 'fill' })
    .raw()
    .toBuffer()
    .catch(() => {
      throw bad(name, 'is broken: its picture cannot be decoded. Export it again.');
    });
  const notes: string[] = [];
  if ((meta.pages ?? 1) > 1) notes.push(`"${name}" is animated: its first picture is shown.`);
  if (meta.space === 'cmyk') notes.push(`"${name}" is in CMYK: its colours were converted to sRGB.`);
  if (vector && /<script|<foreignObject|\bhref\s*=\s*["'](?!#|data:)/i.test(file.toString('utf8')))
    notes.push(
      `"${name}" has scripts or outside references: they are left out, never run and never fetched.`,
    );
  return { width, height, bytes: size, vector, notes };
}

/** The pictures in a drawing count as those in files of their own do. @throws LurnError `too-large` */
async function demandSmall(svg: Buffer, name: string): Promise<void> {
  let pixels = 0;
  for (const [, data] of svg
    .toString('latin1')
    .matchAll(/data:image\/[\w.+-]+;base64,([A-Za-z0-9+/=\s]+)/g)) {
    const meta = await sharp(Buffer.from(data, 'base64'), { limitInputPixels: false })
      .metadata()
      .catch(() => null);
    pixels += (meta?.width ?? 0) * (meta?.height ?? 0);
    if (pixels > MOST_PIXELS)
      throw tooLarge(
        name,
        `has pictures of ${Math.round(pixels / 1e6)} million pixels in it; at most ${MOST_PIXELS / 1e6} million are taken`,
      );
  }
}

/** The picture of a file as a raster. @throws LurnError `bad-picture` */
export async function readPicture(path: string): Promise<Raster> {
  const file = await readFile(path);
  const meta = await sharp(file, { limitInputPixels: false }).metadata();
  const longest = Math.max(meta.width ?? 1, meta.height ?? 1);
  // A drawing is drawn as large as it may be needed, not enlarged afterwards.
  const density =
    meta.format === 'svg' ? Math.min(MOST_DENSE, Math.max(1, (72 * DRAWN) / longest)) : undefined;
  try {
    const { data, info } = await sharp(file, {
      limitInputPixels: 4 * MOST_PIXELS,
      ...(density && { density }),
    })
      .rotate()
      .toColourspace('srgb')
      .resize({ width: KEPT, height: KEPT, fit: 'inside', withoutEnlargement: true })
      .ensureAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    return multiplied(data, info.width, info.height);
  } catch (error) {
    throw new LurnError('bad-picture', `A graphic cannot be decoded: ${(error as Error).message}`);
  }
}

/** Straight colours as they are kept: multiplied by alpha. */
export function multiplied(straight: Uint8Array, width: number, height: number): Raster {
  const data = new Uint8Array(4 * width * height);
  for (let k = 0; k < data.length; k += 4) {
    const a = straight[k + 3];
    for (let c = 0; c < 3; c++) data[k + c] = Math.round((straight[k + c] * a) / 255);
    data[k + 3] = a;
  }
  return { width, height, data };
}

const bad = (name: string, what: string) => new LurnError('bad-picture', `"${name}" ${what}`);
const tooLarge = (name: string, what: string) =>
  new LurnError('too-large', `"${name}" ${what}. Make it smaller.`);
