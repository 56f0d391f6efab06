import { SURFACE_SUMS } from '@lurn/kernels';
import { Matrix, solve } from 'ml-matrix';
import { medianSorted } from '../numbers.js';
import type { TemplateLevel } from './surface-template.js';

/** Median absolute deviation to standard deviation of what is normally distributed. */
const MAD = 1.4826;
/** Farther than this many deviations from the rest, a block is lit by itself. */
const ODD = 3.5;
/** Blocks' offsets and gains differ by as much at the least, in grey levels and as a ratio: nothing is lit quite evenly. */
const [LEAST_OFFSET, LEAST_GAIN] = [0.05, 0.004];
/** A gain that is not held by the others is held to be within this of theirs. */
const FREE_GAIN = 0.25;
/** Of fewer blocks than this an even light is all that can be told. */
const SLANTING = 12;
/** Part of the blocks that have to be lit alike for the others to be odd. */
const MOSTLY = 0.6;
/** Brightest and darkest that the whole may have become. */
const [MOST, LEAST] = [4, 0.25];

/**
 * How a surface is lit on a frame against its own: a gain of the whole, an offset that slants across it, and of each block
 * what it differs by. As much as the blocks agree they hold each other: the brightness of soft texture, many blocks
 * large, then tells where it is. Where they do not - a shadow's edge, a highlight - each is free (a hierarchical model,
 * its deviations estimated anew with each step: empirical Bayes, Morris 1983).
 */
export class BlockLight {
  gain = 1;
  /** How strongly each block's offset is held, as so many samples, and its gain, as so much contrast. */
  readonly offsetHold: Float64Array;
  readonly gainHold: Float64Array;
  /** 1 of blocks that are lit by themselves, where most are not: light that slants across a block would be taken for motion. */
  readonly alone: Uint8Array;
  /** What each block's mean differs by from what the whole says, in grey levels. */
  readonly off: Float64Array;
  private readonly own: Float64Array;
  /** What medians are taken of. */
  private readonly sorted: Float64Array;

  constructor(private readonly level: TemplateLevel) {
    const count = level.blocks.length;
    this.offsetHold = new Float64Array(count);
    this.gainHold = new Float64Array(count);
    this.off = new Float64Array(count);
    this.alone = new Uint8Array(count);
    this.own = new Float64Array(count);
    this.sorted = new Float64Array(count);
  }

  /**
   * @param sums   of every block, as the kernel gives them, told about the block's mean
   * @param say    how much each block counts, 0 to 1; all seen ones the same where nothing is known yet
   * @param noise  variance of a sample of each block
   * @param anew   false: how much blocks hold each other stays as it was
   */
  fit(
    sums: Float64Array,
    seen: Uint8Array,
    say: Float64Array | null,
    noise: Float64Array,
    anew: boolean,
  ): void {
    const { blocks } = this.level;
    const weight = (b: number) => (seen[b] ? (say ? say[b] : 1) : 0);
    let [covariance, contrast] = [0, 0];
    for (let b = 0; b < blocks.length; b++) {
      if (!seen[b]) continue;
      covariance += weight(b) * sums[b * SURFACE_SUMS + 10];
      contrast += weight(b) * blocks[b].contrast;
    }
    if (contrast > 0) this.gain = Math.min(MOST, Math.max(LEAST, covariance / contrast));
    this.offsets(sums, seen, weight);
    if (anew) this.hold(seen, weight, noise);
  }

  /** Each block's mean against a slanting plane through all of them, and its own gain. */
  private offsets(sums: Float64Array, seen: Uint8Array, weight: (b: number) => number): void {
    const { blocks } = this.level;
    const { gain, off, own } = this;
    let [voices, sx, sy, xx, xy, yy] = [0, 0, 0, 0, 0, 0];
    let [so, ox, oy] = [0, 0, 0];
    for (let b = 0; b < blocks.length; b++) {
      if (!seen[b]) continue;
      const { count, sum, probes } = blocks[b];
      off[b] = sums[b * SURFACE_SUMS + 8] / count + (1 - gain) * (sum / count);
      own[b] = sums[b * SURFACE_SUMS + 10] / Math.max(1, blocks[b].contrast);
      const w = weight(b);
      if (w === 0) continue;
      const { x, y } = probes[probes.length - 1];
      voices += w;
      sx += w * x;
      sy += w * y;
      xx += w * x * x;
      xy += w * x * y;
      yy += w * y * y;
      so += w * off[b];
      ox += w * x * off[b];
      oy += w * y * off[b];
    }
    if (voices === 0) return;
    const plane =
      voices < SLANTING
        ? [so / voices, 0, 0]
        : solve(new Matrix([[voices, sx, sy], [sx, xx, xy], [sy, xy, yy]]), Matrix.columnVector([so, ox, oy])).to1DArray(); // prettier-ignore
    if (!plane.every(Number.isFinite)) return;
    for (let b = 0; b < blocks.length; b++) {
      const { x, y } = blocks[b].probes[blocks[b].probes.length - 1];
      if (seen[b]) off[b] -= plane[0] + plane[1] * x + plane[2] * y;
    }
  }

  private hold(seen: Uint8Array, weight: (b: number) => number, noise: Float64Array): void {
    const { blocks } = this.level;
    const { gain, off, own, offsetHold, gainHold } = this;
    const told = blocks.map((_, b) => b).filter((b) => seen[b] && weight(b) > 0.3);
    const median = (of: (b: number) => number, none: number) => {
      const sorted = this.sorted.subarray(0, told.length);
      for (let i = 0; i < told.length; i++) sorted[i] = of(told[i]);
      return told.length > 0 ? medianSorted(sorted.sort()) : none;
    };
    const spread = (of: (b: number) => number, byNoise: (b: number) => number, least: number) => {
      const found = MAD * median((b) => Math.abs(of(b)), Infinity);
      return Math.sqrt(Math.max(least * least, found * found - median(byNoise, 0)));
    };
    const apart = spread(
      (b) => off[b],
      (b) => noise[b] / blocks[b].count,
      LEAST_OFFSET,
    );
    const uneven = spread(
      (b) => own[b] - gain,
      (b) => noise[b] / Math.max(1, blocks[b].contrast),
      LEAST_GAIN,
    );
    let [all, even] = [0, 0];
    for (let b = 0; b < blocks.length; b++) {
      this.alone[b] = 0;
      if (!seen[b]) continue;
      const { count, contrast } = blocks[b];
      const far = Math.abs(off[b]) > ODD * Math.sqrt(apart * apart + noise[b] / count);
      this.alone[b] = far ? 1 : 0;
      all += weight(b);
      if (!far) even += weight(b);
      offsetHold[b] = far ? 0 : noise[b] / (apart * apart);
      const odd =
        Math.abs(own[b] - gain) > ODD * Math.sqrt(uneven * uneven + noise[b] / Math.max(1, contrast));
      gainHold[b] = noise[b] / (odd ? (FREE_GAIN * gain) ** 2 : uneven * uneven);
    }
    if (even < MOSTLY * all) this.alone.fill(0);
  }
}
