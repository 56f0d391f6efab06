import { LurnError } from '../errors.js';
import type { Size } from '../framing/framing.js';
import type { SpotSettings } from '../track/spot-tracker.js';

export interface SpotEntry {
  readonly name: string;
  readonly frame: number;
  readonly x: number;
  readonly y: number;
  readonly settings: SpotSettings;
}

/** Options of the file format that the tracker does not have yet: refused by name, never ignored. */
const NOT_BUILT = ['channel', 'soften', 'detail', 'localContrast', 'allow', 'refresh', 'lowMatch', 'pins'];
const KNOWN = ['name', 'frame', 'x', 'y', 'patch', 'reach', 'minConfidence'];

/** Sizes that suit a picture: 15 x 15 and 32 x 24 at 720 lines, scaled with the height, never below 5. */
export function defaultSettings(height: number): SpotSettings {
  const scaled = (v: number) => Math.max(5, Math.round((v * height) / 720));
  return { patch: [scaled(15), scaled(15)], reach: [scaled(32), scaled(24)], minConfidence: 0.55 };
}

/**
 * Reads SPOTS.json (conventions).
 *
 * @throws LurnError `bad-spots` that names the spot, the key and what is wrong with it.
 */
export function parseSpots(text: string, picture: Size, frames: number): SpotEntry[] {
  let root: unknown;
  try {
    root = JSON.parse(text);
  } catch (error) {
    throw bad(`it is not JSON (${(error as Error).message})`);
  }
  if (!isRecord(root) || !Array.isArray(root.spots)) throw bad('it must be { "spots": [ ... ] }');
  for (const key of Object.keys(root)) if (key !== 'spots') throw bad(`unknown key "${key}"`);
  if (root.spots.length === 0) throw bad('"spots" is empty; give at least one spot');
  const entries = root.spots.map((entry: unknown, i) => parseEntry(entry, `spots[${i}]`, picture, frames));
  entries.forEach((entry, i) => {
    if (entries.findIndex((e) => e.name === entry.name) !== i)
      throw bad(`two spots are called "${entry.name}"`);
  });
  return entries;
}

function parseEntry(entry: unknown, where: string, picture: Size, frames: number): SpotEntry {
  if (!isRecord(entry)) throw bad(`${where} is not an object`);
  for (const key of Object.keys(entry)) {
    if (NOT_BUILT.includes(key)) throw bad(`${where}: the option "${key}" is not built yet; leave it out`);
    if (!KNOWN.includes(key)) throw bad(`${where}: unknown key "${key}"`);
  }
  const { name } = entry;
  if (typeof name !== 'string' || name.trim() === '') throw bad(`${where}.name must be a text`);
  const number = (key: string, low: number, high: number, whole = false): number => {
    const v = entry[key];
    if (
      typeof v !== 'number' ||
      !Number.isFinite(v) ||
      v < low ||
      v > high ||
      (whole && !Number.isInteger(v))
    ) {
      throw bad(
        `${where}.${key} must be a ${whole ? 'whole ' : ''}number from ${low} to ${high}, not ${JSON.stringify(v)}`,
      );
    }
    return v;
  };
  const pair = (key: string, low: number, fallback: readonly [number, number]): readonly [number, number] => {
    const v = entry[key];
    if (v === undefined) return fallback;
    const fits = (n: unknown) => Number.isInteger(n) && (n as number) >= low && (n as number) <= 2000;
    if (!Array.isArray(v) || v.length !== 2 || !v.every(fits)) {
      throw bad(
        `${where}.${key} must be two whole numbers of pixels from ${low} to 2000, not ${JSON.stringify(v)}`,
      );
    }
    return [v[0], v[1]];
  };
  const usual = defaultSettings(picture.height);
  return {
    name,
    frame: number('frame', 0, frames - 1, true),
    x: number('x', 0, picture.width),
    y: number('y', 0, picture.height),
    settings: {
      patch: pair('patch', 3, usual.patch),
      reach: pair('reach', 1, usual.reach),
      minConfidence: entry.minConfidence === undefined ? usual.minConfidence : number('minConfidence', 0, 1),
    },
  };
}

function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function bad(why: string): LurnError {
  return new LurnError('bad-spots', `The spots file cannot be used: ${why}.`);
}
