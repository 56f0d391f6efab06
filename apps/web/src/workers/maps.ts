import { unzipSync } from 'fflate';
import { LurnError } from '@lurn/core';
import { gridOfMap, readExr, readMapPng, type FloatPicture, type MapGrid } from '@lurn/core/formats';
import type { Size } from '@lurn/core/plan';

/** What an archive of ST maps has to say. */
export interface ReadMaps {
  readonly maps: readonly MapGrid[];
  /** Of the maps. */
  readonly size: Size;
}

/** Bytes of an archive that is read whole. */
const LARGEST = 1.9e9;
/** ... and so many bytes of one map: 8192 x 8192 in three floats. */
const LARGEST_MAP = 800e6;
const PICTURES = /\.(png|exr)$/i;
/** The folder of those that make the steadied picture, in an archive that has both ways. */
const STEADY = /(^|\/)steady\//;

/** Reads archives of ST maps. */
export class MapsReader {
  /** Reads a zip of ST maps, one a frame. @throws LurnError that says what is not as it should be */
  async read(file: File, picture: Size): Promise<ReadMaps> {
    if (file.size > LARGEST)
      throw new LurnError(
        'too-large',
        `"${file.name}" has ${Math.round(file.size / 1e9)} GB, more than a page can hold: bring in maps of PNG, or of fewer frames.`,
      );
    const bytes = new Uint8Array(await file.arrayBuffer());
    const names: string[] = [];
    const looking = {
      filter: ({ name }: { name: string }) => (PICTURES.test(name) && names.push(name), false),
    };
    try {
      unzipSync(bytes, looking);
    } catch {
      throw new LurnError('bad-map', `"${file.name}" is no zip, or it is cut off.`);
    }
    const steady = names.some((n) => STEADY.test(n));
    const meant = names.filter((n) => !steady || STEADY.test(n)).sort();
    let size: Size | null = null;
    const maps: MapGrid[] = [];
    for (const name of meant) {
      // One after the other: unpacked they may be larger than all memory.
      const [content] = Object.values(unzipSync(bytes, { filter: (f) => f.name === name && isSmall(f) }));
      const map = pictureOf(content, name);
      size ??= { width: map.width, height: map.height };
      if (map.width !== size.width || map.height !== size.height)
        throw new LurnError('bad-map', `"${name}" has another size than the maps before it.`);
      maps.push(gridOfMap(map, frameOf(name), picture));
    }
    if (!size) throw new LurnError('bad-map', `"${file.name}" has no maps in it: PNG or EXR, one a frame.`);
    return { maps, size };
  }
}

/** @throws LurnError `too-large` before so much is unpacked: what a zip says of its sizes need not be true */
function isSmall({ name, originalSize }: { name: string; originalSize: number }): boolean {
  if (originalSize <= LARGEST_MAP) return true;
  throw new LurnError('too-large', `"${name}" is ${Math.round(originalSize / 1e6)} MB unpacked; at most ${LARGEST_MAP / 1e6} MB are taken.`); // prettier-ignore
}

/** The frame that a name ends in. */
function frameOf(name: string): number {
  const digits = /(\d+)\.\w+$/.exec(name)?.[1];
  if (digits === undefined)
    throw new LurnError(
      'bad-map',
      `"${name}" does not say of which frame it is: its name has to end in a number.`,
    );
  return Number(digits);
}

const pictureOf = (bytes: Uint8Array, name: string): FloatPicture =>
  name.toLowerCase().endsWith('.png') ? readMapPng(bytes, name) : readExr(bytes);
