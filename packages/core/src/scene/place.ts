import type { Point } from '../geometry/matrix.js';
import type { CommonMotion } from './common-motion.js';

/** A mover as it is asked whether it is a part of the place. */
export interface PlaceCandidate {
  readonly motion: CommonMotion;
  /** Its middle, where it rests by its motion. */
  readonly rest: Point;
  /** How much of what was measured it is. */
  readonly share: number;
}

/** A scene that stands still, seen by a camera that moves: one thing at many depths. */
export interface Place {
  /** Candidates that are its depths, by their numbers. */
  readonly members: readonly number[];
  /** Of each how it shifts against the first one, as a multiple of what the camera's travel shifts the farthest-shifted by. */
  readonly parallax: readonly number[];
}

/** Movers that shift less than this against each other, in pixels, are as far away. */
const LEVEL = 1;
/** What the camera's travel leaves of a depth's shift: pixels, or a share of it. */
const [OFF_PX, OFF_SHARE] = [1, 0.1];
/** Depths that tell of a travel: two shift for one reason by chance alone if something goes its own way as smoothly. */
const FEWEST = 3;
/** Frames on which two are seen, at the least. */
const COMMON = 12;

/**
 * The movers that are depths of one place. Against one of its depths every other one shifts as the camera travels, each
 * by its own multiple of the same course: shifts of things that stand still have rank one (the rank constraint of
 * Tomasi and Kanade 1992, for a camera that travels across its line of sight; Irani and Anandan 1996 for parallax
 * against a plane). What goes by itself has a course of its own.
 *
 * @returns null where fewer than three depths agree. Cost: candidates cubed x frames.
 */
export function placeOf(candidates: readonly PlaceCandidate[]): Place | null {
  let best: (Place & { share: number }) | null = null;
  for (let base = 0; base < candidates.length; base++) {
    const courses = candidates.map((c) => courseOf(c, candidates[base]));
    for (let lead = 0; lead < candidates.length; lead++) {
      if (lead === base || !courses[lead] || amplitude(courses[lead]!) < LEVEL) continue;
      const members: number[] = [base];
      const parallax: number[] = [0];
      let shifting = 0;
      courses.forEach((course, m) => {
        if (m === base || !course) return;
        const size = amplitude(course);
        const gain = size < LEVEL ? 0 : gainOf(course, courses[lead]!);
        if (gain === null) return;
        if (size >= LEVEL) shifting++;
        members.push(m);
        parallax.push(gain);
      });
      if (members.length < FEWEST || shifting < FEWEST - 1 || !isDeep(parallax)) continue;
      const share = members.reduce((s, m) => s + candidates[m].share, 0);
      if (!best || share > best.share + 1e-9) best = { members, parallax, share };
    }
  }
  return best;
}

/** Depths differ by more than this part of their shifts: pieces of one thing that goes by itself shift alike. */
const APART = 0.2;

/** Whether some shift otherwise than others, besides the base that does not. */
function isDeep(parallax: readonly number[]): boolean {
  const shifts = parallax.filter((p) => Math.abs(p) > APART * Math.max(...parallax.map(Math.abs)));
  return Math.max(...shifts) - Math.min(...shifts) > APART * Math.max(...shifts.map(Math.abs));
}

/** The part of the frames, on either side, over which a camera's shake is averaged away. */
const SLOW = 1 / 12;

/** How far a mover's middle slides in the picture, the shake of the camera aside: root mean square, in pixels. */
export function slideOf({ motion, rest }: Pick<PlaceCandidate, 'motion' | 'rest'>): number {
  return slowSlide(Array.from(motion.support, (n, f) => (n < 2 ? null : by(motion, f, rest))));
}

/** The same of one place a frame; null where it is not seen. */
export function slowSlide(places: readonly (Point | null)[]): number {
  const course = new Float64Array(2 * places.length).fill(NaN);
  const reach = Math.max(2, Math.round(SLOW * places.length));
  for (let f = 0; f < places.length; f++) {
    if (!places[f]) continue;
    let [x, y, n] = [0, 0, 0];
    for (let k = Math.max(0, f - reach); k <= Math.min(places.length - 1, f + reach); k++) {
      const p = places[k];
      if (!p) continue;
      x += p.x;
      y += p.y;
      n++;
    }
    [course[2 * f], course[2 * f + 1]] = [x / n, y / n];
  }
  return amplitude(course);
}

/** x and y of a candidate's middle against a base, a frame; NaN where either is not seen. Null where they seldom meet. */
function courseOf({ motion, rest }: PlaceCandidate, { motion: base }: PlaceCandidate): Float64Array | null {
  const n = motion.ax.length;
  const out = new Float64Array(2 * n).fill(NaN);
  let [seen, scale] = [0, 0];
  for (let f = 0; f < n; f++) {
    if (motion.support[f] < 2 || base.support[f] < 2) continue;
    const p = backBy(base, f, by(motion, f, rest));
    [out[2 * f], out[2 * f + 1]] = [p.x, p.y];
    scale += Math.hypot(base.ax[f], base.ay[f]);
    seen++;
  }
  // In pixels of the picture, not of where the base rests.
  return seen >= COMMON ? out.map((v) => (v * scale) / seen) : null;
}

function by({ ax, ay, tx, ty }: CommonMotion, f: number, { x, y }: Point): Point {
  return { x: ax[f] * x - ay[f] * y + tx[f], y: ay[f] * x + ax[f] * y + ty[f] };
}

/** Where it rests by a motion that is seen there on a frame. */
export function backBy({ ax, ay, tx, ty }: CommonMotion, f: number, { x, y }: Point): Point {
  const square = ax[f] ** 2 + ay[f] ** 2;
  const [u, v] = [x - tx[f], y - ty[f]];
  return { x: (ax[f] * u + ay[f] * v) / square, y: (ax[f] * v - ay[f] * u) / square };
}

/** Mean of each axis over the frames on which all of some courses are known. */
function meanOf(course: Float64Array, known: (k: number) => boolean): [number, number, number] {
  let [x, y, n] = [0, 0, 0];
  for (let k = 0; k < course.length; k += 2) {
    if (!known(k)) continue;
    x += course[k];
    y += course[k + 1];
    n++;
  }
  return [x / n, y / n, n];
}

function amplitude(course: Float64Array): number {
  const known = (k: number) => !Number.isNaN(course[k]);
  const [mx, my, n] = meanOf(course, known);
  let sum = 0;
  for (let k = 0; k < course.length; k += 2)
    if (known(k)) sum += (course[k] - mx) ** 2 + (course[k + 1] - my) ** 2;
  return Math.sqrt(sum / n);
}

/** The multiple of a leading course that a course is; null where it is none. */
function gainOf(course: Float64Array, lead: Float64Array): number | null {
  const known = (k: number) => !Number.isNaN(course[k] + lead[k]);
  const [mx, my, n] = meanOf(course, known);
  if (n < COMMON) return null;
  const [lx, ly] = meanOf(lead, known);
  let [cross, square, own] = [0, 0, 0];
  for (let k = 0; k < course.length; k += 2) {
    if (!known(k)) continue;
    const [u, v, p, q] = [course[k] - mx, course[k + 1] - my, lead[k] - lx, lead[k + 1] - ly];
    cross += u * p + v * q;
    square += p * p + q * q;
    own += u * u + v * v;
  }
  const gain = cross / square;
  const left = Math.sqrt(Math.max(0, own - gain * cross) / n);
  return left <= Math.max(OFF_PX, OFF_SHARE * Math.sqrt(own / n)) ? gain : null;
}
