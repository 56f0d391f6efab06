import { neededZoom } from '../framing/framing.js';
import { IDENTITY } from '../geometry/matrix.js';
import type { SimilarityParts } from '../geometry/similarity.js';
import { optimalPath, PATH_WEIGHTS } from '../smooth/optimal-path.js';
import type { Amounts, Stage } from './goals.js';
import type { Motion } from './motion.js';

const KEYS = ['x', 'y', 'rotation', 'logScale'] as const;
const AMOUNT_OF = { x: 'x', y: 'y', rotation: 'rotation', logScale: 'scale' } as const;
/** The limits are told anew about the path found - the corners are not quite linear in the parts - and solved closer. */
const GAPS = [1e-3, 1e-5];
/** Pixels that the path may leave the smoothed course by where there is no shake at all. */
const LEAST_SLACK = 0.5;
/** Kept free of the limit, so that what linearising neglects does not break it. */
const MARGIN = 1e-4;
/** Differences are taken as at this rate, so that the result does not depend on the clip's. */
const NOMINAL_FPS = 30;

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
export function optimalParts(
  motion: Motion,
  smooth: readonly SimilarityParts[],
  amounts: readonly Amounts[],
  maxZoom: number,
  stage: Stage,
): SimilarityParts[] {
  const measured = motion.parts.slice(stage.from, stage.to + 1);
  const inRange = amounts.slice(stage.from, stage.to + 1);
  const keys = KEYS.filter((key) => inRange.some((a) => a[AMOUNT_OF[key]] > 0));
  const limit = maxZoom * (1 - MARGIN);
  if (keys.length === 0 || measured.length < 2) return measured;
  if (neededZoom(IDENTITY, stage.shift, stage.size, stage.window) >= limit) return measured;
  // Angles and logs in the pixels that they move a corner by, so that all components weigh alike.
  const radius = Math.hypot(stage.size.width, stage.size.height) / 2;
  const unit = (key: (typeof KEYS)[number]) => (key === 'x' || key === 'y' ? 1 : radius);
  const rate = stage.fps / NOMINAL_FPS;
  let path = measured.map((m) => ({ ...m }));
  for (const gap of GAPS) {
    const limits = inclusionLimits(motion, measured, path, smooth, inRange, keys, limit, stage, unit);
    const start = Float64Array.from(path.flatMap((p) => keys.map((key) => p[key] * unit(key))));
    const found = optimalPath({
      frames: measured.length,
      components: keys.length,
      start,
      limits,
      gap,
      weights: PATH_WEIGHTS.map((w, order) => w * rate ** (order + 1)) as [number, number, number],
    });
    path = measured.map((m, f) => {
      const out: Record<(typeof KEYS)[number], number> = { ...m };
      keys.forEach((key, c) => (out[key] = found[f * keys.length + c] / unit(key)));
      return out;
    });
  }
  return path;
}

/** Corners to keep inside, each with two bounds across and two down. */
const CORNER_ROWS = 4 * 4;

function inclusionLimits(
  { pivot, pixelAspect }: Motion,
  measured: readonly SimilarityParts[],
  path: readonly SimilarityParts[],
  smooth: readonly SimilarityParts[],
  amounts: readonly Amounts[],
  keys: readonly (typeof KEYS)[number][],
  zoom: number,
  { size, window, shift }: Stage,
  unit: (key: (typeof KEYS)[number]) => number,
): { count: number; rows: Float64Array; bounds: Float64Array } {
  const n = keys.length;
  const count = CORNER_ROWS + 2 * n;
  const rows = new Float64Array(measured.length * count * n);
  const bounds = new Float64Array(measured.length * count);
  const off = (key: (typeof KEYS)[number], f: number) => Math.abs(measured[f][key] - smooth[f][key]);
  const usual = keys.map((key) =>
    Math.sqrt(measured.reduce((sum, _, f) => sum + off(key, f) ** 2, 0) / measured.length),
  );
  measured.forEach((m, f) => {
    const a = amounts[f];
    const p = path[f];
    const l = {
      x: m.x + a.x * (p.x - m.x),
      y: m.y + a.y * (p.y - m.y),
      rotation: m.rotation + a.rotation * (p.rotation - m.rotation),
      logScale: m.logScale + a.scale * (p.logScale - m.logScale),
    };
    const grow = Math.exp(m.logScale - l.logScale);
    const [cos, sin] = [grow * Math.cos(m.rotation - l.rotation), grow * Math.sin(m.rotation - l.rotation)];
    let row = f * count;
    const limit = (slope: Readonly<Record<string, number>>, value: number, bound: number) => {
      // value + slope . (w - w0) <= bound
      let b = bound - value;
      keys.forEach((key, c) => {
        rows[row * n + c] = (slope[key] ?? 0) / unit(key);
        b += (slope[key] ?? 0) * p[key];
      });
      bounds[row++] = b;
    };
    for (const sx of [-1, 1]) {
      for (const sy of [-1, 1]) {
        // The corner of the delivered frame in steadied coordinates, then, in square pixels, about the left pivot.
        const cx = size.width / 2 + ((sx * window.width) / 2 - shift.shiftX) / zoom;
        const cy = size.height / 2 + ((sy * window.height) / 2 - shift.shiftY) / zoom;
        const dx = (cx - pivot.x - l.x) * pixelAspect;
        const dy = cy - pivot.y - l.y;
        const qx = cos * dx - sin * dy;
        const qy = sin * dx + cos * dy;
        const x = pivot.x + m.x + qx / pixelAspect;
        const y = pivot.y + m.y + qy;
        const across = {
          x: -cos * a.x,
          y: (sin / pixelAspect) * a.y,
          rotation: (qy / pixelAspect) * a.rotation,
          logScale: (-qx / pixelAspect) * a.scale,
        };
        const down = {
          x: -sin * pixelAspect * a.x,
          y: -cos * a.y,
          rotation: -qx * a.rotation,
          logScale: -qy * a.scale,
        };
        limit(across, x, size.width);
        limit(negated(across), -x, 0);
        limit(down, y, size.height);
        limit(negated(down), -y, 0);
      }
    }
    keys.forEach((key, c) => {
      const slack = Math.max(usual[c] / 2, off(key, f)) + LEAST_SLACK / unit(key);
      // In pixels, so that all rows are of about one size.
      limit({ [key]: unit(key) }, p[key] * unit(key), (smooth[f][key] + slack) * unit(key));
      limit({ [key]: -unit(key) }, -p[key] * unit(key), (slack - smooth[f][key]) * unit(key));
    });
  });
  return { count, rows, bounds };
}

function negated(slope: Readonly<Record<string, number>>): Record<string, number> {
  return Object.fromEntries(Object.entries(slope).map(([key, v]) => [key, -v]));
}
