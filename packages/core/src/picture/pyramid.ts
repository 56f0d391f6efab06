import { halve as halveInto, isKernelBytes, kernelBytes } from '@lurn/kernels';
import { filterEye, isPlain, PLAIN_EYE, type Eye } from './eye.js';
import { halvedCover } from './cover.js';
import { createPlane, planeLike, type Plane, type Samples } from './plane.js';

/** Tiles of a level are halved together: so many samples across and down. Wide ones suit vector instructions. */
const TILE = { across: 64, down: 16 };
/** Tiles of a filtered full size; larger, because each looks beyond its edges. */
const FILTERED_TILE = { across: 64, down: 64 };

/** Half a plane, rounded up ({@link halveInto}). Cost: about four multiply-adds a source sample. */
export function halve<S extends Samples>(plane: Plane<S>): Plane<S> {
  const out = planeLike(plane, (plane.width + 1) >> 1, (plane.height + 1) >> 1);
  halveInto(plane, out, 0, 0, out.width, out.height);
  return out;
}

/**
 * A picture at full size and repeatedly halved. Coordinates at level l are those at level 0 divided by 2^l,
 * exactly, in the corner-based frame. Only what is asked for is computed: a few spots need a small part of it.
 */
export class Pyramid {
  /** Halved levels hold only the tiles that {@link need} has been called for. */
  readonly levels: readonly Plane[];
  private readonly tiles: {
    readonly size: { readonly across: number; readonly down: number };
    readonly columns: number;
    readonly done: Uint8Array;
  }[];
  private readonly finest: 0 | 1;

  /**
   * @param count  levels, full size included; fewer are made where one would be under 8 samples across
   * @param reuse  a pyramid of an earlier frame of the same size, whose memory is taken over
   * @param eye    how the tracker sees the picture; its channel must be the plane's
   */
  constructor(
    private readonly plane: Plane,
    count: number,
    reuse?: Pyramid,
    private readonly eye: Eye = PLAIN_EYE,
  ) {
    this.finest = isPlain(eye) ? 1 : 0;
    const old = reuse?.levels[0];
    const own = reuse && old !== reuse.plane && old?.width === plane.width && old.height === plane.height;
    const first = () => (own ? old : kernelPlane(plane.width, plane.height));
    const levels: Plane[] = [
      this.finest === 1 ? inKernels(plane, first) : (first() ?? createPlane(plane.width, plane.height)),
    ];
    while (levels.length < count) {
      const last = levels[levels.length - 1];
      if (Math.min(last.width, last.height) < 16) break;
      const [w, h] = [(last.width + 1) >> 1, (last.height + 1) >> 1];
      const old = reuse?.levels[levels.length];
      levels.push(
        old && old.width === w && old.height === h ? old : (kernelPlane(w, h) ?? createPlane(w, h)),
      );
    }
    this.levels = coveredAs(levels, plane.covered);
    this.tiles = levels.map(({ width, height }, level) => {
      const size = level === 0 ? FILTERED_TILE : TILE;
      const columns = Math.ceil(width / size.across);
      return { size, columns, done: new Uint8Array(columns * Math.ceil(height / size.down)) };
    });
  }

  /**
   * Makes sure that the levels up to `coarsest` hold a region, given in coordinates of level 0.
   * Cost: a few look-ups where they do.
   */
  need(coarsest: number, x0: number, y0: number, x1: number, y1: number): void {
    for (let level = Math.min(coarsest, this.levels.length - 1); level >= this.finest; level--) {
      const size = 2 ** level;
      this.cover(
        level,
        Math.floor(x0 / size) - 1,
        Math.floor(y0 / size) - 1,
        Math.ceil(x1 / size) + 1,
        Math.ceil(y1 / size) + 1,
      );
    }
  }

  /** Makes sure of the samples [x0, x1) x [y0, y1) of a level. */
  private cover(level: number, x0: number, y0: number, x1: number, y1: number): void {
    const { width, height } = this.levels[level];
    const { size: tile, columns, done } = this.tiles[level];
    const left = tileOf(x0, width, tile.across);
    const right = tileOf(x1 - 1, width, tile.across);
    const top = tileOf(y0, height, tile.down);
    const bottom = tileOf(y1 - 1, height, tile.down);
    for (let ty = top; ty <= bottom; ty++) {
      for (let tx = left; tx <= right; tx++) {
        if (done[ty * columns + tx]) continue;
        done[ty * columns + tx] = 1;
        const [a, b] = [tx * tile.across, ty * tile.down];
        const [c, d] = [Math.min(width, a + tile.across), Math.min(height, b + tile.down)];
        if (level === 0) {
          filterEye(this.plane, this.eye, this.levels[0], a, b, c, d);
          continue;
        }
        if (level > this.finest) this.cover(level - 1, 2 * a - 1, 2 * b - 1, 2 * c + 2, 2 * d + 2);
        halveInto(this.levels[level - 1], this.levels[level], a, b, c, d);
      }
    }
  }
}

/** Levels with what of each is closed. */
function coveredAs(levels: readonly Plane[], first: Uint8Array | undefined): readonly Plane[] {
  let covered = first;
  return levels.map((level, l) => {
    const { width, height } = levels[Math.max(0, l - 1)];
    if (covered && l > 0) covered = halvedCover(covered, width, height);
    if (level.covered === covered) return level;
    const { covered: _, ...open } = level;
    return covered ? { ...open, covered } : open;
  });
}

/** The tile that a sample is in, or the nearest one is. */
function tileOf(v: number, size: number, tile: number): number {
  return Math.floor(Math.min(size - 1, Math.max(0, v)) / tile);
}

/** A new plane in the kernels' memory; null where there is no room. */
function kernelPlane(width: number, height: number): Plane | null {
  const data = kernelBytes(width * height);
  return data && { width, height, stride: width, data };
}

/** The same picture where the kernels reach it; itself where it is there, or cannot be. Cost: a copy. */
function inKernels(plane: Plane, room: () => Plane | null): Plane {
  const { width, height, stride, data } = plane;
  if (isKernelBytes(data)) return plane;
  const to = room();
  if (!to) return plane;
  if (stride === width) to.data.set(data.subarray(0, width * height));
  else for (let y = 0; y < height; y++) to.data.set(data.subarray(y * stride, y * stride + width), y * width);
  return to;
}

/** The whole plane, halved a number of times; coordinates are those of the plane divided by 2^times. */
export function halvedPlane(plane: Plane, times: number): Plane {
  if (times === 0) return plane;
  const pyramid = new Pyramid(plane, times + 1);
  pyramid.need(times, 0, 0, plane.width, plane.height);
  return pyramid.levels[times];
}
