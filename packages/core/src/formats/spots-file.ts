import { LurnError } from '../errors.js';
import { CHANNELS } from '../picture/channel.js';
import { EYE_LIMITS, PLAIN_EYE } from '../picture/eye.js';
import type { Size } from '../framing/framing.js';
import { ALLOWS, LOW_MATCHES, REFRESHES, type SpotSettings } from '../track/spot-tracker.js';

export interface SpotEntry {
  readonly name: string;
  readonly frame: number;
  readonly x: number;
  readonly y: number;
  readonly settings: SpotSettings;
  /** Places on other frames, given by hand; the spot's own frame is not among them. */
  readonly pins: readonly { readonly frame: number; readonly x: number; readonly y: number }[];
}

const KNOWN = [
  ...['name', 'frame', 'x', 'y', 'patch', 'reach', 'channel', 'soften', 'detail', 'localContrast'],
  ...['allow', 'refresh', 'lowMatch', 'minConfidence', 'pins'],
];

/** Sizes that suit a picture: 15 x 15 and 32 x 24 at 720 lines, scaled with the height, never below 5. */
export function defaultSettings(height: number): SpotSettings {
  const scaled = (v: number) => Math.max(5, Math.round((v * height) / 720));
  return {
    patch: [scaled(15), scaled(15)],
    reach: [scaled(32), scaled(24)],
    minConfidence: 0.15,
    eye: PLAIN_EYE,
    allow: 'similarity',
    refresh: 'auto',
    lowMatch: 'coast',
  };
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
  const optional = (key: string, low: number, high: number, fallback: number) =>
    entry[key] === undefined ? fallback : number(key, low, high);
  const choice = <T extends string>(key: string, choices: readonly T[], fallback: T): T => {
    const v = entry[key];
    if (v === undefined) return fallback;
    if (choices.includes(v as T)) return v as T;
    throw bad(`${where}.${key} must be one of ${choices.join(', ')}, not ${JSON.stringify(v)}`);
  };
  const usual = defaultSettings(picture.height);
  const frame = number('frame', 0, frames - 1, true);
  return {
    name,
    frame,
    x: number('x', 0, picture.width),
    y: number('y', 0, picture.height),
    settings: {
      patch: pair('patch', 3, usual.patch),
      reach: pair('reach', 1, usual.reach),
      eye: {
        channel: choice('channel', CHANNELS, 'luma'),
        soften: optional('soften', ...EYE_LIMITS.soften, 0),
        detail: optional('detail', ...EYE_LIMITS.detail, 0),
        localContrast: optional('localContrast', ...EYE_LIMITS.localContrast, 0),
      },
      allow: choice('allow', ALLOWS, usual.allow),
      refresh: choice('refresh', REFRESHES, usual.refresh),
      lowMatch: choice('lowMatch', LOW_MATCHES, usual.lowMatch),
      minConfidence: optional('minConfidence', 0, 1, usual.minConfidence),
    },
    pins: parsePins(entry.pins, `${where}.pins`, picture, frames, frame),
  };
}

function parsePins(
  value: unknown,
  where: string,
  picture: Size,
  frames: number,
  own: number,
): SpotEntry['pins'] {
  if (value === undefined) return [];
  if (!Array.isArray(value)) throw bad(`${where} must be a list of { frame, x, y }`);
  const taken = new Set([own]);
  return value.map((pin: unknown, i) => {
    const at = `${where}[${i}]`;
    if (!isRecord(pin)) throw bad(`${at} is not an object`);
    for (const key of Object.keys(pin)) {
      if (!['frame', 'x', 'y'].includes(key)) throw bad(`${at}: unknown key "${key}"`);
    }
    const number = (key: string, high: number) => {
      const v = pin[key];
      if (typeof v === 'number' && v >= 0 && v <= high) return v;
      throw bad(`${at}.${key} must be a number from 0 to ${high}, not ${JSON.stringify(v)}`);
    };
    const frame = number('frame', frames - 1);
    if (!Number.isInteger(frame)) throw bad(`${at}.frame must be a whole number, not ${frame}`);
    if (taken.has(frame)) throw bad(`${at}: frame ${frame} has a place already`);
    taken.add(frame);
    return { frame, x: number('x', picture.width), y: number('y', picture.height) };
  });
}

function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function bad(why: string): LurnError {
  return new LurnError('bad-spots', `The spots file cannot be used: ${why}.`);
}
