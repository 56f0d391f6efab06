import { Remembered } from '../remembered.js';
import type { Mesh } from '../geometry/mesh.js';
import { filledPlaces, MeshField, type FieldExtent } from '../geometry/mesh-field.js';
import { IDENTITY, type Point } from '../geometry/matrix.js';
import type { MeshWarp, UnbentWarp } from '../geometry/warp.js';
import { measuredEnd } from '../track/measured.js';
import { softAt, type SoftTrack } from './soft-track.js';

/** A soft surface as what is carried by it sees it. */
export interface SoftShape {
  /** Its own frame, and the vertices on it. */
  readonly frame: number;
  readonly mesh: Mesh;
  readonly track: SoftTrack;
  /** How often its mesh is subdivided. */
  readonly levels: number;
  /** Of the pictures, where what lies about it is carried along; left out where it alone is. */
  readonly size?: { readonly width: number; readonly height: number };
  /** Where its vertices are laid flat to; left out where it lies flat as on a frame. */
  readonly laid?: readonly Point[];
}

/** Where a soft surface is seen: on a frame, or laid flat to a shape of its own. */
export type Side = number | 'laid';

/** Where it lies flat: as it was laid, else as on a frame. */
export function flatSide({ laid }: Pick<SoftShape, 'laid'>, ref: number): Side {
  return laid ? 'laid' : ref;
}

/** Cells of a field along the longer side of a picture: a few pixels each, and as many as tell whether edges show. */
const [FINE, ROUGH] = [128, 32];

/**
 * Where the vertices are on a frame, those that are hidden or have ended with their neighbours; null where nothing was
 * measured. On its own frame they are where they were drawn.
 */
export function softPlaces({ frame: own, mesh, track }: SoftShape, frame: number): readonly Point[] | null {
  const sample = softAt(track, frame);
  if (!sample) return frame === own ? mesh.vertices : null;
  if (sample.vertices.length !== mesh.vertices.length) return null;
  return filledPlaces(mesh.vertices, sample.vertices);
}

/** The nearest frames with a sample before and after one that has none, itself where it has; null where there is none. */
export function softBeside(
  shape: SoftShape,
  frame: number,
): { readonly before: number | null; readonly after: number | null } {
  const { track, frame: own } = shape;
  const known = (f: number) => track.state[f - track.start] > 0 || f === own;
  const [first, last] = [Math.min(track.start, own), Math.max(measuredEnd(track) - 1, own)];
  let before: number | null = Math.min(frame, last);
  while (before >= first && !known(before)) before--;
  if (before < first) before = null;
  let after: number | null = Math.max(frame, first);
  while (after <= last && !known(after)) after++;
  if (after > last) after = null;
  return { before, after };
}

/** Where the vertices are on one side, on a frame bridged straight where nothing was measured, held before and after; null of an empty track elsewhere than on its own frame. */
export function bridgedPlaces(shape: SoftShape, frame: Side): readonly Point[] | null {
  if (frame === 'laid') return shape.laid ?? null;
  const here = softPlaces(shape, frame);
  if (here) return here;
  const { before, after } = softBeside(shape, frame);
  const a = before === null ? null : softPlaces(shape, before);
  const b = after === null ? null : softPlaces(shape, after);
  if (!a || !b) return a ?? b;
  const t = (frame - before!) / (after! - before!);
  return a.map((p, i) => ({ x: p.x + t * (b[i].x - p.x), y: p.y + t * (b[i].y - p.y) }));
}

const fields = new Remembered<SoftTrack, string, MeshField | null>();
const roughFields = new Remembered<SoftTrack, string, MeshField | null>();

/**
 * Where the places of one side's picture go on another, by a soft surface; null where it is not known on one of them.
 *
 * @param rough  as well as tells whether edges show
 */
export function softWarp(shape: SoftShape, from: Side, to: Side, rough = false): MeshWarp | null {
  const { track, levels, size, mesh, laid } = shape;
  const key = [
    from,
    to,
    levels,
    size?.width,
    size?.height,
    mesh.vertices.length,
    mesh.faces.length,
    rough,
    laid && (from === 'laid' || to === 'laid') ? laidKey(laid) : '',
  ].join(' ');
  let known = warps.get(track);
  if (!known) warps.set(track, (known = new Map()));
  let warp = known.get(key);
  if (warp === undefined) {
    warp = workedOut(shape, from, to, rough);
    if (known.size >= KEPT) known.delete(known.keys().next().value!);
    known.set(key, warp);
  }
  return warp;
}

/** A shape that something is laid flat to, told apart from others by a number. */
function laidKey(laid: readonly Point[]): number {
  let key = laidKeys.get(laid);
  if (key === undefined) laidKeys.set(laid, (key = laidCount++));
  return key;
}

const laidKeys = new WeakMap<readonly Point[], number>();
let laidCount = 0;

/** Warps of a track that are kept: those of a frame are asked for again and again. */
const KEPT = 8;
const warps = new WeakMap<SoftTrack, Map<string, MeshWarp | null>>();

function workedOut(shape: SoftShape, from: Side, to: Side, rough: boolean): MeshWarp | null {
  const flat = bridgedPlaces(shape, from);
  const there = bridgedPlaces(shape, to);
  if (!flat || !there) return null;
  const { mesh, levels, size, track, laid } = shape;
  const cells = rough ? ROUGH : FINE;
  const laidAs = from === 'laid' && laid ? laidKey(laid) : '';
  const key = `${from} ${levels} ${size?.width} ${size?.height} ${mesh.faces.length} ${mesh.vertices.length} ${laidAs}`;
  const field = (rough ? roughFields : fields).get(track, key, () => {
    if (mesh.faces.length === 0) return null;
    const extent = extentAbout(flat, size);
    const longer = Math.max(extent.width, extent.height);
    const along = (side: number) => Math.max(4, Math.round((cells * side) / longer));
    return new MeshField(mesh.faces, flat, levels, extent, along(extent.width), along(extent.height));
  });
  return field && field.warpTo(there);
}

/** How far beyond a mesh its field goes by itself, in parts of its size. */
const ABOUT = 0.3;

/** What a field is made over: about the mesh, and the whole picture where that is asked for. */
function extentAbout(flat: readonly Point[], size: SoftShape['size']): FieldExtent {
  const [xs, ys] = [flat.map((p) => p.x), flat.map((p) => p.y)];
  let [x0, y0, x1, y1] = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  const margin = ABOUT * Math.max(x1 - x0, y1 - y0);
  [x0, y0, x1, y1] = [x0 - margin, y0 - margin, x1 + margin, y1 + margin];
  // What of it lies outside the picture is never seen.
  if (size) [x0, y0, x1, y1] = [0, 0, size.width, size.height];
  return { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
}

/** The way back through a mesh. */
export function unbent(mesh: MeshWarp): UnbentWarp {
  return { kind: 'unbent', mesh, before: IDENTITY, after: IDENTITY };
}
