import type { Size } from '@lurn/core/plan';
import { Frame, whyNotWithin, Within } from '../checks.js';
import { badMarks } from './bad-marks.js';

/** The largest number that a place may be told by, before it is known how large the picture is. */
export const ANYWHERE = [-1e9, 1e9] as const;

/** A place on a frame. */
export class MarkedPlace {
  @Frame()
  readonly frame!: number;
  @Within(ANYWHERE)
  readonly x!: number;
  @Within(ANYWHERE)
  readonly y!: number;
}

/** The clip that marks are made for. */
export interface MarkedClip {
  readonly picture: Size;
  readonly frames: number;
}

/** @throws LurnError where a place lies outside the clip */
export function checkPlace(at: MarkedPlace, where: string, { picture, frames }: MarkedClip): void {
  const limits = { frame: frames - 1, x: picture.width, y: picture.height } as const;
  for (const key of ['frame', 'x', 'y'] as const) {
    if (at[key] < 0 || at[key] > limits[key])
      throw badMarks(`${where}.${key} ${whyNotWithin([0, limits[key]], at[key])}`);
  }
}

/** @throws LurnError where two of a list have one name, or a frame is beyond the clip's end */
export function checkNamed(
  list: readonly { readonly name: string; readonly frame?: number }[],
  i: number,
  [key, words]: readonly [string, string],
  { frames }: MarkedClip,
): void {
  const { name, frame = 0 } = list[i];
  if (list.findIndex((s) => s.name === name) !== i) throw badMarks(`two ${words} are called "${name}"`);
  if (frame >= frames) throw badMarks(`${key}[${i}].frame ${whyNotWithin([0, frames - 1], frame)}`);
}
