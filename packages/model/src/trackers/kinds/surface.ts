import type { Area, AreaKey, AreaKind, Quad } from '@lurn/core/geometry';
import {
  EMPTY_TRACK,
  quadOn,
  surfaceSamples,
  withSamples,
  type SurfaceAllow,
  type SurfaceSettings,
  type SurfaceToTrack,
  type SurfaceTrack,
  type Track,
} from '@lurn/core/track';
import { Flag, FourCorners, Frame, Ids, ListOf, OneOf, WholePair } from '../../checks.js';
import { DrawnKey } from '../../area.js';
import { CHOICES, LIMITS } from '../../limits.js';
import { TrackerBase } from '../base.js';
import { faultOfDrawn, fittedDrawn, type TrackerRules } from '../tracker-rules.js';

/** Four corners as they are stored, clockwise from the top left. */
export type Corners4 = readonly (readonly [number, number])[];

/** An outline of a surface: what is in it belongs to it (`focus`), or is left out of it (`ignore`). */
export class SurfaceShape implements Area {
  @OneOf(CHOICES.area)
  readonly kind!: AreaKind;
  @Flag()
  readonly smooth!: boolean;
  /** In pixels of the surface's own frame, whatever frame they were drawn on. */
  @ListOf(() => DrawnKey, LIMITS.areaKeys)
  readonly keys!: readonly AreaKey[];
}

/** A flat surface, tracked by its texture. */
export class Surface extends TrackerBase {
  @OneOf(['surface'])
  readonly kind!: 'surface';
  /** Its own frame: on which it was drawn, and its looks are taken. */
  @Frame()
  readonly frame!: number;
  /** The corners that its samples tell of, on its own frame; they never change. */
  @FourCorners()
  readonly base!: Corners4;
  @ListOf(() => SurfaceShape, LIMITS.shapes)
  readonly shapes!: readonly SurfaceShape[];
  /** Where a rectangle lies on it, on its own frame. */
  @FourCorners()
  readonly quad!: Corners4;
  /** Cells of the grid check, across and down. */
  @WholePair(LIMITS.grid)
  readonly grid!: readonly [number, number];
  /** True: steadied with its perspective; false: with its position, rotation and scale alone. */
  @Flag()
  readonly perspective!: boolean;
  @OneOf(CHOICES.surfaceAllow)
  readonly allow!: SurfaceAllow;
  /** Ids of surfaces that pass in front of it. */
  @Ids(LIMITS.trackers)
  readonly behind!: readonly string[];
  /** False leaves it out of the solve. */
  @Flag()
  readonly used!: boolean;
}

/** What a new surface does until told otherwise. */
export const NEW_SURFACE = {
  kind: 'surface',
  grid: [8, 6],
  perspective: true,
  minConfidence: 0.05,
  eye: { channel: 'luma', soften: 0, detail: 0, localContrast: 0 },
  allow: 'perspective',
  refresh: 'auto',
  lowMatch: 'coast',
  behind: [],
  used: true,
} as const satisfies Partial<Surface>;

/** How the tracker follows a surface. */
export function surfaceSettingsOf(surface: Surface): SurfaceSettings {
  const { allow, refresh, lowMatch, minConfidence, eye } = surface;
  return { allow, refresh, lowMatch, minConfidence, eye };
}

/** Stored corners as the core has them. */
export function quadOf(corners: Corners4): Quad {
  return corners.map(([x, y]) => ({ x, y })) as unknown as Quad;
}

/** The core's corners as they are stored, to a thousandth of a pixel. */
export function storedQuad(quad: Quad): Corners4 {
  return quad.map(({ x, y }) => [Math.round(x * 1e3) / 1e3, Math.round(y * 1e3) / 1e3] as const);
}

/** A surface as its kind follows it. */
export function surfaceToTrack(surface: Surface, track: SurfaceTrack): SurfaceToTrack {
  const { id, name, frame, base, shapes, behind } = surface;
  return { id, name, frame, base: quadOf(base), shapes, behind, settings: surfaceSettingsOf(surface), track };
}

/** Where a corner of a surface's quad was, as a track. */
function cornerTrack({ base, quad }: Surface, track: SurfaceTrack, corner: number): Track {
  const samples = [...surfaceSamples(track)].flatMap(({ frame, confidence, state }) => {
    const at = quadOn(quadOf(base), quadOf(quad), track, frame)?.[corner];
    return at ? [{ frame, x: at.x, y: at.y, confidence, state }] : [];
  });
  return withSamples(EMPTY_TRACK, samples);
}

export const SURFACE_RULES: TrackerRules<'surface', Surface> = {
  ownMover: true,
  fault: faultOfDrawn,
  fitted: fittedDrawn,
  toTrack: surfaceToTrack,
  place: (surface, track, corner) => (corner === undefined ? null : cornerTrack(surface, track, corner)),
  ride: ({ base }, track) => ({ on: 'surface', track, base: quadOf(base) }),
};
