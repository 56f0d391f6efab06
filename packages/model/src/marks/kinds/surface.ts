import { faultOfOutline, isClockwise, rectangle, type Point, type Quad } from '@lurn/core/geometry';
import { EMPTY_SURFACE_TRACK, type SurfaceToTrack } from '@lurn/core/track';
import { As, Corners, FourCorners, Optional } from '../../checks.js';
import { LIMITS } from '../../limits.js';
import { NEW_SURFACE, quadOf, Surface, type Corners4 } from '../../trackers/index.js';
import { badMarks } from '../bad-marks.js';
import { checkNamed, type MarkedClip } from '../marked.js';

export class MarkedSurface {
  @As(Surface)
  readonly name!: string;
  @Optional()
  @As(Surface)
  readonly frame?: number;
  @Corners(LIMITS.corners)
  readonly shape!: readonly (readonly [number, number])[];
  @Optional()
  @FourCorners()
  readonly quad?: Corners4;
  @Optional()
  @As(Surface)
  readonly allow?: Surface['allow'];
  @Optional()
  @As(Surface)
  readonly refresh?: Surface['refresh'];
  @Optional()
  @As(Surface)
  readonly lowMatch?: Surface['lowMatch'];
  @Optional()
  @As(Surface)
  readonly minConfidence?: Surface['minConfidence'];
}

/** A surface as a file of marks has it, ready to be tracked, with its quad. */
export interface SurfaceEntry extends SurfaceToTrack {
  readonly quad: Quad;
}

/** A rectangle round places. */
function boxRound(places: readonly Point[]): Quad {
  const [xs, ys] = [places.map((p) => p.x), places.map((p) => p.y)];
  return rectangle(Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys));
}

export function surfaceEntry(all: readonly MarkedSurface[], i: number, clip: MarkedClip): SurfaceEntry {
  const surface = all[i];
  const { name, frame = 0, shape, quad } = surface;
  checkNamed(all, i, ['surfaces', 'surfaces'], clip);
  const outline = shape.map(([x, y]) => ({ x, y }));
  const fault = faultOfOutline(outline, clip.picture.width, clip.picture.height);
  if (fault) throw badMarks(`surfaces[${i}].shape ${fault}`);
  const own =
    outline.length === 4 && isClockwise(outline as unknown as Quad) ? (outline as unknown as Quad) : null;
  const box = boxRound(outline);
  const { eye } = NEW_SURFACE;
  return {
    ...{ id: name, name, frame, base: box, behind: [], track: EMPTY_SURFACE_TRACK },
    quad: quad ? quadOf(quad) : (own ?? box),
    shapes: [{ kind: 'focus', smooth: false, keys: [{ frame, shape }] }],
    settings: {
      allow: surface.allow ?? NEW_SURFACE.allow,
      refresh: surface.refresh ?? NEW_SURFACE.refresh,
      lowMatch: surface.lowMatch ?? NEW_SURFACE.lowMatch,
      minConfidence: surface.minConfidence ?? NEW_SURFACE.minConfidence,
      eye,
    },
  };
}
