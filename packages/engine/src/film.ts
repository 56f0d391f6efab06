import { join } from 'node:path';
import type { Film } from '@lurn/model';
import type { Size } from '@lurn/core/plan';
import type { Sideline } from './frame-index.js';
import { asFile } from './tools.js';

/** Pictures of a film strip, at the most; several lie side by side in one file, a row. */
const PICTURES = 240;
/** ... and a second, at the most. */
const A_SECOND = 4;
const ROW = 12;
const HEIGHT = 54;

/** The film strip that a clip of about so many frames gets; null while that is unknown. */
export function filmFor(
  { width, height }: Size,
  pixelAspect: number,
  frames: number,
  fps: number,
): Film | null {
  if (frames < 1) return null;
  const wide = Math.min(192, Math.max(16, 2 * Math.round((HEIGHT * width * pixelAspect) / height / 2)));
  return {
    every: Math.max(Math.ceil(frames / PICTURES), Math.round(fps / A_SECOND)),
    row: ROW,
    width: wide,
    height: HEIGHT,
  };
}

/** A row's file in the film's folder. */
export const rowFile = (row: number): string => `${String(row).padStart(3, '0')}.jpg`;

/** Writes a film strip into a folder, row by row as the clip is read. @param tone  what shows HDR, as a filter */
export function filmSideline({ every, row, width, height }: Film, folder: string, tone = ''): Sideline {
  return {
    of: 'pictures',
    filter: `select=not(mod(n\\,${every})),scale=${width}:${height}:flags=bilinear${tone},setsar=1,tile=${row}x1`,
    output: ['-q:v', '5', '-f', 'image2', '-start_number', '0', asFile(join(folder, '%03d.jpg'))],
  };
}
