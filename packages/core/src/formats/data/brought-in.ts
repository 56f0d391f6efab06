import { LurnError } from '../../errors.js';
import { moveQuad, rectangle, type Quad } from '../../geometry/homography.js';
import { invert, multiply, type Matrix3 } from '../../geometry/matrix.js';
import type { Mesh } from '../../geometry/mesh.js';
import { faultOfQuad } from '../../geometry/shape.js';
import { EMPTY_SOFT_TRACK, softSample, withSoftSamples, type SoftTrack, type SoftVertex } from '../../soft/soft-track.js';
import { EMPTY_SURFACE_TRACK, withSurfaceSamples, type SurfaceTrack } from '../../surface/surface-track.js';
import type { FloatPicture } from '../exr.js';
import { matrixOf, type MovingData, type MovingFrame, type MovingThing } from './moving-data.js';

/** A motion of another program, as a flat surface that has been tracked. */
export interface BroughtSurface {
  readonly name: string;
  /** The frame on which it lies as its base does. */
  readonly frame: number;
  readonly base: Quad;
  readonly track: SurfaceTrack;
}

/** Files tell no confidence of a motion; where they do, that is taken. */
const SURE = 1;
/** Matrices that shrink areas to less than this part take a picture nowhere. */
const LEAST_AREA = 1e-12;

/**
 * Corners, movers and a motion as flat surfaces: corners as they are, a motion as the whole picture at its reference
 * frame.
 *
 * @param size  of the picture, in pixels
 * @throws LurnError `bad-data` where a matrix takes the picture nowhere, or corners are no view of a rectangle
 */
export function surfacesOfData(
  data: MovingData,
  { width, height }: { readonly width: number; readonly height: number },
): BroughtSurface[] {
  const whole = rectangle(0, 0, width, height);
  return data.things
    .filter((thing) => thing.frames.length > 0)
    .map((thing) => {
      const own = ownFrame(thing, data.kind === 'corners' ? null : (data.solved?.ref ?? null));
      const cornersOn = data.kind === 'corners' ? cornersOf : moving(own, whole, thing.name);
      const samples = thing.frames.map((f) => ({
        ...{ frame: f.frame, corners: cornersOn(f), confidence: f.confidence ?? SURE },
        state: f.frame === own.frame ? ('pinned' as const) : ('tracked' as const),
      }));
      const base = cornersOn(own);
      const fault = faultOfQuad(base);
      if (fault) throw new LurnError('bad-data', `"${thing.name}" on frame ${own.frame} ${fault}.`);
      return { name: thing.name, frame: own.frame, base, track: withSurfaceSamples(EMPTY_SURFACE_TRACK, samples) };
    });
}

const ownFrame = ({ frames }: MovingThing, ref: number | null) => frames.find((f) => f.frame === ref) ?? frames[0];

const cornersOf = ({ values: v }: MovingFrame): Quad => [
  { x: v[0], y: v[1] },
  { x: v[2], y: v[3] },
  { x: v[4], y: v[5] },
  { x: v[6], y: v[7] },
];

/** Where the picture's corners go by a motion, told from its own frame. */
function moving(own: MovingFrame, whole: Quad, name: string): (f: MovingFrame) => Quad {
  const nowhere = (frame: number) =>
    new LurnError('bad-data', `The motion of "${name}" on frame ${frame} takes the picture nowhere.`);
  const [a, b, c, d, e, f, g, h, i] = matrixOf(own, 0);
  const area = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  if (!(Math.abs(area) > LEAST_AREA)) throw nowhere(own.frame);
  const back = invert(matrixOf(own, 0));
  return (at) => {
    const m: Matrix3 = multiply(matrixOf(at, 0), back);
    const corners = moveQuad(m, whole);
    if (!corners.every(({ x, y }) => Number.isFinite(x) && Number.isFinite(y))) throw nowhere(at.frame);
    return corners;
  };
}

/** Places of a map, on a grid over the picture: x, y and whether that lies in it, one after the other. */
export interface MapGrid {
  readonly frame: number;
  readonly places: Float64Array;
}

/** Cells of the grid along the picture's longer side. */
const CELLS = 32;

/** The samples that a map is looked at: columns and rows of them, on middles of pixels. */
function gridOver(width: number, height: number): { readonly xs: number[]; readonly ys: number[] } {
  const step = Math.max(width, height) / CELLS;
  const along = (side: number) => {
    const n = Math.max(1, Math.round((side - 1) / step));
    return Array.from({ length: n + 1 }, (_, i) => Math.round((i * (side - 1)) / n));
  };
  return { xs: along(width), ys: along(height) };
}

/**
 * What is needed of an ST map: red and green say, as shares from the left and from the bottom, where each of its pixels
 * comes from; where blue is less than half that is beyond the picture.
 *
 * @param size  of the pictures that it is for
 * @throws LurnError `bad-map` where it has no red and green
 */
export function gridOfMap(
  { width, height, channels: { R, G, B } }: FloatPicture,
  frame: number,
  size: { readonly width: number; readonly height: number },
): MapGrid {
  if (!R || !G) throw new LurnError('bad-map', `The map of frame ${frame} has no red and green: it is no ST map.`);
  const { xs, ys } = gridOver(width, height);
  const places = new Float64Array(3 * xs.length * ys.length);
  let k = 0;
  for (const y of ys)
    for (const x of xs) {
      const at = y * width + x;
      places[k++] = R[at] * size.width;
      places[k++] = (1 - G[at]) * size.height;
      places[k++] = !B || B[at] >= 0.5 ? 1 : 0;
    }
  return { frame, places };
}

/**
 * ST maps as a mesh: laid flat to its own frame it is the correction that they are, but for what they do to that frame
 * itself.
 *
 * @param maps  of one size, at least two
 * @param size  of the maps
 * @throws LurnError `bad-map` where they have too little in common
 */
export function meshOfMaps(
  maps: readonly MapGrid[],
  size: { readonly width: number; readonly height: number },
): { readonly frame: number; readonly mesh: Mesh; readonly track: SoftTrack } {
  const { xs, ys } = gridOver(size.width, size.height);
  const count = xs.length * ys.length;
  if (maps.length < 2 || maps.some((m) => m.places.length !== 3 * count))
    throw new LurnError('bad-map', 'The maps are not of one size, or there is only one.');
  const own = maps.reduce((best, m) => (seenOn(m) > seenOn(best) ? m : best), maps[0]);
  const index = new Int32Array(count).fill(-1);
  const kept: number[] = [];
  for (let k = 0; k < count; k++) if (own.places[3 * k + 2]) index[k] = kept.push(k) - 1;
  const faces: number[][] = [];
  for (let j = 0; j + 1 < ys.length; j++)
    for (let i = 0; i + 1 < xs.length; i++) {
      const k = j * xs.length + i;
      const face = [k, k + 1, k + xs.length + 1, k + xs.length].map((v) => index[v]);
      if (face.every((v) => v >= 0)) faces.push(face);
    }
  if (faces.length === 0) throw new LurnError('bad-map', 'The maps show nothing of the picture.');
  const placesOn = ({ places }: MapGrid, state: SoftVertex['state']) =>
    kept.map((k): SoftVertex | null =>
      places[3 * k + 2] ? { x: places[3 * k], y: places[3 * k + 1], confidence: SURE, state } : null,
    );
  const samples = maps.map((m) => softSample(m.frame, placesOn(m, m === own ? 'pinned' : 'tracked')));
  const vertices = kept.map((k) => ({ x: own.places[3 * k], y: own.places[3 * k + 1] }));
  return { frame: own.frame, mesh: { vertices, faces }, track: withSoftSamples(EMPTY_SOFT_TRACK, samples) };
}

function seenOn({ places }: MapGrid): number {
  let n = 0;
  for (let k = 2; k < places.length; k += 3) n += places[k];
  return n;
}
