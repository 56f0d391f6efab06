import {
  ALIGNMENT_SUMS,
  alignmentSums,
  cellResiduals,
  CELLS,
  PATCH_SUMS,
  patchSums,
  type PatchImages,
  type Window,
} from './alignment-sums.js';
import { addressOf, kernels, SCRATCH, type Kernels } from './instance.js';
import type { BytePlane } from './plane.js';
import { splineByKernel, splineShaped, splineUpright, wideOf, type Shape } from './spline.js';

/** Whose images are in the kernels' memory, beside what was seen of it last. */
let loaded: PatchImages | null = null;

/**
 * A patch beside what is seen of it at a place of a picture: sampled there, then asked for sums. The kernels do it
 * where the plane is in their memory and the whole grid lies in the picture; the plain way else. What was sampled
 * stands until another patch is.
 */
export class SeenPatch {
  readonly images: PatchImages;
  private readonly seen: Float32Array;
  private readonly all: Kernels | null;
  private readonly whole: Window;
  /** True when the last sampling was the kernels'. */
  private byKernel = false;

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
    this.all = all && 4 * 6 * size < SCRATCH ? all : null;
  }

  /** Samples the picture at a place; upright where there is no shape. */
  sample(plane: BytePlane, x: number, y: number, shape: Shape | null): void {
    const { all, images } = this;
    this.byKernel = false;
    if (all && addressOf(all, plane.data) >= 0) {
      if (loaded !== images) {
        all.floats.set(this.packed, all.patch >> 2);
        loaded = images;
      }
      this.byKernel = splineByKernel(all, plane, x, y, shape, images, this.at(5), this.at(3));
    }
    if (this.byKernel) return;
    if (shape) splineShaped(plane, x, y, shape, images, this.seen);
    else splineUpright(plane, x, y, images, this.seen);
  }

  /** {@link alignmentSums} of what was sampled last. */
  alignment(window: Window, out: Float64Array): void {
    const { images } = this;
    if (!this.forKernel(window)) {
      alignmentSums(this.plainlySeen(), images, window, out);
      return;
    }
    const { hw, hh } = images;
    this.all!.alignmentSums(this.at(3), this.at(0), this.at(1), this.at(2), hw, hh, this.at(4));
    this.read(out, ALIGNMENT_SUMS);
  }

  /** {@link patchSums} of what was sampled last. */
  sums(window: Window, out: Float64Array): void {
    const { images } = this;
    if (!this.forKernel(window)) {
      patchSums(images.values, this.plainlySeen(), images.stride, window, out);
      return;
    }
    this.all!.patchSums(this.at(2), this.at(3), images.values.length, this.at(4));
    this.read(out, PATCH_SUMS);
  }

  /** {@link cellResiduals} of what was sampled last. */
  residuals(window: Window, gain: number, offset: number, out: Float64Array): void {
    const { hw, hh, stride, values } = this.images;
    if (!this.forKernel(window)) {
      cellResiduals(values, this.plainlySeen(), stride, window, gain, offset, out);
      return;
    }
    const row = this.at(4) + 128;
    this.all!.cellResiduals(this.at(2), this.at(3), 2 * hw + 1, 2 * hh + 1, gain, offset, row, this.at(4));
    this.read(out, CELLS);
  }

  /** Address of a part: gx, gy, values, what is seen, results with a row, rows of the sampler. */
  private at(part: number): number {
    const { stride, values } = this.images;
    const results = part > 4 ? 128 + 4 * stride : 0;
    return this.all!.patch + 4 * values.length * Math.min(4, part) + results;
  }

  private forKernel({ i0, i1, j0, j1 }: Window): boolean {
    const { whole } = this;
    return this.byKernel && i0 === 0 && j0 === 0 && i1 === whole.i1 && j1 === whole.j1;
  }

  /** What is seen as the plain way reads it: a window that is not whole after all. */
  private plainlySeen(): Float32Array {
    if (this.byKernel) {
      const from = this.at(3) >> 2;
      this.seen.set(this.all!.floats.subarray(from, from + this.seen.length));
    }
    return this.seen;
  }

  private read(out: Float64Array, count: number): void {
    const { doubles } = this.all!;
    for (let k = 0, p = this.at(4) >> 3; k < count; k++) out[k] = doubles[p + k];
  }
}
