import type { ClipInfo } from '@lurn/model';
import type { Format } from '../formats/index.js';

/** A stretch of a render that is encoded by itself. */
export interface Part {
  readonly index: number;
  /** First and last frame, both included. */
  readonly from: number;
  readonly to: number;
}

/** Seconds that a part lasts: what is lost at the most when a render is killed. */
const SECONDS = 2;
/** ... but so many frames at the least, for every part begins with a whole picture. */
const FEWEST = 24;

/** The parts of a stretch of a clip, the same wherever and however often it is rendered. */
export function partsOf({ fps }: Pick<ClipInfo, 'fps'>, from: number, to: number, format: Format): Part[] {
  if (format.inOneGo) return [{ index: 0, from, to }];
  const length = Math.max(FEWEST, Math.round(SECONDS * fps));
  return Array.from({ length: Math.ceil((to - from + 1) / length) }, (_, index) => ({
    ...{ index, from: from + index * length },
    to: Math.min(to, from + (index + 1) * length - 1),
  }));
}

/** What a part is called in the folder that they lie in: a file, or a folder of pictures. */
export function partName({ index }: Part, format: Format): string {
  const number = String(index).padStart(5, '0');
  return format.pictures ? number : `${number}.${format.extension}`;
}
