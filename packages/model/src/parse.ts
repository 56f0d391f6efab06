import type { AcceptedDoubt, Amounts, Eye, GoalKey, Join } from '@lurn/core';
import {
  CHOICES,
  DATA_COLOURS,
  LIMITS,
  NEW_EDGES,
  NEW_FRAMING,
  NEW_GOAL,
  NEW_SPOT,
  type ClipBounds,
  type ShotDocument,
  type Spot,
} from './document.js';

/** What is wrong with a document, told with the place in it. `code` is `bad-document`. */
export class DocumentError extends Error {
  readonly code = 'bad-document';
  constructor(
    readonly path: string,
    why: string,
  ) {
    super(`The shot cannot be saved: ${path} ${why}.`);
    this.name = 'DocumentError';
  }
}

type Reader<T> = (value: unknown, path: string) => T;

/**
 * Checks a document of unknown origin against the clip and brings older versions up to date.
 *
 * @throws DocumentError that names the first value out of place.
 */
export function parseDocument(value: unknown, clip: ClipBounds): ShotDocument {
  const frame = whole(0, clip.frames - 1);
  const document = record<ShotDocument>({
    version: oneOf([3]),
    spots: list(spot, LIMITS.spots),
    accepted: list(acceptedDoubt, LIMITS.accepted),
    range: record({ from: frame, to: frame }),
    ref: frame,
    goal: record({
      goal: oneOf(CHOICES.goal),
      amounts,
      pose: oneOf(CHOICES.pose),
      calm: record({
        method: oneOf(CHOICES.method),
        smoothing,
        maxZoom: number(...LIMITS.maxZoom),
      }),
      lock: record({
        place: oneOf(CHOICES.place),
        x: number(-4 * clip.width, 4 * clip.width),
        y: number(-4 * clip.height, 4 * clip.height),
        tolerance: number(...LIMITS.tolerance),
        easeIn: number(...LIMITS.ease),
        easeOut: number(...LIMITS.ease),
      }),
      keys: list(
        record<GoalKey>({ frame, goal: oneOf(CHOICES.goal), amounts, easing: oneOf(CHOICES.easing) }),
        LIMITS.keys,
      ),
    }),
    framing: record({
      mode: oneOf(CHOICES.zoom),
      zoom: number(...LIMITS.zoom),
      rate: number(...LIMITS.rate),
      shiftX: number(-clip.width, clip.width),
      shiftY: number(-clip.height, clip.height),
      delivery: optional(record({ width: evenSize, height: evenSize })),
    }),
    edges: record({ mode: oneOf(CHOICES.edges), colour: colourText }),
    crf: whole(...LIMITS.crf),
  })(migrate(value), 'document');
  if (document.range.from > document.range.to) {
    throw new DocumentError('document.range', 'has its in point after its out point');
  }
  document.goal.keys.forEach((key, i) => {
    if (i > 0 && key.frame <= document.goal.keys[i - 1].frame)
      throw new DocumentError(`document.goal.keys[${i}].frame`, 'is not after the keyframe before it');
  });
  const ids = new Set(document.spots.map((s) => s.id));
  if (ids.size !== document.spots.length)
    throw new DocumentError('document.spots', 'has two spots with one id');
  return document;
}

/** Version by version to the present one. */
function migrate(value: unknown): unknown {
  if (!isRecord(value)) return value;
  if (value.version === 1) return migrate(fromVersion1(value));
  return value.version === 2 ? fromVersion2(value) : value;
}

/** Version 1 had neither groups nor the tracker's eye nor doubts; its confidence was a plain correlation. */
function fromVersion1(value: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> {
  return {
    ...value,
    version: 2,
    accepted: [],
    spots: eachRecord(value.spots, (s) => ({ ...OLD_SPOT, ...s })),
  };
}

/** What version 2 added to a spot. */
const { role: _role, ...OLD_SPOT } = NEW_SPOT;

/** Version 2 knew Still alone, with each component on or off, a zoom that fits or is set, and black edges. */
function fromVersion2(value: Readonly<Record<string, unknown>>): unknown {
  const { use, goal: _goal, framing, ...rest } = value;
  const on = isRecord(use) ? use : {};
  const amount = (part: keyof Amounts) => (on[part] === false ? 0 : 1);
  const { mode, zoom, shiftX, shiftY } = isRecord(framing) ? framing : {};
  return {
    ...rest,
    version: 3,
    spots: eachRecord(value.spots, (s) => ({ ...s, role: NEW_SPOT.role })),
    goal: {
      ...NEW_GOAL,
      amounts: { x: amount('x'), y: amount('y'), rotation: amount('rotation'), scale: amount('scale') },
    },
    framing: {
      ...NEW_FRAMING,
      mode: mode === 'hand' ? 'none' : mode,
      zoom: mode === 'hand' ? zoom : 1,
      shiftX,
      shiftY,
    },
    edges: NEW_EDGES,
  };
}

function eachRecord(
  list: unknown,
  change: (item: Readonly<Record<string, unknown>>) => Readonly<Record<string, unknown>>,
): unknown {
  return Array.isArray(list) ? list.map((v: unknown) => (isRecord(v) ? change(v) : v)) : list;
}

function isRecord(value: unknown): value is Readonly<Record<string, unknown>> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

const eye = record<Eye>({
  channel: oneOf(CHOICES.channel),
  soften: number(...LIMITS.soften),
  detail: number(...LIMITS.detail),
  localContrast: number(...LIMITS.localContrast),
});

const amount = number(0, 1);
const amounts = record<Amounts>({ x: amount, y: amount, rotation: amount, scale: amount });
const seconds = number(...LIMITS.smoothing);
const smoothing = record<Amounts>({ x: seconds, y: seconds, rotation: seconds, scale: seconds });

const join = record<Join>({
  frame: whole(0, Number.MAX_SAFE_INTEGER),
  dx: number(-1e5, 1e5),
  dy: number(-1e5, 1e5),
  companion: optional(text(40)),
});

const acceptedDoubt = record<AcceptedDoubt>({
  spot: label(40),
  reason: oneOf(CHOICES.doubt),
  from: whole(0, Number.MAX_SAFE_INTEGER),
  to: whole(0, Number.MAX_SAFE_INTEGER),
});

const spot = record<Spot>({
  id: text(40),
  name: text(LIMITS.nameLength),
  colour: whole(0, DATA_COLOURS - 1),
  patch: pair(whole(...LIMITS.patch)),
  reach: pair(whole(...LIMITS.reach)),
  minConfidence: number(0, 1),
  group: label(LIMITS.nameLength),
  eye,
  allow: oneOf(CHOICES.allow),
  refresh: oneOf(CHOICES.refresh),
  lowMatch: oneOf(CHOICES.lowMatch),
  joins: list(join, LIMITS.joins),
  role: oneOf(CHOICES.role),
  used: flag,
});

function record<T>(fields: { readonly [K in keyof T]: Reader<T[K]> }): Reader<T> {
  return (value, path) => {
    if (!isRecord(value)) throw new DocumentError(path, 'is not an object');
    for (const key of Object.keys(value)) {
      if (!Object.hasOwn(fields, key)) throw new DocumentError(`${path}.${key}`, 'is not known');
    }
    const out = {} as T;
    for (const key in fields) out[key] = fields[key](value[key], `${path}.${key}`);
    return out;
  };
}

function list<T>(item: Reader<T>, most: number): Reader<readonly T[]> {
  return (value, path) => {
    if (!Array.isArray(value)) throw new DocumentError(path, 'is not a list');
    if (value.length > most) throw new DocumentError(path, `has more than ${most} entries`);
    return value.map((v, i) => item(v, `${path}[${i}]`));
  };
}

function pair<T>(item: Reader<T>): Reader<readonly [T, T]> {
  return (value, path) => {
    if (!Array.isArray(value) || value.length !== 2) throw new DocumentError(path, 'is not a pair');
    return [item(value[0], `${path}[0]`), item(value[1], `${path}[1]`)];
  };
}

function number(low: number, high: number): Reader<number> {
  return (value, path) => {
    if (typeof value !== 'number' || !Number.isFinite(value) || value < low || value > high) {
      throw new DocumentError(path, `must be a number from ${low} to ${high}, not ${JSON.stringify(value)}`);
    }
    return value;
  };
}

function whole(low: number, high: number): Reader<number> {
  const check = number(low, high);
  return (value, path) => {
    if (!Number.isInteger(check(value, path)))
      throw new DocumentError(path, `must be a whole number, not ${value}`);
    return value as number;
  };
}

/** H.264 with 4:2:0 has even sizes only. */
function evenSize(value: unknown, path: string): number {
  const size = whole(...LIMITS.delivery)(value, path);
  if (size % 2) throw new DocumentError(path, `must be even, not ${size}`);
  return size;
}

function colourText(value: unknown, path: string): string {
  if (typeof value !== 'string' || !/^#[0-9a-f]{6}$/i.test(value))
    throw new DocumentError(path, 'must be a colour such as #1a2b3c');
  return value;
}

function text(most: number): Reader<string> {
  return (value, path) => {
    if (typeof value !== 'string' || value.trim() === '' || value.length > most) {
      throw new DocumentError(path, `must be a text of 1 to ${most} characters`);
    }
    return value;
  };
}

/** A text that may be empty. */
function label(most: number): Reader<string> {
  return (value, path) => {
    if (typeof value !== 'string' || value.length > most) {
      throw new DocumentError(path, `must be a text of at most ${most} characters`);
    }
    return value;
  };
}

function optional<T>(item: Reader<T>): Reader<T | null> {
  return (value, path) => (value === null ? null : item(value, path));
}

function flag(value: unknown, path: string): boolean {
  if (typeof value !== 'boolean') throw new DocumentError(path, 'must be true or false');
  return value;
}

function oneOf<const T>(choices: readonly T[]): Reader<T> {
  return (value, path) => {
    if (!choices.includes(value as T)) throw new DocumentError(path, `must be one of ${choices.join(', ')}`);
    return value as T;
  };
}
