import { LurnError } from '../../errors.js';
import { apply, chain, invert, type Matrix3 } from '../../geometry/matrix.js';
import { matricesOf, type DataClip, type MovingData, type MovingFrame } from './moving-data.js';

/** How another program counts and measures. */
export interface DataChoices {
  /** Where its places are counted from. */
  readonly origin: 'top-left' | 'bottom-left' | 'centre';
  /** Which way y grows. */
  readonly y: 'down' | 'up';
  /** Pixels, or shares of the picture's width and height. */
  readonly unit: 'px' | 'share';
  /** The number of the clip's first frame. */
  readonly first: number;
  readonly time: 'seconds' | 'timecode';
  /** Matrices by their cells, or as position, rotation and scale, that as a ratio or in per cent. */
  readonly numbers: 'matrix' | 'ratio' | 'percent';
}

/** As everything here does. */
export const OUR_CHOICES: DataChoices = {
  ...{ origin: 'top-left', y: 'down', unit: 'px', first: 0, time: 'seconds' },
  numbers: 'matrix',
};

/** What may be chosen; a first frame is any whole number. */
export const DATA_CHOICES = {
  origin: ['top-left', 'bottom-left', 'centre'],
  y: ['down', 'up'],
  unit: ['px', 'share'],
  time: ['seconds', 'timecode'],
  numbers: ['matrix', 'ratio', 'percent'],
} as const;

/** @throws LurnError `no-size` where the picture's size is not known */
export function sizeFor({ width, height }: DataClip, what: string): { width: number; height: number } {
  if (width !== null && height !== null) return { width, height };
  throw new LurnError('no-size', `${what} needs the picture's size, which the file does not tell: give it.`);
}

/** The map of our coordinates to those that were chosen. @throws LurnError `no-size` */
export function coordinatesFor({ origin, y, unit }: DataChoices, clip: DataClip): Matrix3 {
  if (origin === 'top-left' && y === 'down' && unit === 'px') return [1, 0, 0, 0, 1, 0, 0, 0, 1];
  const { width, height } = sizeFor(clip, 'Another origin, direction or unit');
  const [ox, oy] = { 'top-left': [0, 0], 'bottom-left': [0, height], centre: [width / 2, height / 2] }[origin];
  const sign = y === 'down' ? 1 : -1;
  const [sx, sy] = unit === 'px' ? [1, 1] : [1 / width, 1 / height];
  return [sx, 0, -ox * sx, 0, sign * sy, -sign * oy * sy, 0, 0, 1];
}

/** Data in the coordinates and with the frame numbers that were chosen. @throws LurnError `no-size` */
export function asChosen(data: MovingData, choices: DataChoices): MovingData {
  return mapped(data, coordinatesFor(choices, data.clip), choices.first);
}

/** Data that came in other coordinates, in ours. @throws LurnError `no-size` */
export function asOurs(data: MovingData, choices: DataChoices): MovingData {
  return mapped(data, invert(coordinatesFor(choices, data.clip)), -choices.first);
}

function mapped(data: MovingData, to: Matrix3, first: number): MovingData {
  const back = invert(to);
  const change = ({ values, mesh, ...frame }: MovingFrame): MovingFrame => ({
    ...frame,
    ...(mesh && { mesh: { ...mesh, to: places(mesh.to, to) } }),
    frame: frame.frame + first,
    values: matricesOf(data.kind).length > 0 ? matrices(values, to, back) : places(values, to),
  });
  const things = data.things.map(({ name, mesh, frames }) => ({
    name,
    ...(mesh && { mesh: { ...mesh, frame: mesh.frame + first, vertices: places(mesh.vertices, to) } }),
    frames: frames.map(change),
  }));
  const { solved } = data;
  if (!solved) return { ...data, things };
  return {
    ...data,
    things,
    solved: { ...solved, ref: solved.ref + first, cuts: solved.cuts.map((c) => c + first) },
  };
}

function places(values: readonly number[], to: Matrix3): number[] {
  const out: number[] = [];
  for (let k = 0; k < values.length; k += 2) {
    const p = apply(to, values[k], values[k + 1]);
    out.push(p.x, p.y);
  }
  return out;
}

/** A map of places becomes the same map of places in other coordinates. */
function matrices(values: readonly number[], to: Matrix3, back: Matrix3): number[] {
  return Array.from({ length: values.length / 9 }, (_, k) => [
    ...chain(to, values.slice(9 * k, 9 * k + 9) as unknown as Matrix3, back),
  ]).flat();
}

/** Hours, minutes, seconds and frames at the nominal rate, such as 00:01:07:12: on screen and in files alike. */
export function timeCode(seconds: number, fps: number): string {
  const rate = Math.max(1, Math.round(fps));
  const whole = Math.floor(seconds + 1e-6);
  const frames = Math.min(rate - 1, Math.round((seconds - whole) * fps + 1e-3));
  const two = (v: number) => String(v).padStart(2, '0');
  return `${two(Math.floor(whole / 3600))}:${two(Math.floor(whole / 60) % 60)}:${two(whole % 60)}:${two(Math.max(0, frames))}`;
}

/** Frames a second: as the clip has them, else by the times of frames. @throws LurnError `no-rate` */
export function rateOf({ clip, things }: MovingData): number {
  if (clip.fps) return clip.fps;
  for (const { frames } of things) {
    const [a, b] = [frames[0], frames[frames.length - 1]];
    if (frames.length > 1 && b.time > a.time) return (b.frame - a.frame) / (b.time - a.time);
  }
  throw new LurnError('no-rate', 'The frames a second are not known: the file does not tell them. Give them.');
}
