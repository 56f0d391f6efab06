import { SURFACE_SUMS, surfaceSums } from '@lurn/kernels';
import { Matrix, solve, SingularValueDecomposition } from 'ml-matrix';
import { isOpen, type Closed } from '../geometry/area.js';
import { normalisedAt, staysInFront } from '../geometry/homography.js';
import { multiply, invert, type Matrix3, type Point } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import type { Pyramid } from '../picture/pyramid.js';
import { BlockLight } from './block-light.js';
import { PARAMETERS, type Block, type SurfaceTemplate, type TemplateLevel } from './surface-template.js';

/** What a surface may do between two frames. */
export type SurfaceAllow = 'shift' | 'similarity' | 'sheared' | 'affine' | 'perspective';

/**
 * What each motion is made of, over the eight numbers of a homography near no motion, [[1 + a, b, c], [d, 1 + e, f],
 * [g, h, 1]]: shift, turn and growth, shear, a growth of its own across, perspective.
 */
const DIRECTIONS = [
  [0, 0, 1, 0, 0, 0, 0, 0],
  [0, 0, 0, 0, 0, 1, 0, 0],
  [0, -1, 0, 1, 0, 0, 0, 0],
  [1, 0, 0, 0, 1, 0, 0, 0],
  [0, 1, 0, 1, 0, 0, 0, 0],
  [1, 0, 0, 0, -1, 0, 0, 0],
  [0, 0, 0, 0, 0, 0, 1, 0],
  [0, 0, 0, 0, 0, 0, 0, 1],
];
const COUNT: Readonly<Record<SurfaceAllow, number>> = {
  shift: 2,
  similarity: 4,
  sheared: 5,
  affine: 6,
  perspective: 8,
};

/** Steps of Gauss and Newton at the most, at full size and on coarser levels. */
const [FINE_STEPS, COARSE_STEPS] = [12, 10];
/** A corner that moves less than this in a step, in samples of its level, has settled. */
const [FINE_SETTLED, COARSE_SETTLED] = [0.012, 0.1];
/** Steps that go on for so many times that are as good as settled: blocks may take turns at the edge of having a say. */
const NEARLY = 8;
/** After so many steps it stays as it is which blocks are lit by themselves: else two answers may take turns. */
const LIGHT_STEPS = 4;
/** No corner goes farther than this in a step, in samples of its level. */
const LONGEST_STEP = 4;
/** A block whose gain is farther from the whole's than these ratios tells of something else; up to half of that freely. */
const ODD_GAIN = 4;
/** A block's misfit may be so many times the usual freely, and more takes from its say until it has none. */
const [FREE_MISFIT, MOST_MISFIT] = [1.25, 2.4];
/** This share of the blocks fits well enough to tell what misfit is usual. */
const FITTING = 0.35;
/** How much a block counts that is lit by itself. */
const LIT_ALONE = 0.1;
/** A block looks like itself from this correlation on. */
const ALIKE = 0.6;
/** Where few blocks do, misfit may be so many times what was usual. */
const FALLING_MISFIT = 1.6;
/** Part of a picture's noise that the two samplings let through, as variance. */
const NOISE_PASSED = 0.65;
/** Part of the texture's squared change that remains as misfit: it is sampled anew, blurred, and moves by its own. */
const TEXTURE_LEFT = 0.004;
/** Misfit that rounding alone makes, as variance. */
const ROUNDING = 0.15;
/** Samples that lie this near to the rim are not looked at. */
const RIM = 2;

/** How one block fits: its say from 0 to 1, and its misfit and gain against what is usual. */
export interface BlockFit {
  readonly weight: number;
  /** False where it lies outside the picture or is closed. */
  readonly seen: boolean;
  /** What gain and offset leave unexplained, against what is expected. */
  readonly misfit: number;
  readonly gain: number;
  /** How far it would lie elsewhere by itself, in pixels of the picture. */
  readonly off: number;
}

/** A surface found on a frame. */
export interface SurfaceFit {
  /** Its own frame to this one, source pixels. */
  readonly motion: Matrix3;
  readonly converged: boolean;
  /** Correlation over the blocks that have a say, -1 to 1. */
  readonly score: number;
  /** The part of its texture that is seen, and of that the part that fits. */
  readonly seen: number;
  readonly held: number;
  /** Predicted standard deviation of the place of a corner, in pixels: the worst of those asked about. */
  readonly error: number;
  readonly blocks: readonly BlockFit[];
}

/** What is asked of an alignment. */
export interface SurfaceAim {
  readonly allow: SurfaceAllow;
  /** Standard deviation of the pictures' noise, in grey levels. */
  readonly noise: number;
  /** Places on the surface's own frame whose error is told. */
  readonly corners: readonly Point[];
  /** What of it is measured, in pixels of its own frame; all of it when left out. */
  readonly only?: Closed;
}

/** Room for what is summed over the blocks of a level, and what follows from it. */
class Room {
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
  readonly light: BlockLight;
  readonly count: number;

  constructor(level: TemplateLevel) {
    const count = (this.count = level.blocks.length);
    this.light = new BlockLight(level);
    this.noise = new Float64Array(count);
    this.sums = new Float64Array(count * SURFACE_SUMS);
    this.weight = new Float64Array(count);
    this.misfit = new Float64Array(count);
    this.gain = new Float64Array(count).fill(1);
    this.seen = new Uint8Array(count);
    this.asked = new Uint8Array(count).fill(1);
    this.right = new Float64Array(count * PARAMETERS);
  }
}

/**
 * Aligns a surface's texture with a picture: inverse compositional, coarse to fine (Baker and Matthews 2004), with a
 * gain and an offset of each block, and a say of each block by its misfit (an M-estimator over blocks, iteratively
 * reweighted; Holland and Welsch 1977): what covers a part of it, or shines on it, is left out.
 */
export class SurfaceAligner {
  private readonly rooms: Room[];
  /** The misfit that is usual of each level while it is surely seen; Infinity until that is known. */
  private readonly usual: Float64Array;
  /** What it was in the last look. */
  private readonly present: Float64Array;

  constructor(readonly template: SurfaceTemplate) {
    this.rooms = template.levels.map((level) => new Room(level));
    this.usual = new Float64Array(template.levels.length).fill(Infinity);
    this.present = new Float64Array(template.levels.length).fill(Infinity);
  }

  /**
   * @param guess     the surface's own frame to the picture's, source pixels
   * @param coarsest  the level to begin on
   * @returns null when too little of it can be seen there, or it turns over
   */
  align(picture: Pyramid, guess: Matrix3, coarsest: number, aim: SurfaceAim): SurfaceFit | null {
    return this.climb(picture, guess, coarsest, 0, aim);
  }

  /** The same on one coarse level alone: what is told of the fit is told of that. */
  coarse(picture: Pyramid, guess: Matrix3, level: number, aim: SurfaceAim): SurfaceFit | null {
    const own = Math.min(level, this.template.levels.length - 1);
    return this.climb(picture, guess, own, own, aim);
  }

  private climb(
    picture: Pyramid,
    guess: Matrix3,
    coarsest: number,
    finest: number,
    aim: SurfaceAim,
  ): SurfaceFit | null {
    const { template } = this;
    /** Units to source pixels of the picture. */
    let motion = normalised(multiply(guess, template.fromUnit));
    const first = Math.min(coarsest, template.levels.length - 1);
    let settled = false;
    for (let level = first; level >= finest; level--) {
      const to = this.pictureLevel(picture, level, motion);
      if (to === null) continue;
      const allow = level >= 2 && COUNT[aim.allow] > 4 ? 'similarity' : aim.allow;
      const found = this.settle(picture, level, to, motion, { ...aim, allow }, level === finest);
      if (!found) {
        if (level === finest) return null;
        continue;
      }
      ({ motion, settled } = found);
    }
    return this.judge(finest, motion, settled, aim);
  }

  /** The last alignment was right: what its misfit was is usual. */
  learn(): void {
    this.present.forEach((now, level) => {
      const before = this.usual[level];
      if (Number.isFinite(now))
        this.usual[level] = Number.isFinite(before) ? before + (now - before) / 8 : now;
    });
  }

  /** Which level of the picture shows the surface as large as a level of the template does; null where none does. */
  private pictureLevel(picture: Pyramid, level: number, motion: Matrix3): number | null {
    const grown = Math.sqrt(areaAt(motion)) / this.template.half;
    const wanted = level + Math.round(Math.log2(grown) * 0.9);
    if (wanted < 0) return level === 0 ? 0 : null;
    return Math.min(wanted, picture.levels.length - 1);
  }

  /** Steps on one level until nothing moves any more. */
  private settle(
    picture: Pyramid,
    level: number,
    to: number,
    start: Matrix3,
    aim: SurfaceAim,
    last: boolean,
  ): { motion: Matrix3; settled: boolean } | null {
    const own = this.template.levels[level];
    const plane = picture.levels[to];
    const room = this.rooms[level];
    const scale = 1 / 2 ** to;
    let motion = start;
    this.require(picture, to, motion);
    this.ask(own, room, aim.only);
    const limit = level === 0 ? FINE_SETTLED : COARSE_SETTLED;
    const steps = level === 0 ? FINE_STEPS : COARSE_STEPS;
    let far = Infinity;
    for (let step = 0; step < steps; step++) {
      const sampled = toLevel(motion, scale);
      if (!this.look(own, plane, sampled, room)) return null;
      this.weigh(
        own,
        room,
        aim.noise / 2 ** (level * 0.8),
        last ? FALLING_MISFIT + 4 / (step + 1) : Infinity,
        step,
      );
      const change = this.solve(own, room, COUNT[aim.allow]);
      if (!change) return null;
      far = longest(sampled, change, this.template.corners);
      const damp = far > LONGEST_STEP ? LONGEST_STEP / far : 1;
      const next = normalised(multiply(motion, invert(homographyOf(change, damp))));
      if (!staysInFront(next, this.template.corners)) return null;
      motion = next;
      if (far < limit) return { motion, settled: true };
    }
    return { motion, settled: far < NEARLY * limit };
  }

  /** Which blocks are measured: those whose middle is. */
  private ask({ blocks }: TemplateLevel, { asked }: Room, only: Closed | undefined): void {
    if (!only) asked.fill(1);
    else
      blocks.forEach(({ probes }, b) => {
        const { x, y } = probes[probes.length - 1];
        asked[b] = isOpen(only, placeAt(this.template.fromUnit, x, y)) ? 1 : 0;
      });
  }

  /** Makes sure of what will be sampled. */
  private require(picture: Pyramid, level: number, motion: Matrix3): void {
    const places = this.template.corners.map(({ x, y }) => placeAt(motion, x, y));
    const margin = 6 * 2 ** level;
    picture.need(
      level,
      Math.min(...places.map((p) => p.x)) - margin,
      Math.min(...places.map((p) => p.y)) - margin,
      Math.max(...places.map((p) => p.x)) + margin,
      Math.max(...places.map((p) => p.y)) + margin,
    );
  }

  /** Sums over every block that lies open in the picture. @returns false when there is none */
  private look(own: TemplateLevel, plane: Plane, m: Matrix3, room: Room): boolean {
    const { asked } = room;
    let any = false;
    for (let b = 0; b < room.count; b++) {
      const block = own.blocks[b];
      room.seen[b] = asked[b] && liesOpen(plane, m, block.probes) ? 1 : 0;
      if (!room.seen[b]) continue;
      any = true;
      const mean = block.sum / block.count;
      surfaceSums(plane, own, own.begins[b], own.begins[b + 1], m, mean, mean, room.sums, b * SURFACE_SUMS);
    }
    return any;
  }

  /**
   * Gain, offset, misfit and say of every block, and its right side.
   *
   * @param strict  how many times what was usual misfit may be where few blocks look like themselves
   * @param step    how many have been taken on this picture
   */
  private weigh(own: TemplateLevel, room: Room, noise: number, strict: number, step: number): void {
    const { count, sums, weight, misfit, gain, seen, right, light } = room;
    this.expect(own, room, noise);
    light.fit(sums, seen, step === 0 ? null : weight, room.noise, step < LIGHT_STEPS);
    const whole = light.gain;
    const ratios: number[] = [];
    let [alike, all] = [0, 0];
    for (let b = 0; b < count; b++) {
      weight[b] = 0;
      if (!seen[b]) continue;
      const { count: n, contrast, byOne, byValue, texture } = own.blocks[b];
      const s = b * SURFACE_SUMS;
      const mean = sums[s + 8] / n;
      const [offsetHold, gainHold] = [light.offsetHold[b], light.gainHold[b]];
      const g = (sums[s + 10] + gainHold * whole) / (contrast + gainHold);
      // The part of its offset that the others do not grant it.
      const kept = (light.off[b] * offsetHold) / (n + offsetHold);
      const spread = sums[s + 9] - n * mean * mean;
      const left = spread - 2 * g * sums[s + 10] + g * g * contrast + n * kept * kept;
      gain[b] = g;
      misfit[b] = Math.sqrt(Math.max(0, left / n) / room.noise[b]);
      ratios.push(misfit[b]);
      const worth = texture * n;
      all += worth;
      if (sums[s + 10] > 0 && sums[s + 10] ** 2 > ALIKE * ALIKE * contrast * spread) alike += worth;
      const r = b * PARAMETERS;
      for (let i = 0; i < PARAMETERS; i++)
        right[r + i] = sums[s + i] - (mean - kept) * byOne[i] - g * byValue[i];
    }
    ratios.sort((p, q) => p - q);
    const found = ratios[Math.floor(FITTING * ratios.length)] ?? 1;
    // Where most of what is seen is something else, its misfit tells nothing of what is usual.
    const most = alike < FITTING * all && Number.isFinite(strict) ? this.usual[own.level] * strict : Infinity;
    const usual = Math.max(0.3, Math.min(found, most)) * 1.12;
    this.present[own.level] = found;
    for (let b = 0; b < count; b++) {
      if (!seen[b]) continue;
      const odd = Math.abs(Math.log(Math.max(1e-3, gain[b] / whole))) / Math.log(ODD_GAIN);
      weight[b] = falling(misfit[b] / usual, FREE_MISFIT, MOST_MISFIT) * falling(odd, 0.5, 1);
      if (light.alone[b]) weight[b] *= LIT_ALONE;
    }
  }

  /** What variance a sample of each block should have if it is what it was. */
  private expect(own: TemplateLevel, { noise: out, light }: Room, noise: number): void {
    const squared = light.gain * light.gain;
    const even = (squared + 1) * 0.5 * NOISE_PASSED * noise * noise + ROUNDING;
    own.blocks.forEach(({ texture }, b) => (out[b] = even + squared * TEXTURE_LEFT * texture));
  }

  /** The step that the blocks agree on; null when they do not determine it. */
  private solve(own: TemplateLevel, room: Room, free: number): Float64Array | null {
    const { normal, right } = this.equations(own, room);
    const directions = new Matrix(DIRECTIONS.slice(0, free));
    const a = directions.mmul(normal).mmul(directions.transpose());
    const trace = a.trace();
    if (!(trace > 0)) return null;
    for (let i = 0; i < free; i++) a.set(i, i, a.get(i, i) * (1 + 1e-6) + 1e-9 * trace);
    const z = solve(a, directions.mmul(Matrix.columnVector([...right])));
    const step = directions.transpose().mmul(z).to1DArray();
    return step.every(Number.isFinite) ? Float64Array.from(step) : null;
  }

  /** The normal equations of all blocks by their say. */
  private equations(own: TemplateLevel, room: Room): { normal: Matrix; right: Float64Array } {
    const m = PARAMETERS;
    const sum = new Float64Array(m * m);
    const right = new Float64Array(m);
    for (let b = 0; b < room.count; b++) {
      const w = room.weight[b];
      if (w === 0) continue;
      const g = room.gain[b];
      const { normal, byOne, byValue, count, contrast } = own.blocks[b];
      const one = 1 / (count + room.light.offsetHold[b]);
      const value = 1 / (contrast + room.light.gainHold[b]);
      // What offset and gain can explain is taken out, as far as they are free (project-out; Baker et al. 2003, part 3).
      for (let i = 0, k = 0; i < m; i++)
        for (let j = 0; j < m; j++, k++)
          sum[k] += w * g * g * (normal[k] - one * byOne[i] * byOne[j] - value * byValue[i] * byValue[j]);
      for (let k = 0; k < m; k++) right[k] += w * g * room.right[b * m + k];
    }
    return { normal: Matrix.from1DArray(m, m, sum), right };
  }

  private judge(level: number, motion: Matrix3, converged: boolean, aim: SurfaceAim): SurfaceFit {
    const own = this.template.levels[level];
    const room = this.rooms[level];
    const { weight, seen, sums, gain } = room;
    let [all, open, held] = [0, 0, 0];
    let [covariance, variance, other] = [0, 0, 0];
    const scale = Math.sqrt(areaAt(motion));
    const blocks = own.blocks.map((block, b): BlockFit => {
      const worth = block.texture * block.count;
      const s = b * SURFACE_SUMS;
      all += worth;
      if (seen[b]) open += worth;
      held += weight[b] * worth;
      const spread = sums[s + 9] - sums[s + 8] ** 2 / block.count;
      covariance += weight[b] * sums[s + 10];
      variance += weight[b] * block.contrast;
      other += weight[b] * spread;
      const off = seen[b] ? scale * this.ownShift(block, room, b) : 0;
      return { weight: weight[b], seen: seen[b] === 1, misfit: room.misfit[b], gain: gain[b], off };
    });
    return {
      motion: normalisedAt(multiply(motion, this.template.toUnit), this.template.middle),
      converged,
      score: covariance > 0 ? covariance / Math.sqrt(variance * other) : 0,
      seen: all > 0 ? open / all : 0,
      held: open > 0 ? held / open : 0,
      error: this.error(own, room, motion, aim),
      blocks,
    };
  }

  /** How far a block would go by itself, in units. */
  private ownShift({ normal, byOne, count }: Block, { right, gain }: Room, b: number): number {
    const m = PARAMETERS;
    const [x, y] = [2, 5];
    const of = (i: number, j: number) => normal[i * m + j] - (byOne[i] * byOne[j]) / count;
    const [xx, xy, yy] = [of(x, x), of(x, y), of(y, y)];
    const det = xx * yy - xy * xy;
    if (!(det > 1e-6 * (xx + yy) ** 2)) return 0;
    const [p, q] = [right[b * m + x], right[b * m + y]];
    return Math.hypot((yy * p - xy * q) / det, (xx * q - xy * p) / det) / Math.max(0.1, gain[b]);
  }

  /**
   * Standard deviation of the worst corner, from how much the blocks disagree: whatever makes them - noise, what is
   * left of an occlusion, a surface that is not quite flat - is in it (the sandwich estimator over clusters; White
   * 1980, Liang and Zeger 1986).
   */
  private error(own: TemplateLevel, room: Room, motion: Matrix3, { allow, corners }: SurfaceAim): number {
    const m = PARAMETERS;
    const free = COUNT[allow];
    const { normal } = this.equations(own, room);
    const directions = new Matrix(DIRECTIONS.slice(0, free));
    const a = directions.mmul(normal).mmul(directions.transpose());
    const meat = Matrix.zeros(free, free);
    let voices = 0;
    for (let b = 0; b < room.count; b++) {
      const say = room.weight[b] * room.gain[b];
      if (say === 0) continue;
      voices += room.weight[b];
      const own = directions.mmul(Matrix.columnVector([...room.right.subarray(b * m, b * m + m)])).mul(say);
      meat.add(own.mmul(own.transpose()));
    }
    if (voices <= free / 2 + 1) return Infinity;
    const back = inverseOf(a);
    if (!back) return Infinity;
    const spread = back
      .mmul(meat)
      .mmul(back)
      .mul(voices / (voices - free / 2));
    let worst = 0;
    for (const corner of corners) {
      const { x, y } = placeAt(this.template.toUnit, corner.x, corner.y);
      const moved = new Matrix([
        [x, y, 1, 0, 0, 0, -x * x, -x * y],
        [0, 0, 0, x, y, 1, -x * y, -y * y],
      ]).mmul(directions.transpose());
      const local = jacobianAt(motion, x, y).mmul(moved);
      const c = local.mmul(spread).mmul(local.transpose());
      const [p, q, r] = [c.get(0, 0), c.get(0, 1), c.get(1, 1)];
      worst = Math.max(worst, (p + r) / 2 + Math.hypot((p - r) / 2, q));
    }
    return Math.sqrt(worst);
  }
}

function inverseOf(a: Matrix): Matrix | null {
  const svd = new SingularValueDecomposition(a);
  return svd.condition < 1e14 ? svd.inverse() : null;
}

/** 1 up to `free`, 0 from `most` on, without a corner in between. */
function falling(value: number, free: number, most: number): number {
  if (value <= free) return 1;
  if (value >= most) return 0;
  const t = (value - free) / (most - free);
  return (1 - t * t) ** 2;
}

/** True when a block lies in the picture and open, by its corners, edges and middle. */
function liesOpen({ width, height, covered }: Plane, m: Matrix3, probes: readonly Point[]): boolean {
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

function isUncovered(covered: Uint8Array, width: number, m: Matrix3, probes: readonly Point[]): boolean {
  const [a, , c] = probes;
  for (let j = 0; j <= LOOKS; j++) {
    for (let i = 0; i <= LOOKS; i++) {
      const p = placeAt(m, a.x + (i / LOOKS) * (c.x - a.x), a.y + (j / LOOKS) * (c.y - a.y));
      if (covered[Math.floor(p.y) * width + Math.floor(p.x)]) return false;
    }
  }
  return true;
}

function placeAt(m: Matrix3, x: number, y: number): Point {
  const w = 1 / (m[6] * x + m[7] * y + m[8]);
  return { x: (m[0] * x + m[1] * y + m[2]) * w, y: (m[3] * x + m[4] * y + m[5]) * w };
}

function jacobianAt(m: Matrix3, x: number, y: number): Matrix {
  const w = 1 / (m[6] * x + m[7] * y + m[8]);
  const p = placeAt(m, x, y);
  return new Matrix([
    [(m[0] - p.x * m[6]) * w, (m[1] - p.x * m[7]) * w],
    [(m[3] - p.y * m[6]) * w, (m[4] - p.y * m[7]) * w],
  ]);
}

/** The area that a homography of units magnifies by in its middle. */
function areaAt(m: Matrix3): number {
  const [a, b, x, d, e, y, g, h] = m;
  return Math.abs((a - x * g) * (e - y * h) - (b - x * h) * (d - y * g));
}

const toLevel = (m: Matrix3, s: number): Matrix3 => [
  ...([m[0] * s, m[1] * s, m[2] * s, m[3] * s, m[4] * s, m[5] * s] as const),
  ...([m[6], m[7], m[8]] as const),
];

const normalised = (m: Matrix3): Matrix3 => normalisedAt(m, { x: 0, y: 0 });

function homographyOf(p: Float64Array, share: number): Matrix3 {
  const [a, b, c, d, e, f, g, h] = p.map((v) => v * share);
  return [1 + a, b, c, d, 1 + e, f, g, h, 1];
}

/** How far the farthest corner goes by a step, in samples. */
function longest(m: Matrix3, change: Float64Array, corners: readonly Point[]): number {
  const step = homographyOf(change, 1);
  let far = 0;
  for (const { x, y } of corners) {
    const [p, q] = [placeAt(m, x, y), placeAt(step, x, y)];
    const r = placeAt(m, q.x, q.y);
    far = Math.max(far, Math.hypot(r.x - p.x, r.y - p.y));
  }
  return far;
}
