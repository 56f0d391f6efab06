import type { Area, AreaKey } from '@lurn/core/geometry';
import type { Size } from '@lurn/core/plan';
import { DrawnKey, faultOfKeys } from '../area.js';
import { checked, ListOf, Optional, Text } from '../checks.js';
import { LIMITS } from '../limits.js';
import { badMarks } from './bad-marks.js';
import { MarkedSoft, softEntry } from './kinds/soft.js';
import { MarkedSpot, spotEntry } from './kinds/spot.js';
import { MarkedSurface, surfaceEntry } from './kinds/surface.js';

class MarkedIgnore {
  @Text(LIMITS.nameLength)
  readonly name!: string;
  @ListOf(() => DrawnKey, LIMITS.areaKeys)
  readonly keys!: readonly AreaKey[];
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

/** What a file of marks says, ready to be tracked. */
export interface Marks {
  readonly spots: readonly ReturnType<typeof spotEntry>[];
  readonly surfaces: readonly ReturnType<typeof surfaceEntry>[];
  readonly soft: readonly ReturnType<typeof softEntry>[];
  /** What of the picture is never measured. */
  readonly areas: readonly Area[];
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
    throw badMarks(`it is not JSON (${(error as Error).message})`);
  }
  const result = checked(MarksFile, root, 'marks');
  if ('fault' in result) {
    const { path, why } = result.fault;
    throw badMarks(
      path === 'marks'
        ? 'it must be { "spots": [ ... ], "surfaces": [ ... ] }'
        : `${path.replace(/^marks\.?/, '')} ${why}`,
    );
  }
  const { spots = [], surfaces = [], soft = [], ignore = [] } = result.value;
  if (spots.length + surfaces.length + soft.length === 0)
    throw badMarks('there is no mark in it; give at least one spot or surface');
  ignore.forEach(({ keys }, i) => {
    const fault = faultOfKeys(keys, frames);
    if (fault) throw badMarks(`ignore[${i}].${fault[0]} ${fault[1]}`);
  });
  const clip = { picture, frames };
  return {
    spots: spots.map((_, i) => spotEntry(spots, i, clip)),
    surfaces: surfaces.map((_, i) => surfaceEntry(surfaces, i, clip)),
    soft: soft.map((_, i) => softEntry(soft, i, clip)),
    areas: ignore.map(({ keys }) => ({ kind: 'ignore', smooth: false, keys })),
  };
}
