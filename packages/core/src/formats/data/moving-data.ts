import type { Matrix3 } from '../../geometry/matrix.js';
import type { MotionMesh, WarpsBetween } from '../../plan/plan-to-source.js';

/** What a frame of each kind of data consists of, by the names of its numbers. */
const MATRIX = ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h', 'i'];
export const PARTS = {
  tracks: ['x', 'y'],
  corners: [1, 2, 3, 4].flatMap((k) => [`x${k}`, `y${k}`]),
  motion: ['motion', 'correction', 'framing'].flatMap((m) => MATRIX.map((c) => `${m}_${c}`)),
  movers: MATRIX.map((c) => `motion_${c}`),
  /** x and y of every vertex, as many as the mesh has. */
  meshes: [],
} as const satisfies Record<string, readonly string[]>;

export type DataKind = keyof typeof PARTS;

/** What each kind's things are called in files. */
export const THING: Record<DataKind, string> = { tracks: 'spot', corners: 'surface', motion: 'held', movers: 'mover', meshes: 'mesh' };

/** The matrices that a frame of such data consists of, by name; none where it is places. */
export function matricesOf(kind: DataKind): readonly string[] {
  return kind === 'motion' ? ['motion', 'correction', 'framing'] : kind === 'movers' ? ['motion'] : [];
}

export interface MovingFrame {
  readonly frame: number;
  /** Seconds from frame 0. */
  readonly time: number;
  /** As {@link PARTS} names them, in source pixels. */
  readonly values: readonly number[];
  /** Of spots and surfaces. */
  readonly confidence?: number;
  /** Of each point of a mesh, as is what it came of. */
  readonly confidences?: readonly number[];
  readonly states?: readonly string[];
  readonly state?: string;
  /** Of motions, in pixels; null where nothing was measured. */
  readonly residual?: number | null;
  /** Of a motion whose correction does not tell wholly what was done. */
  readonly mesh?: MotionMesh;
  /** Of a motion that its matrices do not tell wholly, both ways between the frame and the delivered picture. */
  readonly warps?: WarpsBetween | null;
}

/** A mesh on its own frame. */
export interface MovingMesh {
  readonly frame: number;
  /** x and y of each vertex. */
  readonly vertices: readonly number[];
  /** Each by the numbers of its corners. */
  readonly faces: readonly (readonly number[])[];
}

export interface MovingThing {
  readonly name: string;
  /** Of a mesh, whose frames have NaN for points that are not known. */
  readonly mesh?: MovingMesh;
  readonly frames: readonly MovingFrame[];
}

/** The picture that data is told of; null where a file does not say. */
export interface DataClip {
  readonly width: number | null;
  readonly height: number | null;
  readonly frames: number | null;
  readonly fps: number | null;
}

/** Measured or solved motion on its way between programs: spots, corners of surfaces, or the motion with its correction. */
export interface MovingData {
  readonly kind: DataKind;
  readonly clip: DataClip;
  readonly things: readonly MovingThing[];
  /** Of a motion. */
  readonly solved?: { readonly ref: number; readonly zoom: number; readonly cuts: readonly number[] };
}

/** A matrix of a motion's frame: 0 the motion, 1 its correction, 2 the framing. Of a mover's there is its motion alone. */
export function matrixOf({ values }: MovingFrame, which: 0 | 1 | 2): Matrix3 {
  return values.slice(9 * which, 9 * which + 9) as unknown as Matrix3;
}

/** First and last frame that anything is told of. */
export function spanOf({ things }: MovingData): { readonly from: number; readonly to: number } {
  const all = things.flatMap((t) => t.frames.map((f) => f.frame));
  return all.reduce((s, f) => ({ from: Math.min(s.from, f), to: Math.max(s.to, f) }), { from: Infinity, to: 0 });
}
