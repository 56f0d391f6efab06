import { anchorFrame, type Observations } from './observations.js';
import type { Fits, ScenePoints } from './scene-points.js';

/** Rounds in which the shifts and the scene points of spots for position settle on each other. */
const POSITION_ROUNDS = 24;

/** With rotation and scale given: shifts and scene points of the spots that tell position (alternating means). */
export function placeByPosition(
  seen: Observations,
  fits: Fits,
  rests: ScenePoints,
  chosen: readonly boolean[],
): void {
  const turned = fits.linked.slice();
  const known = (s: number) => !Number.isNaN(rests.x[s]);
  const sums = { x: new Float64Array(seen.spots), y: new Float64Array(seen.spots) };
  const counts = new Float64Array(seen.spots);
  chosen.forEach((c, s) => {
    if (c) rests.x[s] = rests.y[s] = NaN;
  });
  const start = anchorFrame(seen, 0)!;
  const place = (f: number) => {
    let w = 0;
    let x = 0;
    let y = 0;
    for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
      const s = seen.spot[k];
      if (!known(s)) continue;
      w += seen.weight[k];
      x += seen.weight[k] * (seen.x[k] - (fits.ax[f] * rests.x[s] - fits.ay[f] * rests.y[s]));
      y += seen.weight[k] * (seen.y[k] - (fits.ax[f] * rests.y[s] + fits.ay[f] * rests.x[s]));
    }
    fits.linked[f] = w > 0 ? (turned[f] === 2 ? 2 : 1) : 0;
    if (w > 0) {
      fits.tx[f] = x / w;
      fits.ty[f] = y / w;
    }
  };
  const back = (k: number, f: number) => {
    const n = fits.ax[f] ** 2 + fits.ay[f] ** 2;
    const [qx, qy] = [seen.x[k] - fits.tx[f], seen.y[k] - fits.ty[f]];
    return {
      x: (fits.ax[f] * qx + fits.ay[f] * qy) / n,
      y: (fits.ax[f] * qy - fits.ay[f] * qx) / n,
    };
  };
  fits.tx[start] = fits.ty[start] = 0;
  for (let k = seen.first[start]; k < seen.first[start + 1]; k++) {
    const p = back(k, start);
    rests.x[seen.spot[k]] = p.x;
    rests.y[seen.spot[k]] = p.y;
  }
  for (let round = 0; round < POSITION_ROUNDS; round++) {
    for (let f = 0; f < seen.frames; f++) place(f);
    sums.x.fill(0);
    sums.y.fill(0);
    counts.fill(0);
    for (let f = 0; f < seen.frames; f++) {
      if (fits.linked[f] === 0) continue;
      for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
        const p = back(k, f);
        const s = seen.spot[k];
        counts[s] += seen.weight[k];
        sums.x[s] += seen.weight[k] * p.x;
        sums.y[s] += seen.weight[k] * p.y;
      }
    }
    for (let s = 0; s < seen.spots; s++) {
      if (!chosen[s] || counts[s] === 0) continue;
      rests.x[s] = sums.x[s] / counts[s];
      rests.y[s] = sums.y[s] / counts[s];
    }
  }
  for (let f = 0; f < seen.frames; f++) place(f);
}
