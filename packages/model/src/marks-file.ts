import {
  defaultSettings,
  EMPTY_SURFACE_TRACK,
  faultOfOutline,
  isClockwise,
  LurnError,
  rectangle,
  type Allow,
  type Area,
  type AreaKey,
  type Channel,
  type FlatShape,
  type LowMatch,
  type Point,
  type Quad,
  type Refresh,
  type Size,
  type SoftSettings,
  type SpotSettings,
  type SurfaceAllow,
  type SurfaceSettings,
  type SurfaceToTrack,
} from '@lurn/core';
import { DrawnKey, faultOfKeys } from './area.js';
import {
  checked,
  Corners,
  FourCorners,
  Frame,
  ListOf,
  Of,
  OneOf,
  Optional,
  Text,
  Whole,
  whyNotWithin,
  WholePair,
  Within,
} from './checks.js';
import { CHOICES, LIMITS } from './limits.js';
import { LaidTo, NEW_SOFT, NEW_SURFACE, quadOf, type Corners4 } from './trackers/index.js';

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

class MarkedSurface {
  @Text(LIMITS.nameLength)
  readonly name!: string;
  @Optional()
  @Frame()
  readonly frame?: number;
  @Corners(LIMITS.corners)
  readonly shape!: readonly (readonly [number, number])[];
  @Optional()
  @FourCorners()
  readonly quad?: Corners4;
  @Optional()
  @OneOf(CHOICES.surfaceAllow)
  readonly allow?: SurfaceAllow;
  @Optional()
  @OneOf(CHOICES.refresh)
  readonly refresh?: Refresh;
  @Optional()
  @OneOf(CHOICES.lowMatch)
  readonly lowMatch?: LowMatch;
  @Optional()
  @Within([0, 1])
  readonly minConfidence?: number;
}

class MarkedVertex {
  @Frame()
  readonly frame!: number;
  /** The number of a vertex, as MESH.json has them. */
  @Whole([0, LIMITS.vertices - 1])
  readonly vertex!: number;
  @Within(ANYWHERE)
  readonly x!: number;
  @Within(ANYWHERE)
  readonly y!: number;
}

class MarkedSoft {
  @Text(LIMITS.nameLength)
  readonly name!: string;
  @Optional()
  @Frame()
  readonly frame?: number;
  @Corners(LIMITS.corners)
  readonly outline!: readonly (readonly [number, number])[];
  @Optional()
  @Within(LIMITS.spacing)
  readonly spacing?: number;
  @Optional()
  @OneOf(CHOICES.meshFit)
  readonly fit?: 'even' | 'texture';
  @Optional()
  @Within(LIMITS.stiffness)
  readonly stiffness?: number;
  @Optional()
  @OneOf(CHOICES.refresh)
  readonly refresh?: SoftSettings['refresh'];
  @Optional()
  @Whole(LIMITS.subdivisions)
  readonly levels?: number;
  /** A rectangle that it is laid flat to where it is held. */
  @Optional()
  @Of(() => LaidTo)
  readonly laid?: LaidTo;
  @Optional()
  @OneOf(CHOICES.lowMatch)
  readonly lowMatch?: LowMatch;
  @Optional()
  @Within([0, 1])
  readonly minConfidence?: number;
  @Optional()
  @ListOf(() => MarkedVertex, 100_000)
  readonly pins?: readonly MarkedVertex[];
}

class MarksFile {
  @Optional()
  @ListOf(() => MarkedSpot, LIMITS.trackers)
  readonly spots?: readonly MarkedSpot[];
  @Optional()
  @ListOf(() => MarkedSurface, LIMITS.trackers)
  readonly surfaces?: readonly MarkedSurface[];
  @Optional()
  @ListOf(() => MarkedSoft, LIMITS.trackers)
  readonly soft?: readonly MarkedSoft[];
  @Optional()
  @ListOf(() => MarkedIgnore, LIMITS.areas)
  readonly ignore?: readonly MarkedIgnore[];
}

/** What a file of marks says. */
export interface Marks {
  readonly spots: readonly SpotEntry[];
  readonly surfaces: readonly SurfaceEntry[];
  readonly soft: readonly SoftEntry[];
  /** What of the picture is never measured. */
  readonly areas: readonly Area[];
}

/** A surface as a file of marks has it, ready to be tracked, with its quad. */
export interface SurfaceEntry extends SurfaceToTrack {
  readonly quad: Quad;
}

/** A soft surface as a file of marks has it: its mesh is made of the picture of its own frame. */
export interface SoftEntry {
  readonly name: string;
  readonly frame: number;
  readonly outline: readonly Point[];
  readonly spacing: number;
  readonly fit: 'even' | 'texture';
  readonly levels: number;
  readonly laid?: FlatShape;
  readonly settings: SoftSettings;
  readonly pins: readonly {
    readonly frame: number;
    readonly vertex: number;
    readonly x: number;
    readonly y: number;
  }[];
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

/**
 * Reads MARKS.json.
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
  const result = checked(MarksFile, root, 'marks');
  if ('fault' in result) {
    const { path, why } = result.fault;
    throw bad(
      path === 'marks'
        ? 'it must be { "spots": [ ... ], "surfaces": [ ... ] }'
        : `${path.replace(/^marks\.?/, '')} ${why}`,
    );
  }
  const { spots = [], surfaces = [], soft = [], ignore = [] } = result.value;
  if (spots.length + surfaces.length + soft.length === 0)
    throw bad('there is no mark in it; give at least one spot or surface');
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
  const planes = surfaces.map((surface, i) => surfaceEntry(surface, i, surfaces, picture, frames));
  return {
    spots: entries,
    surfaces: planes,
    soft: soft.map((one, i) => softEntry(one, i, soft, picture, frames)),
    areas: ignore.map(({ keys }) => ({ kind: 'ignore', smooth: false, keys })),
  };
}

function inClip(at: MarkedPin, where: string, { width, height }: Size, frames: number): void {
  const limits = { frame: frames - 1, x: width, y: height } as const;
  for (const key of ['frame', 'x', 'y'] as const) {
    if (at[key] < 0 || at[key] > limits[key])
      throw bad(`${where}.${key} ${whyNotWithin([0, limits[key]], at[key])}`);
  }
}

/** A rectangle round places. */
function boxRound(places: readonly Point[]): Quad {
  const [xs, ys] = [places.map((p) => p.x), places.map((p) => p.y)];
  return rectangle(Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys));
}

function surfaceEntry(
  surface: MarkedSurface,
  i: number,
  all: readonly MarkedSurface[],
  { width, height }: Size,
  frames: number,
): SurfaceEntry {
  const { name, frame = 0, shape, quad } = surface;
  const where = `surfaces[${i}]`;
  if (all.findIndex((s) => s.name === name) !== i) throw bad(`two surfaces are called "${name}"`);
  if (frame >= frames) throw bad(`${where}.frame ${whyNotWithin([0, frames - 1], frame)}`);
  const outline = shape.map(([x, y]) => ({ x, y }));
  const fault = faultOfOutline(outline, width, height);
  if (fault) throw bad(`${where}.shape ${fault}`);
  const own =
    outline.length === 4 && isClockwise(outline as unknown as Quad) ? (outline as unknown as Quad) : null;
  const box = boxRound(outline);
  const { allow, refresh, lowMatch, minConfidence } = { ...NEW_SURFACE, ...given(surface) };
  return {
    ...{ id: name, name, frame, base: box, behind: [], track: EMPTY_SURFACE_TRACK },
    quad: quad ? quadOf(quad) : (own ?? box),
    shapes: [{ kind: 'focus', smooth: false, keys: [{ frame, shape }] }],
    settings: { allow, refresh, lowMatch, minConfidence, eye: NEW_SURFACE.eye },
  };
}

function softEntry(
  soft: MarkedSoft,
  i: number,
  all: readonly MarkedSoft[],
  { width, height }: Size,
  frames: number,
): SoftEntry {
  const { name, frame = 0, outline, pins = [] } = soft;
  const where = `soft[${i}]`;
  if (all.findIndex((s) => s.name === name) !== i) throw bad(`two soft surfaces are called "${name}"`);
  if (frame >= frames) throw bad(`${where}.frame ${whyNotWithin([0, frames - 1], frame)}`);
  const points = outline.map(([x, y]) => ({ x, y }));
  const fault = faultOfOutline(points, width, height);
  if (fault) throw bad(`${where}.outline ${fault}`);
  pins.forEach((pin, k) => inClip(pin, `${where}.pins[${k}]`, { width, height }, frames));
  const { spacing, fit, levels, stiffness, refresh, lowMatch, minConfidence, eye } = NEW_SOFT;
  return {
    ...{ name, frame, outline: points, pins },
    spacing: soft.spacing ?? spacing,
    fit: soft.fit ?? fit,
    levels: soft.levels ?? levels,
    ...(soft.laid && { laid: { corners: quadOf(soft.laid.corners), straight: soft.laid.straight } }),
    settings: {
      stiffness: soft.stiffness ?? stiffness,
      refresh: soft.refresh ?? refresh,
      lowMatch: soft.lowMatch ?? lowMatch,
      minConfidence: soft.minConfidence ?? minConfidence,
      eye,
    },
  };
}

/** What of a mark's settings is told. */
function given({ allow, refresh, lowMatch, minConfidence }: MarkedSurface): Partial<SurfaceSettings> {
  return {
    ...(allow && { allow }),
    ...(refresh && { refresh }),
    ...(lowMatch && { lowMatch }),
    ...(minConfidence !== undefined && { minConfidence }),
  };
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
