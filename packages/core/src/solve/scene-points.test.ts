import fc from 'fast-check';
import { randomNumbers } from '../testing/footage.js';
import { noisy, shakes, trackOf } from '../testing/motions.js';
import { anchorFrame, observe, type Observations } from './observations.js';
import {
  emptyFits,
  fitFrame,
  refineScenePoints,
  spreadScenePoints,
  type ScenePoints,
} from './scene-points.js';

const FRAMES = 24;

/** Noisy spots that come and go, but always some of them. */
function seenFrom(seed: number): Observations {
  const random = randomNumbers(seed);
  const truth = shakes(FRAMES, seed);
  const tracks = Array.from({ length: 6 }, (_, s) => {
    const from = s < 2 ? 0 : Math.floor(8 * random());
    const to = s < 2 ? FRAMES : 14 + Math.floor(10 * random());
    const exact = trackOf(truth, 1280 * random(), 720 * random(), (f) => f >= from && f < to);
    return noisy(exact, 0.5, random);
  });
  return observe(tracks, FRAMES, 1);
}

/** The joint cost as it is solved: errors taken back to the anchor frame, each frame's similarity the best one. */
function costOf(seen: Observations, points: ScenePoints): number {
  let cost = 0;
  for (let f = 0; f < seen.frames; f++) {
    // The similarity from the frame back to the scene points, with the least weighted error there.
    const range = Array.from({ length: seen.first[f + 1] - seen.first[f] }, (_, i) => seen.first[f] + i);
    const w = range.reduce((s, k) => s + seen.weight[k], 0);
    const mean = (of: (k: number) => number) => range.reduce((s, k) => s + seen.weight[k] * of(k), 0) / w;
    const [zx, zy] = [mean((k) => seen.x[k]), mean((k) => seen.y[k])];
    const [rx, ry] = [mean((k) => points.x[seen.spot[k]]), mean((k) => points.y[seen.spot[k]])];
    let [re, im, spread] = [0, 0, 0];
    for (const k of range) {
      const [px, py] = [seen.x[k] - zx, seen.y[k] - zy];
      const [qx, qy] = [points.x[seen.spot[k]] - rx, points.y[seen.spot[k]] - ry];
      re += seen.weight[k] * (px * qx + py * qy);
      im += seen.weight[k] * (px * qy - py * qx);
      spread += seen.weight[k] * (px * px + py * py);
    }
    for (const k of range) {
      const [px, py] = [seen.x[k] - zx, seen.y[k] - zy];
      const ex = (re * px - im * py) / spread + rx - points.x[seen.spot[k]];
      const ey = (re * py + im * px) / spread + ry - points.y[seen.spot[k]];
      cost += seen.weight[k] * (ex * ex + ey * ey);
    }
  }
  return cost;
}

/**
 * What moves all scene points together is held while they are refined, because it changes the cost by its scale
 * alone: the places that compete are those that differ from the found ones by something else.
 */
function withoutSimilarity(start: ScenePoints, off: ScenePoints): ScenePoints {
  const n = start.x.length;
  const mean = (v: Float64Array) => v.reduce((a, b) => a + b, 0) / n;
  const centred = (v: Float64Array) => v.map((value) => value - mean(v));
  const [cx, cy, dx, dy] = [centred(start.x), centred(start.y), centred(off.x), centred(off.y)];
  const along = (of: (s: number) => number) => cx.reduce((sum, _, s) => sum + of(s), 0);
  const norm = along((s) => cx[s] ** 2 + cy[s] ** 2);
  const re = along((s) => cx[s] * dx[s] + cy[s] * dy[s]) / norm;
  const im = along((s) => cx[s] * dy[s] - cy[s] * dx[s]) / norm;
  return {
    x: dx.map((v, s) => v - (re * cx[s] - im * cy[s])),
    y: dy.map((v, s) => v - (re * cy[s] + im * cx[s])),
  };
}

describe('scene points', () => {
  it('are those with the least joint error: none nearby has less', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const seen = seenFrom(seed);
        const points = spreadScenePoints(seen, anchorFrame(seen, 0)!);
        const start = { x: points.x.slice(), y: points.y.slice() };
        const before = costOf(seen, points);
        refineScenePoints(seen, points, seen.weight);
        const least = costOf(seen, points);
        expect(least).toBeLessThanOrEqual(before * (1 + 1e-9));
        const random = randomNumbers(seed + 1);
        for (let trial = 0; trial < 12; trial++) {
          const off = withoutSimilarity(start, {
            x: points.x.map(() => 0.05 * (random() - 0.5)),
            y: points.y.map(() => 0.05 * (random() - 0.5)),
          });
          const moved = { x: points.x.map((v, s) => v + off.x[s]), y: points.y.map((v, s) => v + off.y[s]) };
          expect(costOf(seen, moved)).toBeGreaterThan(least - 1e-6 * least - 1e-9);
        }
      }),
      { numRuns: 20 },
    );
  });

  it('spread exactly through spots that hand over to each other', () => {
    const truth = shakes(60, 5);
    const places = [0, 1, 2, 3, 4, 5].map((s) => ({ x: 200 + 150 * s, y: 150 + 90 * ((s * 2) % 5) }));
    const tracks = places.map((p, s) => trackOf(truth, p.x, p.y, (f) => f >= 8 * s - 4 && f < 8 * s + 22));
    const seen = observe(tracks, 60, 1);
    const points = spreadScenePoints(seen, anchorFrame(seen, 0)!);
    // Known but for a similarity: the shape that the places make.
    const shape = (x: ArrayLike<number>, y: ArrayLike<number>) => {
      const [dx, dy] = [x[5] - x[0], y[5] - y[0]];
      const n = dx * dx + dy * dy;
      return [1, 2, 3, 4].flatMap((s) => {
        const [ex, ey] = [x[s] - x[0], y[s] - y[0]];
        return [(ex * dx + ey * dy) / n, (ey * dx - ex * dy) / n];
      });
    };
    const wanted = shape(
      places.map((p) => p.x),
      places.map((p) => p.y),
    );
    shape(points.x, points.y).forEach((v, i) => expect(v).toBeCloseTo(wanted[i], 8));
  });

  it('stay unknown for spots that nothing links to the rest', () => {
    const truth = shakes(40, 6);
    const tracks = [
      trackOf(truth, 300, 200, (f) => f < 15),
      trackOf(truth, 900, 500, (f) => f < 15),
      trackOf(truth, 600, 400, (f) => f > 20),
    ];
    const points = spreadScenePoints(observe(tracks, 40, 1), 3);
    expect([...points.x].map(Number.isNaN)).toEqual([false, false, true]);
  });

  it('tell a frame with one spot its shift, and one with spots in one place no turn', () => {
    const truth = shakes(3, 7);
    const seen = observe([trackOf(truth, 300, 200), trackOf(truth, 300, 200)], 3, 1);
    const points: ScenePoints = { x: seen.x.slice(0, 2), y: seen.y.slice(0, 2) };
    const fits = emptyFits(3);
    fitFrame(seen, points, seen.weight, fits, 1);
    expect(fits.linked[1]).toBe(1);
    expect([fits.ax[1], fits.ay[1]]).toEqual([1, 0]);
    expect(fits.tx[1] + points.x[0]).toBeCloseTo(seen.x[2], 9);
  });
});
