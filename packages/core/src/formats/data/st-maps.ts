import { decode } from 'fast-png';
import { LurnError } from '../../errors.js';
import { invert, multiply, type Matrix3 } from '../../geometry/matrix.js';
import { evaluatorOf, type Warp } from '../../geometry/warp.js';
import { writeExr, writeExrBy, type FloatPicture } from '../exr.js';
import { writePng, writePngBy, type DeepPicture } from '../png.js';
import { sizeFor } from './choices.js';
import type { DataExport, DataFile } from './data-export.js';
import { matrixOf, type MovingData } from './moving-data.js';

/**
 * A map that another program samples a picture by: for the middle of every pixel of the result, red is the place in the
 * picture that is sampled, as a share of its width from the left, green as a share of its height from the bottom; blue is
 * 1 where that lies in the picture, else 0.
 *
 * @param from  takes places of the result to places of the picture that is sampled
 */
export function stMap(from: Matrix3 | Warp, { width, height }: { width: number; height: number }): FloatPicture {
  if ('kind' in from) return stMapOf(from, width, height);
  const [R, G, B] = [0, 1, 2].map(() => new Float32Array(width * height));
  const [a, b, c, d, e, f, g, h, i] = from;
  for (let y = 0, k = 0; y < height; y++) {
    for (let x = 0; x < width; x++, k++) {
      const [px, py] = [x + 0.5, y + 0.5];
      const w = g * px + h * py + i;
      const s = (a * px + b * py + c) / w / width;
      const t = (d * px + e * py + f) / w / height;
      R[k] = s;
      G[k] = 1 - t;
      B[k] = w > 0 && s >= 0 && t >= 0 && s <= 1 && t <= 1 ? 1 : 0;
    }
  }
  return { width, height, channels: { R, G, B } };
}

function stMapOf(from: Warp, width: number, height: number): FloatPicture {
  const [R, G, B] = [0, 1, 2].map(() => new Float32Array(width * height));
  const place = evaluatorOf(from);
  const [xs, ys] = [new Float64Array(width), new Float64Array(width)];
  for (let y = 0, k = 0; y < height; y++) {
    place.row(y + 0.5, 0.5, width + 0.5, xs, ys);
    for (let x = 0; x < width; x++, k++) {
      const [s, t] = [xs[x] / width, ys[x] / height];
      R[k] = s;
      G[k] = 1 - t;
      B[k] = s >= 0 && t >= 0 && s <= 1 && t <= 1 ? 1 : 0;
    }
  }
  return { width, height, channels: { R, G, B } };
}

/** The map as a picture of whole numbers: what lies outside of the picture is put on its border. */
function inWholeNumbers({ width, height, channels: { R, G, B } }: FloatPicture): DeepPicture {
  const data = new Uint16Array(width * height * 3);
  const whole = (v: number) => Math.round(65535 * Math.min(1, Math.max(0, v)));
  for (let k = 0; k < width * height; k++) {
    data[3 * k] = whole(R[k]);
    data[3 * k + 1] = whole(G[k]);
    data[3 * k + 2] = whole(B[k]);
  }
  return { width, height, data };
}

/**
 * Reads a map that is a picture of whole numbers.
 *
 * @param name  as it is called where something is wrong with it
 * @throws LurnError `bad-map`
 */
export function readMapPng(bytes: Uint8Array, name: string): FloatPicture {
  const { width, height, channels, depth, data } = decoded(bytes, name);
  if (channels < 3 || depth < 16)
    throw new LurnError('bad-map', `"${name}" has ${depth} bits a sample, where an ST map has 16, in colour.`);
  const of = (c: number) => Float32Array.from({ length: width * height }, (_, k) => data[k * channels + c] / 65535);
  return { width, height, channels: { R: of(0), G: of(1), B: of(2) } };
}

function decoded(bytes: Uint8Array, name: string) {
  try {
    return decode(bytes);
  } catch {
    throw new LurnError('bad-map', `"${name}" cannot be read as a picture.`);
  }
}

const MAPS = {
  aFrame: 2,
  about: 'Two maps a frame: in steady/ what makes the steadied picture, in back/ what gives the motion back.',
};

/** Every frame's map there and back: `steady/` makes the steadied picture of the one as shot, `back/` the other way. */
function* mapsOf(data: MovingData, extension: string, coded: (map: FloatPicture) => DataFile['content']): Generator<DataFile> {
  const size = sizeFor(data.clip, 'An ST map');
  for (const f of data.things[0].frames) {
    const there = multiply(matrixOf(f, 2), matrixOf(f, 1));
    const name = `${String(f.frame).padStart(6, '0')}.${extension}`;
    yield { name: `steady/${name}`, content: coded(stMap(f.warps?.steady ?? invert(there), size)) };
    yield { name: `back/${name}`, content: coded(stMap(f.warps?.back ?? there, size)) };
  }
}

export const stPngExport: DataExport = {
  ...{ id: 'st-png', name: 'ST maps, PNG of 16 bits', extension: 'zip', many: MAPS, maps: true },
  of: ['motion'],
  heeds: [],
  files: (data, _, pack) =>
    mapsOf(data, 'png', (map) => {
      const picture = inWholeNumbers(map);
      return pack ? writePngBy(pack, picture) : writePng(picture);
    }),
};

export const stExrExport: DataExport = {
  ...{ id: 'st-exr', name: 'ST maps, EXR of 32 bits', extension: 'zip', many: MAPS, maps: true },
  of: ['motion'],
  heeds: [],
  files: (data, _, pack) => mapsOf(data, 'exr', (map) => (pack ? writeExrBy(pack, map, 32) : writeExr(map, 32))),
};
