import type { Eye, Mesh, SoftSettings, SoftShape, SoftTrack } from '@lurn/core';
import { Corners, Faces, Flag, Frame, ListOf, Of, OneOf, Text, Whole, Within } from '../checks.js';
import { CHOICES, LIMITS } from '../limits.js';
import { DATA_COLOURS, TrackerEye } from './spot.js';
import { SurfaceShape } from './surface.js';

/** A soft surface, tracked by its texture through a mesh. */
export class SoftSurface {
  @OneOf(['soft'])
  readonly kind!: 'soft';
  @Text(LIMITS.idLength)
  readonly id!: string;
  @Text(LIMITS.nameLength)
  readonly name!: string;
  /** The id of the mover that it is. */
  @Text(LIMITS.idLength)
  readonly mover!: string;
  @Whole([0, DATA_COLOURS - 1])
  readonly colour!: number;
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
  @Within([0, 1])
  readonly minConfidence!: number;
  @Of(() => TrackerEye)
  readonly eye!: Eye;
  @OneOf(CHOICES.lowMatch)
  readonly lowMatch!: SoftSettings['lowMatch'];
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
  lowMatch: 'coast',
  used: true,
} as const satisfies Partial<SoftSurface>;

/** How the tracker follows a soft surface. */
export function softSettingsOf({ stiffness, lowMatch, minConfidence, eye }: SoftSurface): SoftSettings {
  return { stiffness, lowMatch, minConfidence, eye };
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

const meshes = new WeakMap<
  SoftSurface['faces'],
  { readonly of: SoftSurface['vertices']; readonly mesh: Mesh }
>();

/** A soft surface as what it carries sees it. */
export function softShape({ frame, levels, vertices, faces }: SoftSurface, track: SoftTrack): SoftShape {
  let known = meshes.get(faces);
  if (known?.of !== vertices)
    meshes.set(faces, (known = { of: vertices, mesh: meshOf({ vertices, faces }) }));
  return { frame, mesh: known.mesh, track, levels };
}
