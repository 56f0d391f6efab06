import {
  alignPlain,
  LARGEST_GROWTH,
  MOST_STEPS,
  MOVES,
  UPRIGHT,
  type Aim,
  type Pose,
  type Settled,
} from './align.js';
import {
  cellResiduals,
  CELLS,
  PATCH_SUMS,
  patchSums,
  type PatchImages,
  type Window,
} from './alignment-sums.js';
import { addressOf, FOR_PICTURES, kernelBytes, kernels, SCRATCH, type Kernels } from './instance.js';
import type { BytePlane } from './plane.js';
import { wideOf } from './spline.js';

/** Room for results and a row: see {@link SeenPatch.at}. */
const RESULTS = 128;
const POSE = 48;
const INVERSE = 512;
/** The room of the kernel that aligns, before its rows. */
const ALIGNING = 1024;

/** Whose images are in the room that all patches share, beside what was seen of it last. */
let loaded: PatchImages | null = null;

/** A patch that has been aligned so often gets room of its own in the kernels' memory, as long as there is enough. */
const OFTEN = 3;

/**
 * A patch beside what is seen of it in a picture: aligned there, then asked how well it fits. The kernels do it where
 * the plane is in their memory and the whole patch lies in the picture; the plain way else. What was seen stands until
 * another patch is aligned.
 */
export class SeenPatch {
  readonly images: PatchImages;
  private readonly seen: Float32Array;
  private readonly all: Kernels | null;
  private readonly whole: Window;
  /** True when the last alignment was the kernels'. */
  private byKernel = false;
  private aligned = 0;
  /** Its own room, for images, what is seen, and the inverse; until there is one the shared room serves. */
  private own: Uint8Array | null = null;
  /** The inverse that is in its own room. */
  private inverse: Float64Array | null = null;

  /** @param packed  gx, gy and values of (2 hw + 1) x (2 hh + 1) places in one array, rows as long as {@link wideOf} */
  constructor(
    hw: number,
    hh: number,
    private readonly packed: Float32Array,
  ) {
    const size = packed.length / 3;
    const part = (k: number) => packed.subarray(k * size, (k + 1) * size);
    this.images = { hw, hh, stride: wideOf(hw), gx: part(0), gy: part(1), values: part(2) };
    this.whole = { i0: 0, i1: 2 * hw + 1, j0: 0, j1: 2 * hh + 1 };
    this.seen = new Float32Array(size);
    const all = kernels();
    const room = 4 * (5 * size + 4 * wideOf(hw)) + RESULTS + POSE + INVERSE + ALIGNING;
    this.all = all && room < SCRATCH ? all : null;
  }

  /** {@link alignPlain}; within two thousandths of a sample of it where the kernel does it. */
  align(plane: BytePlane, guess: Pose, aim: Aim): Settled {
    const found = this.alignByKernel(plane, guess, aim);
    this.byKernel = found !== null;
    return found ?? alignPlain(plane, this.images, guess, aim, this.seen);
  }

  private alignByKernel(plane: BytePlane, guess: Pose, aim: Aim): Settled | null {
    const { all, images } = this;
    const address = all ? addressOf(all, plane.data) : -1;
    if (!all || address < 0 || !this.isWhole(aim.window)) return null;
    const { hw, hh } = images;
    const { allow, limit, settled, inverseNormal } = aim;
    const { doubles, across, down } = all;
    if (++this.aligned === OFTEN) this.settleIn(all);
    const patch = this.at(0);
    const pose = this.end + RESULTS + 4 * images.stride;
    const room = pose + POSE + INVERSE;
    const inverseAt = this.own ? this.at(4) : pose + POSE;
    if (this.own) {
      if (this.inverse !== inverseNormal) doubles.set(inverseNormal, inverseAt >> 3);
      this.inverse = inverseNormal;
    } else if (loaded !== images) {
      all.floats.set(this.packed, patch >> 2);
      doubles.set(inverseNormal, inverseAt >> 3);
      loaded = images;
    }
    const p = pose >> 3;
    const { x, y, shape } = guess;
    const upright = shape === UPRIGHT ? 1 : 0;
    doubles[p] = x;
    doubles[p + 1] = y;
    doubles[p + 2] = shape[0];
    doubles[p + 3] = shape[1];
    doubles[p + 4] = shape[2];
    doubles[p + 5] = shape[3];
    const { width, height, stride } = plane;
    const moves = MOVES[allow];
    // prettier-ignore
    const result = all.align(
      address, width, height, stride, hw, hh, patch, moves, upright, inverseAt, pose,
      limit, settled, MOST_STEPS, LARGEST_GROWTH, across, down, room,
    );
    if (result > 1) return null;
    return {
      x: doubles[p],
      y: doubles[p + 1],
      shape: allow === 'shift' ? shape : [doubles[p + 2], doubles[p + 3], doubles[p + 4], doubles[p + 5]],
      converged: result === 1,
    };
  }

  /** Puts the images where they stay. */
  private settleIn(all: Kernels): void {
    const { length } = this.images.values;
    this.own = kernelBytes(16 * length + INVERSE, FOR_PICTURES);
    if (this.own) all.floats.set(this.packed, this.own.byteOffset >> 2);
  }

  /** {@link patchSums} of what was seen last. */
  sums(window: Window, out: Float64Array): void {
    const { images } = this;
    if (!this.byKernel) {
      patchSums(images.values, this.seen, images.stride, window, out);
      return;
    }
    this.all!.patchSums(this.at(2), this.at(3), images.values.length, this.end);
    this.read(out, PATCH_SUMS);
  }

  /** {@link cellResiduals} of what was seen last. */
  residuals(window: Window, gain: number, offset: number, out: Float64Array): void {
    const { hw, hh, stride, values } = this.images;
    if (!this.byKernel) {
      cellResiduals(values, this.seen, stride, window, gain, offset, out);
      return;
    }
    const { end } = this;
    const [n, m] = [2 * hw + 1, 2 * hh + 1];
    this.all!.cellResiduals(this.at(2), this.at(3), n, m, gain, offset, end + RESULTS, end);
    this.read(out, CELLS);
  }

  /** Address of a part: gx, gy, values, what is seen; after them, in shared room, results, a row, pose, inverse and room. */
  private at(part: number): number {
    return (this.own?.byteOffset ?? this.all!.patch) + 4 * this.images.values.length * part;
  }

  /** Where results and what a call works on lie: they are nobody's afterwards. */
  private get end(): number {
    return this.own ? this.all!.patch + 16 * this.images.values.length : this.at(4);
  }

  private isWhole({ i0, i1, j0, j1 }: Window): boolean {
    const { whole } = this;
    return i0 === 0 && j0 === 0 && i1 === whole.i1 && j1 === whole.j1;
  }

  private read(out: Float64Array, count: number): void {
    const { doubles } = this.all!;
    for (let k = 0, p = this.end >> 3; k < count; k++) out[k] = doubles[p + k];
  }
}
