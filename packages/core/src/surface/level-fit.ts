import { SURFACE_SUMS, surfaceReach, surfaceSums } from '@lurn/kernels';
import { isOpen, type Closed } from '../geometry/area.js';
import type { Matrix3, Point } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import { BlockLight } from './block-light.js';
import { PARAMETERS, type TemplateLevel } from './surface-template.js';
import { placeAt } from './unit-motion.js';

/** After so many steps it stays as it is which blocks are lit by themselves: else two answers may take turns. */
const LIGHT_STEPS = 4;
/** A block whose gain is farther from the whole's than these ratios tells of something else; up to half of that freely. */
const ODD_GAIN = 4;
/** What its noise may make of a block's gain, in standard deviations, is not odd. */
const BY_NOISE = 2;
/** A block's misfit may be so many times the usual freely, and more takes from its say until it has none. */
const [FREE_MISFIT, MOST_MISFIT] = [1.25, 2.4];
/** This share of the blocks fits well enough to tell what misfit is usual. */
const FITTING = 0.35;
/** How much a block counts that is lit by itself. */
const LIT_ALONE = 0.1;
/** A block looks like itself from this correlation on. */
const ALIKE = 0.6;
/** Part of a picture's noise that the two samplings let through, as variance. */
const NOISE_PASSED = 0.65;
/** Squared change a sample that a template's noise makes, as part of its variance: 2 (1/2) 38/64 for a quadratic spline. */
const [NOISE_SLOPES, LEAST_SIGNAL] = [0.59, 0.001];
/** Part of the texture's squared change that remains as misfit: it is sampled anew, blurred, and moves by its own. */
const TEXTURE_LEFT = 0.004;
/** Misfit that rounding alone makes, as variance. */
const ROUNDING = 0.15;
/** Samples that lie this near to the rim are not looked at. */
const RIM = 2;

/**
 * How the blocks of one level fit a picture: what is summed over each, its light, and its say, which falls with its misfit
 * (an M-estimator over blocks, iteratively reweighted; Holland and Welsch 1977).
 */
export class LevelFit {
  readonly sums: Float64Array;
  readonly weight: Float64Array;
  readonly misfit: Float64Array;
  readonly gain: Float64Array;
  readonly seen: Uint8Array;
  /** 1 for blocks that are to be measured at all. */
  readonly asked: Uint8Array;
  /** The right side of each block: eight numbers. */
  readonly right: Float64Array;

  /** Variance of a sample of each block, as it is expected. */
  readonly noise: Float64Array;
  /** What of that the template brings. */
  private templateNoise = 0;
  /** The part of each block's texture that is not the template's noise. */
  readonly signal: Float64Array;
  readonly light: BlockLight;
  readonly count: number;

  /** The misfit that is usual while it is surely seen, Infinity until that is known; and what it was in the last look. */
  private usual = Infinity;
  private present = Infinity;
  /** What is usual is taken of. */
  private readonly sorted: Float64Array;

  constructor(readonly own: TemplateLevel) {
    const count = (this.count = own.blocks.length);
    this.light = new BlockLight(own);
    this.noise = new Float64Array(count);
    this.signal = new Float64Array(count).fill(1);
    this.sums = new Float64Array(count * SURFACE_SUMS);
    this.weight = new Float64Array(count);
    this.misfit = new Float64Array(count);
    this.gain = new Float64Array(count).fill(1);
    this.seen = new Uint8Array(count);
    this.asked = new Uint8Array(count).fill(1);
    this.right = new Float64Array(count * PARAMETERS);
    this.sorted = new Float64Array(count);
  }
  /** Which blocks are measured: those whose middle is. @param fromUnit  units to pixels of the surface's own frame */
  ask(only: Closed | undefined, fromUnit: Matrix3): void {
    const { asked, own } = this;
    if (!only) asked.fill(1);
    else
      own.blocks.forEach(({ probes }, b) => {
        const { x, y } = probes[probes.length - 1];
        asked[b] = isOpen(only, placeAt(fromUnit, x, y)) ? 1 : 0;
      });
  }

  /**
   * Sums over every block that lies open in a picture.
   *
   * @param motionOf  the homography that a block is seen through; null where it cannot be seen
   * @returns false when there is none
   */
  look(plane: Plane, motionOf: (block: number) => ArrayLike<number> | null): boolean {
    const { own, asked, seen, sums, count } = this;
    const reach = surfaceReach(plane, own);
    let any = false;
    for (let b = 0; b < count; b++) {
      const block = own.blocks[b];
      const m = asked[b] ? motionOf(b) : null;
      if (!m) {
        seen[b] = 0;
        continue;
      }
      seen[b] = liesOpen(plane, m, block.probes) ? 1 : 0;
      if (!seen[b]) continue;
      any = true;
      const mean = block.sum / block.count;
      surfaceSums(plane, own, reach, own.begins[b], own.begins[b + 1], m, mean, mean, sums, b * SURFACE_SUMS); // prettier-ignore
    }
    return any;
  }

  /** The last look was right: what its misfit was is usual. */
  learn(): void {
    const { usual, present } = this;
    if (Number.isFinite(present))
      this.usual = Number.isFinite(usual) ? usual + (present - usual) / 8 : present;
  }

  /**
   * Gain, offset, misfit and say of every block, and its right side.
   *
   * @param noise   standard deviation of the pictures' noise on this level, in grey levels
   * @param strict  how many times what was usual misfit may be where few blocks look like themselves
   * @param step    how many have been taken on this picture
   */
  weigh(noise: number, strict: number, step: number): void {
    const { own, count, sums, weight, misfit, gain, seen, right, light } = this;
    this.expect(noise);
    light.fit(sums, seen, step === 0 ? null : weight, this.noise, step < LIGHT_STEPS);
    const whole = light.gain;
    let [alike, all, n] = [0, 0, 0];
    for (let b = 0; b < count; b++) {
      weight[b] = 0;
      if (!seen[b]) continue;
      const { count: size, contrast, byOne, byValue, texture } = own.blocks[b];
      const s = b * SURFACE_SUMS;
      const mean = sums[s + 8] / size;
      const [offsetHold, gainHold] = [light.offsetHold[b], light.gainHold[b]];
      const g = (sums[s + 10] + gainHold * whole) / (contrast + gainHold);
      // The part of its offset that the others do not grant it.
      const kept = (light.off[b] * offsetHold) / (size + offsetHold);
      const spread = sums[s + 9] - size * mean * mean;
      const left = spread - 2 * g * sums[s + 10] + g * g * contrast + size * kept * kept;
      gain[b] = g;
      misfit[b] = Math.sqrt(Math.max(0, left / size) / this.noise[b]);
      this.sorted[n++] = misfit[b];
      const worth = texture * size;
      all += worth;
      if (sums[s + 10] > 0 && sums[s + 10] ** 2 > ALIKE * ALIKE * contrast * spread) alike += worth;
      const r = b * PARAMETERS;
      for (let i = 0; i < PARAMETERS; i++)
        right[r + i] = sums[s + i] - (mean - kept) * byOne[i] - g * byValue[i];
    }
    const ratios = this.sorted.subarray(0, n).sort();
    const found = n > 0 ? ratios[Math.floor(FITTING * n)] : 1;
    // Where most of what is seen is something else, its misfit tells nothing of what is usual.
    const most = alike < FITTING * all && Number.isFinite(strict) ? this.usual * strict : Infinity;
    const usual = Math.max(0.3, Math.min(found, most)) * 1.12;
    this.present = found;
    for (let b = 0; b < count; b++) {
      if (!seen[b]) continue;
      const odd = Math.abs(Math.log(Math.max(1e-3, this.plainGain(b) / whole))) / Math.log(ODD_GAIN);
      weight[b] = falling(misfit[b] / usual, FREE_MISFIT, MOST_MISFIT) * falling(odd, 0.5, 1);
      if (light.alone[b]) weight[b] *= LIT_ALONE;
    }
  }

  /**
   * A block's gain without what noise makes of it: the less texture it has, the more of its contrast is the template's own
   * noise, which nothing in the picture goes with (regression dilution; Fuller 1987), and the less its gain tells.
   */
  private plainGain(b: number): number {
    const { count, contrast } = this.own.blocks[b];
    const whole = this.light.gain;
    // A block of one level, in a picture without noise, tells nothing.
    if (!(contrast > 0)) return whole;
    const fair = whole * Math.max(0, 1 - (count * this.templateNoise) / contrast);
    const off = this.gain[b] - fair;
    const free = BY_NOISE * Math.sqrt(this.noise[b] / contrast);
    return whole + Math.sign(off) * Math.max(0, Math.abs(off) - free);
  }

  /** What variance a sample of each block should have if it is what it was. */
  private expect(noise: number): void {
    const { own, noise: out, light } = this;
    const squared = light.gain * light.gain;
    this.templateNoise = 0.5 * NOISE_PASSED * noise * noise;
    const even = (squared + 1) * this.templateNoise + ROUNDING;
    const slopes = NOISE_SLOPES * noise * noise;
    own.blocks.forEach(({ texture }, b) => {
      out[b] = even + squared * TEXTURE_LEFT * texture;
      this.signal[b] = Math.max(LEAST_SIGNAL, 1 - slopes / texture);
    });
  }
}

/** 1 up to `free`, 0 from `most` on, without a corner in between. */
function falling(value: number, free: number, most: number): number {
  if (value <= free) return 1;
  if (value >= most) return 0;
  const t = (value - free) / (most - free);
  return (1 - t * t) ** 2;
}

/** True when a block lies in the picture and open, by its corners, edges and middle. */
function liesOpen(
  { width, height, covered }: Plane,
  m: ArrayLike<number>,
  probes: readonly Point[],
): boolean {
  if (m[6] === 0 && m[7] === 0) {
    // A parallelogram: it reaches as far on either side of its middle.
    const [a, , c] = probes;
    const [x, y] = [(a.x + c.x) / 2, (a.y + c.y) / 2];
    const [u, v] = [Math.abs(c.x - x), Math.abs(c.y - y)];
    const px = (m[0] * x + m[1] * y + m[2]) / m[8];
    const py = (m[3] * x + m[4] * y + m[5]) / m[8];
    const w = RIM + (Math.abs(m[0]) * u + Math.abs(m[1]) * v) / m[8];
    const h = RIM + (Math.abs(m[3]) * u + Math.abs(m[4]) * v) / m[8];
    if (!(m[8] > 0 && px > w && py > h && px < width - w && py < height - h)) return false;
    return !covered || isUncovered(covered, width, m, probes);
  }
  for (const { x, y } of probes) {
    const w = m[6] * x + m[7] * y + m[8];
    if (!(w > 0)) return false;
    const px = (m[0] * x + m[1] * y + m[2]) / w;
    const py = (m[3] * x + m[4] * y + m[5]) / w;
    if (!(px > RIM && py > RIM && px < width - RIM && py < height - RIM)) return false;
  }
  return !covered || isUncovered(covered, width, m, probes);
}

/** Probes across and down a block for what is closed. */
const LOOKS = 5;

function isUncovered(
  covered: Uint8Array,
  width: number,
  m: ArrayLike<number>,
  probes: readonly Point[],
): boolean {
  const [a, , c] = probes;
  for (let j = 0; j <= LOOKS; j++) {
    for (let i = 0; i <= LOOKS; i++) {
      const p = placeAt(m, a.x + (i / LOOKS) * (c.x - a.x), a.y + (j / LOOKS) * (c.y - a.y));
      if (covered[Math.floor(p.y) * width + Math.floor(p.x)]) return false;
    }
  }
  return true;
}
