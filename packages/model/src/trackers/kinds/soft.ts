import { LurnError } from '@lurn/core';
import type { Mesh, Point } from '@lurn/core/geometry';
import type { Size } from '@lurn/core/plan';
import type { SolveSoft } from '@lurn/core/solve';
import {
  laidFlat,
  type SoftSettings,
  type SoftShape,
  type SoftToTrack,
  type SoftTrack,
} from '@lurn/core/track';
import {
  Corners,
  Faces,
  Flag,
  FourCorners,
  Frame,
  Id,
  ListOf,
  Of,
  OneOf,
  Optional,
  Whole,
  Within,
} from '../../checks.js';
import { CHOICES, LIMITS } from '../../limits.js';
import { TrackerBase } from '../base.js';
import { faultOfDrawn, fittedDrawn, type PlaceOf, type TrackerRules } from '../tracker-rules.js';
import { quadOf, SurfaceShape, type Corners4 } from './surface.js';

/** A rectangle that a soft surface is laid flat to. */
export class LaidTo {
  /** Where its corners lie on the surface's own frame, clockwise from the top left. */
  @FourCorners()
  readonly corners!: Corners4;
  /** True: the border is straightened along its sides; false: it is seen from straight ahead. */
  @Flag()
  readonly straight!: boolean;
}

/** A spot, or a corner of a flat surface, that goes with a soft surface as one of its places. */
export class JoinedPlace {
  /** The id of what tracks it; where that is not there any more it tells nothing. */
  @Id()
  readonly tracker!: string;
  /** Which of a flat surface's corners it is, clockwise from the top left. */
  @Optional()
  @Whole([0, 3])
  readonly corner?: number;
  /** Where it lies on the soft surface's own frame. */
  @Within(LIMITS.place)
  readonly x!: number;
  @Within(LIMITS.place)
  readonly y!: number;
}

/** A soft surface, tracked by its texture through a mesh. */
export class SoftSurface extends TrackerBase {
  @OneOf(['soft'])
  readonly kind!: 'soft';
  /** Its own frame: on which it was drawn, and its looks are taken. */
  @Frame()
  readonly frame!: number;
  /** What is measured of it, on its own frame: its outline, and what is cut out. */
  @ListOf(() => SurfaceShape, LIMITS.shapes)
  readonly shapes!: readonly SurfaceShape[];
  /** How far the points of its mesh are apart, in pixels, and where they are set. */
  @Within(LIMITS.spacing)
  readonly spacing!: number;
  @OneOf(CHOICES.meshFit)
  readonly fit!: 'even' | 'texture';
  /** The points of its mesh, on its own frame. */
  @Corners(LIMITS.vertices)
  readonly vertices!: readonly (readonly [number, number])[];
  /** Triangles and quads between them, each by its corners in turn. */
  @Faces(LIMITS.vertices)
  readonly faces!: readonly (readonly number[])[];
  /** How often the mesh is subdivided where it carries pictures. */
  @Whole(LIMITS.subdivisions)
  readonly levels!: number;
  /** How stiffly neighbours hold each other; 1 by itself. */
  @Within(LIMITS.stiffness)
  readonly stiffness!: number;
  /** True: laid flat where it is held; false: its position, rotation and scale alone. */
  @Flag()
  readonly flatten!: boolean;
  /** What it is laid flat to; left out: to how it lies on the reference frame. */
  @Optional()
  @Of(() => LaidTo)
  readonly laid?: LaidTo;
  /** What goes with it as places of its own. */
  @Optional()
  @ListOf(() => JoinedPlace, LIMITS.joined)
  readonly joined?: readonly JoinedPlace[];
  /** What else is asked on every frame where its points are. */
  @Optional()
  @OneOf(CHOICES.leads)
  readonly leads?: 'face';
  /** False leaves it out of the solve. */
  @Flag()
  readonly used!: boolean;
}

/** What a new soft surface does until told otherwise. */
export const NEW_SOFT = {
  kind: 'soft',
  spacing: 40,
  fit: 'even',
  levels: 2,
  stiffness: 1,
  flatten: true,
  minConfidence: 0.05,
  eye: { channel: 'luma', soften: 0, detail: 0, localContrast: 0 },
  refresh: 'auto',
  lowMatch: 'coast',
  used: true,
} as const satisfies Partial<SoftSurface>;

/** How the tracker follows a soft surface. */
export function softSettingsOf(soft: SoftSurface): SoftSettings {
  const { stiffness, refresh, lowMatch, minConfidence, eye } = soft;
  return { stiffness, refresh, lowMatch, minConfidence, eye };
}

/** A stored mesh as the core has it. */
export function meshOf({ vertices, faces }: Pick<SoftSurface, 'vertices' | 'faces'>): Mesh {
  return { vertices: vertices.map(([x, y]) => ({ x, y })), faces };
}

/** The core's mesh as it is stored, to a thousandth of a pixel. */
export function storedMesh({ vertices, faces }: Mesh): Pick<SoftSurface, 'vertices' | 'faces'> {
  const rounded = (v: number) => Math.round(v * 1e3) / 1e3;
  return { vertices: vertices.map(({ x, y }) => [rounded(x), rounded(y)] as const), faces };
}

interface Known {
  readonly of: SoftSurface['vertices'];
  readonly mesh: Mesh;
  readonly to: LaidTo | undefined;
  readonly laid: readonly Point[] | undefined;
}

const meshes = new WeakMap<SoftSurface['faces'], Known>();

/** A soft surface as what it carries sees it. One that cannot be laid to its shape lies as on the reference frame. */
export function softShape(soft: SoftSurface, track: SoftTrack): SoftShape {
  const { frame, levels, vertices, faces, laid: to } = soft;
  let known = meshes.get(faces);
  if (known?.of !== vertices || known.to !== to) {
    const mesh = known?.of === vertices ? known.mesh : meshOf(soft);
    const laid = to && faultOfLaying(mesh, to) === null ? laidFlat(mesh, shapeOf(to)) : undefined;
    meshes.set(faces, (known = { of: vertices, mesh, to, laid }));
  }
  return { frame, mesh: known.mesh, track, levels, ...(known.laid && { laid: known.laid }) };
}

/** Why a mesh cannot be laid to a shape, as a sentence; null where it can. */
export function faultOfLaying(mesh: Mesh, to: LaidTo): string | null {
  try {
    laidFlat(mesh, shapeOf(to));
    return null;
  } catch (error) {
    if (error instanceof LurnError) return error.message;
    throw error;
  }
}

const shapeOf = ({ corners, straight }: LaidTo) => ({ corners: quadOf(corners), straight });

/** A soft surface as its kind follows it. */
export function softToTrack(soft: SoftSurface, track: SoftTrack, placeOf: PlaceOf): SoftToTrack {
  const { id, name, frame, shapes, joined = [] } = soft;
  return {
    ...{ id, name, frame, shapes, vertices: meshOf(soft).vertices, settings: softSettingsOf(soft), track },
    // What has joined it, as far as it is still there.
    joined: joined.flatMap(({ tracker, corner, x, y }) => {
      const place = placeOf(tracker, corner);
      return place ? [{ at: { x, y }, track: place }] : [];
    }),
  };
}

/** A soft surface to solve from. */
export function solveSoft(soft: SoftSurface, track: SoftTrack, size: Size): SolveSoft {
  return { id: soft.id, flatten: soft.flatten, ...softShape(soft, track), size };
}

export const SOFT_RULES: TrackerRules<'soft', SoftSurface> = {
  ownMover: true,
  fault(soft, frames) {
    const most = soft.vertices.length;
    const face = soft.faces.findIndex((f) => f.some((v) => v >= most));
    if (face >= 0) return [`faces[${face}]`, `names a point that is not there: there are ${most}`];
    return faultOfDrawn(soft, frames);
  },
  fitted: fittedDrawn,
  toTrack: softToTrack,
  place: () => null,
  ride: (soft, track, { laid }) => ({
    on: 'soft',
    id: soft.id,
    soft: softShape(soft, track),
    ...(laid && { laid }),
  }),
};
