import { neededZoom } from '../framing/framing.js';
import { IDENTITY } from '../geometry/matrix.js';
import type { SimilarityParts } from '../geometry/similarity.js';
import { optimalPathSteps, PATH_WEIGHTS } from '../smooth/optimal-path.js';
import type { PathLimits } from '../smooth/path-problem.js';
import type { Steps } from '../steps.js';
import { approach, type Amounts, type Stage } from './goals.js';
import type { Motion } from '../solve/motion.js';

const KEYS = ['x', 'y', 'rotation', 'logScale'] as const;
const AMOUNT_OF = { x: 'x', y: 'y', rotation: 'rotation', logScale: 'scale' } as const;
/** The limits are told anew about the path found - the corners are not quite linear in the parts - and solved closer. */
const GAPS = [1e-2, 1e-4];
/** Pixels that the path may leave the smoothed course by where there is no shake at all. */
const LEAST_SLACK = 0.5;
/** Kept free of the limit, so that what linearising neglects does not break it. */
const MARGIN = 1e-4;
/** Differences are taken as at this rate, so that the result does not depend on the clip's. */
const NOMINAL_FPS = 30;

type Key = (typeof KEYS)[number];

/** The parts that are taken out at all, and what a unit of each is in the pixels that it moves a corner by. */
interface Chosen {
  readonly key: Key;
  readonly unit: number;
}

/**
 * The L1-optimal path of the parts over the range, such that no frame needs more than `maxZoom`.
 *
 * The limits are the inclusion constraints of Grundmann, Kwatra and Essa (2011, section 3.2): the delivered frame's
 * corners, taken back through the correction, stay inside the source. In the parts they are linear but for rotation
 * and scale, and are linearised about the path, twice. Every component may leave its smoothed course only as far as the
 * shake does (their proximity constraint): by half its root mean square, and on a frame that is farther off by that much.
 * So the path keeps to the move that was meant however much room there is, and the measured path is always allowed.
 *
 * @param smooth  the smoothed parts of the range
 * @returns parts of the range; the measured ones where the limit leaves no room at all
 */
export function* optimalParts(
  motion: Motion,
  smooth: readonly SimilarityParts[],
  amounts: readonly Amounts[],
  maxZoom: number,
  stage: Stage,
): Steps<SimilarityParts[]> {
  const measured = motion.parts.slice(stage.from, stage.to + 1);
  const inRange = amounts.slice(stage.from, stage.to + 1);
  // Angles and logs in the pixels that they move a corner by, so that all components weigh alike.
  const radius = Math.hypot(stage.size.width, stage.size.height) / 2;
  const chosen = KEYS.filter((key) => inRange.some((a) => a[AMOUNT_OF[key]] > 0)).map((key): Chosen => ({
    key,
    unit: key === 'x' || key === 'y' ? 1 : radius,
  }));
  const zoom = maxZoom * (1 - MARGIN);
  if (chosen.length === 0 || measured.length < 2) return measured;
  if (neededZoom(IDENTITY, stage.shift, stage.size, stage.window) >= zoom) return measured;
  const rate = stage.fps / NOMINAL_FPS;
  const problem = {
    frames: measured.length,
    components: chosen.length,
    weights: PATH_WEIGHTS.map((w, order) => w * rate ** (order + 1)) as [number, number, number],
    ...corridor(measured, smooth, chosen),
  };
  let path = measured;
  for (const gap of GAPS) {
    const limits = inclusionLimits(motion, measured, path, inRange, chosen, zoom, stage);
    const start = inUnits(path, chosen);
    const found = yield* optimalPathSteps({ ...problem, start, limits, gap });
    path = measured.map((m, f) => {
      const out: Record<Key, number> = { ...m };
      chosen.forEach(({ key, unit }, c) => (out[key] = found[f * chosen.length + c] / unit));
      return out;
    });
  }
  return path;
}

/** Values as the path's problem has them: frame by frame, component by component, in pixels. */
function inUnits(parts: readonly SimilarityParts[], chosen: readonly Chosen[]): Float64Array {
  const out = new Float64Array(parts.length * chosen.length);
  parts.forEach((p, f) => chosen.forEach(({ key, unit }, c) => (out[f * chosen.length + c] = p[key] * unit)));
  return out;
}

/** How far each component may leave its smoothed course. */
function corridor(
  measured: readonly SimilarityParts[],
  smooth: readonly SimilarityParts[],
  chosen: readonly Chosen[],
): { low: Float64Array; high: Float64Array } {
  const n = chosen.length;
  const shake = inUnits(measured, chosen);
  const course = inUnits(smooth, chosen);
  const squares = new Float64Array(n);
  for (let i = 0; i < shake.length; i++) squares[i % n] += (shake[i] = Math.abs(shake[i] - course[i])) ** 2;
  const usual = squares.map((sum) => Math.sqrt(sum / measured.length));
  const slack = shake.map((off, i) => Math.max(usual[i % n] / 2, off) + LEAST_SLACK);
  return { low: course.map((v, i) => v - slack[i]), high: course.map((v, i) => v + slack[i]) };
}

/** On each of the frame's four sides, the two corners that lie farthest out are kept inside. */
const SIDES = 4;
const CORNERS_A_SIDE = 2;

function inclusionLimits(
  { pivot, pixelAspect }: Motion,
  measured: readonly SimilarityParts[],
  path: readonly SimilarityParts[],
  amounts: readonly Amounts[],
  chosen: readonly Chosen[],
  zoom: number,
  { size, window, shift }: Stage,
): PathLimits {
  const n = chosen.length;
  const count = SIDES * CORNERS_A_SIDE;
  const rows = new Float64Array(measured.length * count * n);
  const bounds = new Float64Array(measured.length * count);
  measured.forEach((m, f) => {
    const a = amounts[f];
    const p = path[f];
    const left = approach(m, p, a);
    const grow = Math.exp(m.logScale - left.logScale);
    const turn = m.rotation - left.rotation;
    const [cos, sin] = [grow * Math.cos(turn), grow * Math.sin(turn)];
    const corners = [-1, 1].flatMap((sx) =>
      [-1, 1].map((sy) => {
        // The corner of the delivered frame in steadied coordinates, then, in square pixels, about the left pivot.
        const cx = size.width / 2 + ((sx * window.width) / 2 - shift.shiftX) / zoom;
        const cy = size.height / 2 + ((sy * window.height) / 2 - shift.shiftY) / zoom;
        const dx = (cx - pivot.x - left.x) * pixelAspect;
        const dy = cy - pivot.y - left.y;
        const qx = cos * dx - sin * dy;
        const qy = sin * dx + cos * dy;
        return { qx, qy, x: pivot.x + m.x + qx / pixelAspect, y: pivot.y + m.y + qy };
      }),
    );
    let row = f * count;
    // sign (place + slope . (w - w0)) <= bound, with the slope of the place in each part.
    const limit = (sign: number, place: number, slope: SimilarityParts, bound: number) => {
      let b = bound - sign * place;
      chosen.forEach(({ key, unit }, c) => {
        const along = sign * slope[key] * a[AMOUNT_OF[key]];
        rows[row * n + c] = along / unit;
        b += along * p[key];
      });
      bounds[row++] = b;
    };
    const across = [...corners].sort((one, other) => one.x - other.x);
    across.forEach(({ qx, qy, x }, k) => {
      const slope = {
        x: -cos,
        y: sin / pixelAspect,
        rotation: qy / pixelAspect,
        logScale: -qx / pixelAspect,
      };
      if (k < CORNERS_A_SIDE) limit(-1, x, slope, 0);
      else limit(1, x, slope, size.width);
    });
    const down = [...corners].sort((one, other) => one.y - other.y);
    down.forEach(({ qx, qy, y }, k) => {
      const slope = { x: -sin * pixelAspect, y: -cos, rotation: -qx, logScale: -qy };
      if (k < CORNERS_A_SIDE) limit(-1, y, slope, 0);
      else limit(1, y, slope, size.height);
    });
  });
  return { count, rows, bounds };
}
