import {
  defaultSettings,
  LurnError,
  type Allow,
  type Area,
  type AreaKey,
  type Channel,
  type LowMatch,
  type Refresh,
  type Size,
  type SpotSettings,
} from '@lurn/core';
import { DrawnKey, faultOfKeys } from './area.js';
import { checked, Frame, ListOf, OneOf, Optional, Text, whyNotWithin, WholePair, Within } from './checks.js';
import { CHOICES, LIMITS } from './limits.js';

/** The largest number that a place may be told by, before it is known how large the picture is. */
const ANYWHERE = [-1e9, 1e9] as const;

class MarkedPin {
  @Frame()
  readonly frame!: number;
  @Within(ANYWHERE)
  readonly x!: number;
  @Within(ANYWHERE)
  readonly y!: number;
}

class MarkedSpot {
  @Text(LIMITS.nameLength)
  readonly name!: string;
  @Frame()
  readonly frame!: number;
  @Within(ANYWHERE)
  readonly x!: number;
  @Within(ANYWHERE)
  readonly y!: number;
  @Optional()
  @WholePair(LIMITS.patch)
  readonly patch?: readonly [number, number];
  @Optional()
  @WholePair(LIMITS.reach)
  readonly reach?: readonly [number, number];
  @Optional()
  @OneOf(CHOICES.channel)
  readonly channel?: Channel;
  @Optional()
  @Within(LIMITS.soften)
  readonly soften?: number;
  @Optional()
  @Within(LIMITS.detail)
  readonly detail?: number;
  @Optional()
  @Within(LIMITS.localContrast)
  readonly localContrast?: number;
  @Optional()
  @OneOf(CHOICES.allow)
  readonly allow?: Allow;
  @Optional()
  @OneOf(CHOICES.refresh)
  readonly refresh?: Refresh;
  @Optional()
  @OneOf(CHOICES.lowMatch)
  readonly lowMatch?: LowMatch;
  @Optional()
  @Within([0, 1])
  readonly minConfidence?: number;
  @Optional()
  @ListOf(() => MarkedPin, 100_000)
  readonly pins?: readonly MarkedPin[];
}

class MarkedIgnore {
  @Text(LIMITS.nameLength)
  readonly name!: string;
  @ListOf(() => DrawnKey, LIMITS.areaKeys)
  readonly keys!: readonly AreaKey[];
}

class MarksFile {
  @ListOf(() => MarkedSpot, LIMITS.trackers)
  readonly spots!: readonly MarkedSpot[];
  @Optional()
  @ListOf(() => MarkedIgnore, LIMITS.areas)
  readonly ignore?: readonly MarkedIgnore[];
}

/** What a file of marks says. */
export interface Marks {
  readonly spots: readonly SpotEntry[];
  /** What of the picture is never measured. */
  readonly areas: readonly Area[];
}

/** A spot as a file of marks has it, with all that was left out filled in. */
export interface SpotEntry {
  readonly name: string;
  readonly frame: number;
  readonly x: number;
  readonly y: number;
  readonly settings: SpotSettings;
  /** Places on other frames, given by hand; the spot's own frame is not among them. */
  readonly pins: readonly { readonly frame: number; readonly x: number; readonly y: number }[];
}

/** What a file of marks may hold that is not built yet. */
const NOT_BUILT = ['surfaces', 'soft'];

/**
 * Reads MARKS.json (conventions).
 *
 * @throws LurnError `bad-spots` that names the spot, the key and what is wrong with it.
 */
export function parseMarks(text: string, picture: Size, frames: number): Marks {
  let root: unknown;
  try {
    root = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (error) {
    throw bad(`it is not JSON (${(error as Error).message})`);
  }
  const unbuilt = NOT_BUILT.find((key) => typeof root === 'object' && root !== null && key in root);
  if (unbuilt) throw bad(`"${unbuilt}" is not built yet`);
  const result = checked(MarksFile, root, 'marks');
  if ('fault' in result) {
    const { path, why } = result.fault;
    throw bad(
      path === 'marks' ? 'it must be { "spots": [ ... ] }' : `${path.replace(/^marks\.?/, '')} ${why}`,
    );
  }
  const { spots, ignore = [] } = result.value;
  if (spots.length === 0) throw bad('"spots" is empty; give at least one spot');
  ignore.forEach(({ keys }, i) => {
    const fault = faultOfKeys(keys, frames);
    if (fault) throw bad(`ignore[${i}].${fault[0]} ${fault[1]}`);
  });
  const entries = spots.map((spot, i) => {
    const where = `spots[${i}]`;
    if (spots.findIndex((s) => s.name === spot.name) !== i) throw bad(`two spots are called "${spot.name}"`);
    inClip(spot, where, picture, frames);
    const taken = new Set([spot.frame]);
    spot.pins?.forEach((pin, k) => {
      inClip(pin, `${where}.pins[${k}]`, picture, frames);
      if (taken.has(pin.frame)) throw bad(`${where}.pins[${k}]: frame ${pin.frame} has a place already`);
      taken.add(pin.frame);
    });
    return entryOf(spot, picture);
  });
  return { spots: entries, areas: ignore.map(({ keys }) => ({ kind: 'ignore', smooth: false, keys })) };
}

function inClip(at: MarkedPin, where: string, { width, height }: Size, frames: number): void {
  const limits = { frame: frames - 1, x: width, y: height } as const;
  for (const key of ['frame', 'x', 'y'] as const) {
    if (at[key] < 0 || at[key] > limits[key])
      throw bad(`${where}.${key} ${whyNotWithin([0, limits[key]], at[key])}`);
  }
}

function entryOf(spot: MarkedSpot, picture: Size): SpotEntry {
  const usual = defaultSettings(picture.height);
  const { name, frame, x, y } = spot;
  return {
    ...{ name, frame, x, y },
    settings: {
      patch: spot.patch ?? usual.patch,
      reach: spot.reach ?? usual.reach,
      eye: {
        channel: spot.channel ?? 'luma',
        soften: spot.soften ?? 0,
        detail: spot.detail ?? 0,
        localContrast: spot.localContrast ?? 0,
      },
      allow: spot.allow ?? usual.allow,
      refresh: spot.refresh ?? usual.refresh,
      lowMatch: spot.lowMatch ?? usual.lowMatch,
      minConfidence: spot.minConfidence ?? usual.minConfidence,
    },
    pins: (spot.pins ?? []).map((p) => ({ frame: p.frame, x: p.x, y: p.y })),
  };
}

function bad(why: string): LurnError {
  return new LurnError('bad-spots', `The marks file cannot be used: ${why}.`);
}
