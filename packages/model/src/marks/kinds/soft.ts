import { faultOfOutline, type Point } from '@lurn/core/geometry';
import type { FlatShape, SoftSettings } from '@lurn/core/track';
import { As, Corners, ListOf, Of, Optional, Whole } from '../../checks.js';
import { LIMITS } from '../../limits.js';
import { LaidTo, NEW_SOFT, quadOf, SoftSurface } from '../../trackers/index.js';
import { badMarks } from '../bad-marks.js';
import { checkNamed, checkPlace, MarkedPlace, type MarkedClip } from '../marked.js';

class MarkedVertex extends MarkedPlace {
  /** The number of a vertex, as MESH.json has them. */
  @Whole([0, LIMITS.vertices - 1])
  readonly vertex!: number;
}

export class MarkedSoft {
  @As(SoftSurface)
  readonly name!: string;
  @Optional()
  @As(SoftSurface)
  readonly frame?: number;
  @Corners(LIMITS.corners)
  readonly outline!: readonly (readonly [number, number])[];
  @Optional()
  @As(SoftSurface)
  readonly spacing?: SoftSurface['spacing'];
  @Optional()
  @As(SoftSurface)
  readonly fit?: SoftSurface['fit'];
  @Optional()
  @As(SoftSurface)
  readonly stiffness?: SoftSurface['stiffness'];
  @Optional()
  @As(SoftSurface)
  readonly refresh?: SoftSurface['refresh'];
  @Optional()
  @As(SoftSurface)
  readonly levels?: SoftSurface['levels'];
  @Optional()
  @As(SoftSurface)
  readonly lowMatch?: SoftSurface['lowMatch'];
  @Optional()
  @As(SoftSurface)
  readonly minConfidence?: SoftSurface['minConfidence'];
  /** A rectangle that it is laid flat to where it is held. */
  @Optional()
  @Of(() => LaidTo)
  readonly laid?: LaidTo;
  @Optional()
  @ListOf(() => MarkedVertex, 100_000)
  readonly pins?: readonly MarkedVertex[];
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

export function softEntry(all: readonly MarkedSoft[], i: number, clip: MarkedClip): SoftEntry {
  const soft = all[i];
  const { name, frame = 0, outline, pins = [] } = soft;
  checkNamed(all, i, ['soft', 'soft surfaces'], clip);
  const points = outline.map(([x, y]) => ({ x, y }));
  const fault = faultOfOutline(points, clip.picture.width, clip.picture.height);
  if (fault) throw badMarks(`soft[${i}].outline ${fault}`);
  pins.forEach((pin, k) => checkPlace(pin, `soft[${i}].pins[${k}]`, clip));
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
