import { LurnError, type EdgeMode } from '@lurn/core';
import type { Format } from './format.js';
import { h264Mp4 } from './h264-mp4.js';
import { prores4444Mov } from './prores-4444-mov.js';

export type { Format, FormatSettings } from './format.js';

/** Every kind of file that can be written, in the order in which they are offered. */
export const FORMATS: readonly Format[] = [h264Mp4, prores4444Mov];

/** @throws LurnError `no-format` that names those that there are */
export function formatById(id: string): Format {
  const found = FORMATS.find((f) => f.id === id);
  if (found) return found;
  throw new LurnError(
    'no-format',
    `There is no format "${id}": choose one of ${FORMATS.map((f) => f.id).join(', ')}.`,
  );
}

/** The format of a delivery: where some of the picture is left open, one that has alpha. @param alone  layers without it */
export function formatFor(id: string, edges: EdgeMode, alone = false): Format {
  const chosen = formatById(id);
  return (alone || edges === 'transparent') && !chosen.alpha ? FORMATS.find((f) => f.alpha)! : chosen;
}
