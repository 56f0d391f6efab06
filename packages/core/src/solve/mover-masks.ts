import { boxMean, GuidedFilter, type Guide } from '../picture/guided-filter.js';
import { climbsOf, geodesicDistance } from '../picture/geodesic.js';
import { measureNoise } from '../picture/noise.js';
import { halvedPlane } from '../picture/pyramid.js';
import { floatsOf, type Plane } from '../picture/plane.js';
import { partsOf, sampleIndex } from '../scene/scene-tracks.js';
import type { AnalysedScene } from './analysed.js';
import { motionCost, type GreyFrame } from './motion-cost.js';

/** Masks are decided at about so many samples across. */
const ACROSS = 320;
/** Frames before and after that a frame is compared with. */
const APART = [3, 8, 16];
/** Costs are smoothed over windows of this radius, along edges of so many grey levels. */
const RADIUS = 3;
const EDGE = 12;
/** A sample is a mover's by its motion alone where all others cost so many grey levels more. */
const DECISIVE = 3;
/** What is plain is a mover's by how near its samples are: at this distance that costs half of so many grey levels. */
const FAR = 120;
const MOST_BY_REACH = 8;
/** One sample on is so far, a grey level beyond so many times the noise so far. */
const WAYS = { step: 0.1, climb: 2.5 };
const NOISY = 3;
const CALMED = 3;
/** ... and every grey level by which a sample costs it more than another so far. */
const BY_COST = 2;
/** What is within reach of what lies behind costs what lies before it so many grey levels more, where it is plain and elsewhere, ... */
const BEFORE = { plain: 5, textured: 1 };
/** ... which falls to a third at this distance. */
const WITHIN_REACH = 20;
/** Plain is where the brightness changes by less than this about a sample, and so many times the noise. */
const PLAIN = 3;
const PLAIN_NOISE = 5;

/** A picture that masks are made from. */
export interface MaskPicture {
  readonly frame: number;
  readonly luma: Plane;
  /** Both colour differences, as large as luma or smaller; edges that are of one brightness are seen by them. */
  readonly chroma?: readonly [Plane, Plane];
}

/** How often a picture of a width is halved before masks are told from it; pictures that are already are taken as they are. */
export function halvingsForMasks(width: number): number {
  return Math.max(0, Math.round(Math.log2(width / ACROSS)));
}

/** No mover. */
export const NOBODYS = 255;

/** Which mover every part of a picture belongs to. */
export interface MoverMasks {
  readonly width: number;
  readonly height: number;
  /** Of every sample the place of its mover in the scene's list, or `NOBODYS`. */
  readonly mover: Uint8Array;
}

/** The frames that the masks of a frame are made from, its own first: none from beyond a cut. */
export function framesForMasks({ tracks }: Pick<AnalysedScene, 'tracks'>, frame: number): number[] {
  const part = partsOf(tracks).find(({ to }) => frame <= to);
  const near = APART.flatMap((d) => [frame - d, frame + d]);
  return [frame, ...near.filter((f) => part && f >= part.from && f <= part.to)];
}

/**
 * Tells to which mover every part of a picture belongs.
 *
 * 1. By motion: the one by whose motion a sample is found again on frames before or after, the cost smoothed along the
 *    picture's edges (cost-volume filtering: Hosni, Rhemann, Bleyer, Rother and Gelautz 2013).
 * 2. What is plain looks the same under any motion: it goes with what is nearest without an edge between (geodesic
 *    distance, as in Criminisi, Sharp and Blake 2008). An edge that goes with a mover lies in it, or is its rim; what is
 *    within reach of a mover and of one that lies behind it belongs to that behind, since a rim is its owner's alone.
 *
 * @param pictures  of the frames that {@link framesForMasks} gives, in that order; all of one size, the clip's or halved
 * @returns masks at about 320 samples across. Cost: about 30 ms, and 40 a mover
 */
export function moverMasks(scene: AnalysedScene, pictures: readonly MaskPicture[]): MoverMasks {
  const [{ luma, frame, chroma }] = pictures;
  const times = halvingsForMasks(luma.width);
  const small = halvedPlane(luma, times);
  const noise = measureNoise(small);
  const own = greyFrame(small, frame);
  const others = pictures.slice(1).map((p) => greyFrame(halvedPlane(p.luma, times), p.frame));
  const { width, height } = own;
  const n = width * height;
  const there = scene.movers.flatMap((mover, m) => {
    const seeds = seedsOf(scene, m, frame, own);
    const motion = scene.motions[m];
    if (seeds.length === 0 || !motion) return [];
    const cost = motionCost(motion, own, others, width / scene.size.width);
    return [{ m, seeds, cost, behind: mover.evidence?.behind ?? 0 }];
  });
  const costs = there.map((t) => t.cost);
  neutralBeyond(costs, n);
  const guide = guideOf(own, chroma);
  const filter = new GuidedFilter(guide, width, height, RADIUS, EDGE);
  for (const cost of costs) filter.apply(cost);
  const owner = ownersOf(costs, n);
  // Edges are looked at where noise is a third.
  const calmed = guide.map((of) => boxMean(of, width, height, 1, new Float32Array(n)));
  const calm = { ...own, data: calmed[0] };
  const level = noise / CALMED;
  const climbs = climbsOf(calmed, width, height, { climb: WAYS.climb, level: NOISY * level });
  const least = costs.reduce(
    (a, b) => a.map((v, p) => Math.min(v, b[p])),
    new Float32Array(n).fill(Infinity),
  );
  const far = there.map(({ seeds }, i) => {
    const isOwn = owner.map((o) => (o === i ? 1 : 0));
    const sure: number[] = [];
    for (let p = 0; p < n; p++) if (isOwn[p]) sure.push(p);
    const toll = costs[i].map((c, p) => BY_COST * (c - least[p]));
    return geodesicDistance(climbs, sure.length > 0 ? sure : seeds, WAYS.step, isOwn, toll);
  });
  // Those of which each one lies before; of equals the surroundings come first.
  const behind = there.map((a, i) =>
    there.flatMap((b, j) => (b.behind > a.behind || (b.behind === a.behind && j < i) ? [j] : [])),
  );
  const plain = plainness(calm, PLAIN + PLAIN_NOISE * level);
  const mover = new Uint8Array(n).fill(NOBODYS);
  for (let p = 0; p < n; p++) {
    let best = owner[p];
    let cheapest = Infinity;
    for (let i = 0; owner[p] === NOBODYS && i < there.length; i++) {
      const d = far[i][p];
      let all = costs[i][p] + (d < Infinity ? (MOST_BY_REACH * d) / (d + FAR) : MOST_BY_REACH);
      for (const j of behind[i])
        all +=
          ((plain[p] ? BEFORE.plain : BEFORE.textured) * Math.exp(-far[j][p] / WITHIN_REACH)) /
          behind[i].length;
      if (all < cheapest) [cheapest, best] = [all, i];
    }
    if (best !== NOBODYS) mover[p] = there[best].m;
  }
  return { width, height, mover };
}

/** The place in the scene's list of the mover at a place of the picture, in source pixels; -1 for none. */
export function moverOn(
  { width, height, mover }: MoverMasks,
  size: { readonly width: number; readonly height: number },
  at: { readonly x: number; readonly y: number },
): number {
  const [x, y] = [Math.floor((at.x * width) / size.width), Math.floor((at.y * height) / size.height)];
  if (x < 0 || y < 0 || x >= width || y >= height) return -1;
  const found = mover[y * width + x];
  return found === NOBODYS ? -1 : found;
}

/** A haze of so much beside a mask, or within, is none. */
const HAZE = 0.125;
/** The rim of a mask is soft over windows of this radius, in its samples. */
const SOFT = 2;

/**
 * Masks of movers on the picture itself, their rims on the picture's edges (fast guided filter: He and Sun 2015, with the
 * coefficients at the size of the masks).
 */
export class FineMasks {
  private readonly filter: GuidedFilter;
  private readonly planes: readonly Plane[];

  /** @param picture  of any size that halved is that of the masks */
  constructor(
    private readonly masks: MoverMasks,
    { luma, chroma }: Pick<MaskPicture, 'luma' | 'chroma'>,
  ) {
    const { width, height } = masks;
    const times = Math.max(0, Math.round(Math.log2(luma.width / width)));
    const small = greyFrame(halvedPlane(luma, times), 0);
    this.planes = [luma, ...(chroma ?? [])];
    this.filter = new GuidedFilter(guideOf(small, chroma), width, height, SOFT, EDGE);
  }

  /** 0 to 255 a sample, as many as luma has. @param mover  its place in the scene's list */
  of(mover: number): Uint8Array {
    const isMover = new Float32Array(this.masks.width * this.masks.height).fill(-HAZE);
    for (let p = 0; p < isMover.length; p++) if (this.masks.mover[p] === mover) isMover[p] = 1 + HAZE;
    return this.filter.enlarged(isMover, this.planes);
  }
}

/** What masks follow the edges of: a picture at their size, in colour where that is known. */
function guideOf({ width, height, data }: GreyFrame, chroma?: readonly [Plane, Plane]): Guide {
  if (!chroma) return [data];
  const small = chroma.map((plane) => {
    const times = Math.max(0, Math.round(Math.log2(plane.width / width)));
    const { data: from, stride, width: w, height: h } = halvedPlane(plane, times);
    const out = new Float32Array(width * height);
    for (let y = 0, p = 0; y < height; y++)
      for (let x = 0; x < width; x++, p++)
        out[p] = from[Math.floor((y * h) / height) * stride + Math.floor((x * w) / width)];
    return out;
  });
  return [data, small[0], small[1]];
}

function greyFrame(plane: Plane, frame: number): GreyFrame {
  return { frame, width: plane.width, height: plane.height, data: floatsOf(plane) };
}

/** The samples in which tracks of a mover are seen on a frame. */
function seedsOf(
  { tracks, moverOf, size }: AnalysedScene,
  m: number,
  frame: number,
  { width, height }: GreyFrame,
): number[] {
  const seeds: number[] = [];
  for (let k = 0; k < moverOf.length; k++) {
    const at = moverOf[k] === m ? sampleIndex(tracks, k, frame) : -1;
    if (at < 0) continue;
    const x = Math.floor((tracks.x[at] * width) / size.width);
    const y = Math.floor((tracks.y[at] * height) / size.height);
    if (x >= 0 && y >= 0 && x < width && y < height) seeds.push(y * width + x);
  }
  return seeds;
}

/** Where the motion of one leads out of the pictures it costs what the best of the others does: nothing is told by it. */
function neutralBeyond(costs: readonly Float32Array[], n: number): void {
  for (let p = 0; p < n; p++) {
    let least = Infinity;
    for (const cost of costs) if (cost[p] < least) least = cost[p];
    for (const cost of costs) if (cost[p] !== cost[p]) cost[p] = least < Infinity ? least : 0;
  }
}

/** Of every sample the place of the cost that is less than all others by far; `NOBODYS` where none is. */
function ownersOf(costs: readonly Float32Array[], n: number): Uint8Array {
  const owner = new Uint8Array(n).fill(NOBODYS);
  for (let p = 0; p < n; p++) {
    let [least, second, at] = [Infinity, Infinity, NOBODYS];
    for (let i = 0; i < costs.length; i++) {
      const c = costs[i][p];
      if (c < least) [second, least, at] = [least, c, i];
      else if (c < second) second = c;
    }
    if (second - least > DECISIVE) owner[p] = at;
  }
  return owner;
}

/** 1 where the brightness changes by less than `most` in all of the 3 x 3 samples about one. */
function plainness({ width, height, data }: GreyFrame, most: number): Uint8Array {
  const plain = new Uint8Array(width * height).fill(1);
  for (let y = 0, p = 0; y < height; y++) {
    for (let x = 0; x < width; x++, p++) {
      const across = data[x + 1 < width ? p + 1 : p] - data[x > 0 ? p - 1 : p];
      const down = data[y + 1 < height ? p + width : p] - data[y > 0 ? p - width : p];
      if (Math.abs(across) + Math.abs(down) < most) continue;
      for (let j = Math.max(0, y - 1); j <= Math.min(height - 1, y + 1); j++)
        plain.fill(0, j * width + Math.max(0, x - 1), j * width + Math.min(width, x + 2));
    }
  }
  return plain;
}
