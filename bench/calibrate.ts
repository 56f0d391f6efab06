import { Matrix, solve } from 'ml-matrix';
import { Pyramid } from '@lurn/core/picture';
import { defaultSettings, featuresOf, SEARCH_LEVELS, SpotTracker, type Evidence } from '@lurn/core/track';
import { randomNumbers } from '../packages/core/src/testing/footage.js';
import { FRAMES, goodPlaces, HEIGHT, KINDS, makeUp, WIDTH } from './made-up.js';

/**
 * Fits the weights of the confidence (core, `track/confidence.ts`) on made-up footage: every match is labelled by
 * whether it lies within 0.3 px of truth. Prints the weights, and how well the probabilities hold on surfaces that
 * were not fitted. The starts of the search are thrown about, so that it is the match that is judged.
 */

interface Case {
  readonly features: readonly number[];
  readonly right: boolean;
}

async function casesOf(surfaces: readonly string[], kinds: readonly string[]): Promise<Case[]> {
  const cases: Case[] = [];
  for (const surface of surfaces) {
    for (const kind of kinds) {
      const shot = await makeUp(surface, kind);
      const random = randomNumbers(surface.length + 31 * kind.length);
      const anywhere = Array.from({ length: 8 }, () => ({
        x: 50 + (WIDTH - 100) * random(),
        y: 50 + (HEIGHT - 100) * random(),
      }));
      const first = new Pyramid(shot.planes[0], SEARCH_LEVELS);
      for (const place of [...goodPlaces(shot.planes[0], 8), ...anywhere]) {
        if (shot.hidden(place, 0, 20)) continue;
        let tracker: SpotTracker;
        try {
          const settings = { ...defaultSettings(540), lowMatch: 'carryOn' as const };
          tracker = new SpotTracker(settings, first, place.x, place.y);
        } catch {
          continue;
        }
        for (let f = 1; f < FRAMES; f++) {
          const truth = shot.truth(place, f);
          if (truth.x < 6 || truth.y < 6 || truth.x > WIDTH - 6 || truth.y > HEIGHT - 6) continue;
          const [x, y] = [truth.x + 12 * (random() - 0.5), truth.y + 10 * (random() - 0.5)];
          const found = tracker.find(new Pyramid(shot.planes[f], SEARCH_LEVELS), {
            x,
            y,
            grow: 1,
            lost: false,
            spread: Infinity,
          });
          if (!found?.converged || !(found.score > 0)) continue;
          const evidence: Evidence = found;
          const right = Math.hypot(found.x - truth.x, found.y - truth.y) <= 0.3 && !shot.hidden(place, f, -2);
          cases.push({ features: featuresOf(evidence), right });
        }
      }
    }
  }
  return cases;
}

/** Newton's method on the penalised likelihood. */
function fit(cases: readonly Case[]): number[] {
  const n = cases[0].features.length;
  let weights = new Array<number>(n).fill(0);
  for (let step = 0; step < 30; step++) {
    const gradient = Matrix.zeros(n, 1);
    const hessian = Matrix.eye(n, n, 1);
    weights.forEach((w, k) => gradient.set(k, 0, -w));
    for (const { features, right } of cases) {
      const p = 1 / (1 + Math.exp(-features.reduce((s, v, k) => s + v * weights[k], 0)));
      for (let a = 0; a < n; a++) {
        gradient.set(a, 0, gradient.get(a, 0) + (Number(right) - p) * features[a]);
        for (let b = 0; b < n; b++)
          hessian.set(a, b, hessian.get(a, b) + p * (1 - p) * features[a] * features[b]);
      }
    }
    const change = solve(hessian, gradient).to1DArray();
    weights = weights.map((w, k) => w + change[k]);
    if (change.every((c) => Math.abs(c) < 1e-6)) break;
  }
  return weights;
}

function report(name: string, cases: readonly Case[], weights: readonly number[]): void {
  const bins = [0, 0.2, 0.4, 0.6, 0.8, 0.9, 0.97, 1.001];
  const p = cases.map(
    ({ features }) => 1 / (1 + Math.exp(-features.reduce((s, v, k) => s + v * weights[k], 0))),
  );
  const lines = bins.slice(1).map((top, i) => {
    const inside = cases.filter((_, k) => p[k] >= bins[i] && p[k] < top);
    const right = inside.filter((c) => c.right).length / Math.max(1, inside.length);
    return `${bins[i]}-${Math.min(1, top)}: ${right.toFixed(3)} of ${inside.length}`;
  });
  const sure = cases.filter((_, k) => p[k] >= 0.9);
  console.log(`${name}: ${cases.length} matches; ${lines.join('; ')}`);
  console.log(
    `  at 0.9 and above within 0.3 px: ${(sure.filter((c) => c.right).length / sure.length).toFixed(4)}`,
  );
}

const kinds = Object.keys(KINDS);
const fitted = await casesOf(['speckle', 'signs', 'masonry'], kinds);
const weights = fit(fitted);
console.log('weights:', weights.map((w) => w.toFixed(3)).join(', '));
report('fitted', fitted, weights);
for (const kind of kinds) {
  const other = await casesOf(['other speckle', 'other signs', 'other masonry'], [kind]);
  report(`other surfaces, ${kind}`, other, weights);
}
