import { apply, invert, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import { composeSimilarity, decomposeSimilarity, type SimilarityParts } from '../geometry/similarity.js';
import { bridgeGaps } from './bridge.js';
import type { Motion, Support } from './motion.js';
import type { Observations } from './observations.js';
import type { Fits, ScenePoints } from './scene-points.js';

/** Moves everything into reference-frame coordinates, so that M[ref] is the identity, and tells it in parts. */
export function motionFromFits(
  seen: Observations,
  spots: readonly { readonly id: string }[],
  points: ScenePoints,
  fits: Fits,
  placing: readonly boolean[] | null,
  ref: number,
): Motion<'similarity'> {
  const { pixelAspect } = seen;
  const toPixels = (x: number, y: number): Point => ({
    x: x / pixelAspect + seen.originX,
    y: y + seen.originY,
  });
  const anchored = spots.map((_, s) =>
    Number.isNaN(points.x[s]) ? null : toPixels(points.x[s], points.y[s]),
  );
  const parts = partsOf(seen, fits, centroid(anchored, placing));
  const matrices = parts.list.map((p) => composeSimilarity(p, parts.pivot, pixelAspect));
  const fromRef = invert(matrices[ref]);
  const rest = anchored.map((r) => r && apply(matrices[ref], r.x, r.y));
  const pivot = centroid(rest, placing);
  const motion = matrices.map((m) => multiply(m, fromRef));
  // Unwrapping began on frame 0; the reference frame is the one that has not turned.
  const turned = parts.list[ref].rotation;
  const support = Array.from(fits.linked, (l, f): Support =>
    l === 2 ? 'full' : seen.guessed[f] ? 'guessed' : l === 1 ? 'position' : 'none',
  );
  const { residual, residuals } = residualsOf(seen, motion, rest);
  return {
    model: 'similarity',
    ref,
    pivot,
    pixelAspect,
    parts: motion.map((m, f) => ({
      ...decomposeSimilarity(m, pivot, pixelAspect),
      rotation: parts.list[f].rotation - turned,
    })),
    support,
    byId: Object.fromEntries(spots.map(({ id }, s) => [id, { rest: rest[s], residuals: residuals[s] }])),
    residual,
  };
}

function partsOf(seen: Observations, fits: Fits, pivot: Point): { list: SimilarityParts[]; pivot: Point } {
  const { frames, pixelAspect } = seen;
  const [px, py] = [(pivot.x - seen.originX) * pixelAspect, pivot.y - seen.originY];
  let before = 0;
  const x = fits.tx.map((tx, f) => (fits.ax[f] * px - fits.ay[f] * py + tx - px) / pixelAspect);
  const y = fits.ty.map((ty, f) => fits.ax[f] * py + fits.ay[f] * px + ty - py);
  bridgeGaps(x, fits.linked);
  bridgeGaps(y, fits.linked);
  const list = Array.from({ length: frames }, (_, f): SimilarityParts => {
    const [ax, ay] = [fits.ax[f], fits.ay[f]];
    const angle = Math.atan2(ay, ax);
    before += Math.atan2(Math.sin(angle - before), Math.cos(angle - before));
    return { x: x[f], y: y[f], rotation: before, logScale: Math.log(Math.hypot(ax, ay)) };
  });
  return { list, pivot };
}

function centroid(points: readonly (Point | null)[], chosen: readonly boolean[] | null): Point {
  const known = points.filter((p, s): p is Point => p !== null && (!chosen || chosen[s]));
  const n = known.length || 1;
  return { x: known.reduce((s, p) => s + p.x, 0) / n, y: known.reduce((s, p) => s + p.y, 0) / n };
}

function residualsOf(
  seen: Observations,
  motion: readonly Matrix3[],
  rest: readonly (Point | null)[],
): { residual: Float64Array; residuals: Float32Array[] } {
  const residual = new Float64Array(seen.frames).fill(NaN);
  const residuals = rest.map(() => new Float32Array(seen.frames).fill(NaN));
  const restX = Float64Array.from(rest, (r) => r?.x ?? NaN);
  const restY = Float64Array.from(rest, (r) => r?.y ?? NaN);
  for (let f = 0; f < seen.frames; f++) {
    const m = motion[f];
    let sum = 0;
    let n = 0;
    for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
      const s = seen.spot[k];
      const [px, py] = [restX[s], restY[s]];
      if (px !== px) continue;
      const ex = m[0] * px + m[1] * py + m[2] - (seen.x[k] / seen.pixelAspect + seen.originX);
      const ey = m[3] * px + m[4] * py + m[5] - (seen.y[k] + seen.originY);
      const e = ex * ex + ey * ey;
      residuals[s][f] = Math.sqrt(e);
      sum += e;
      n++;
    }
    if (n > 0) residual[f] = Math.sqrt(sum / n);
  }
  return { residual, residuals };
}
