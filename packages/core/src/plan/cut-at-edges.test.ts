import { translation } from '../geometry/matrix.js';
import { analyse } from '../solve/analysed.js';
import { plainRequest } from '../testing/goal.js';
import { gridOfPlaces, sceneTracks } from '../testing/scene.js';
import { cutAtEdges } from './cut-at-edges.js';
import { planFor } from './plan.js';

const SIZE = { width: 1280, height: 720, pixelAspect: 1 };
const FRAMES = 40;
/** The ridge swings; the pylon, at the left edge of the frame in the middle, passes before it. */
const ridge = Array.from({ length: FRAMES }, (_, f) =>
  translation(-70 * Math.sin((Math.PI * f) / (FRAMES - 1)), 0),
);
const pylon = ridge.map((m, f) => translation(m[2] - 6 * f, 0));
const pylonAt = 8 + 6 * 20 + 70;
const scene = analyse(
  sceneTracks([
    { motion: ridge, places: gridOfPlaces([0, 0, 1280, 720], 16, 9) },
    { motion: pylon, places: gridOfPlaces([pylonAt - 6, 60, pylonAt + 90, 660], 3, 20) },
  ]),
  SIZE,
);
const request = plainRequest(SIZE, FRAMES);
const plan = planFor({ ...request, framing: { ...request.framing, mode: 'none' } }, scene)!;

describe('what borrowed edges cut off', () => {
  it('is what moves otherwise than what is held and reaches an edge that shows', () => {
    expect(scene.movers.length).toBe(2);
    expect(cutAtEdges(plan, scene, 0, 20)).toBeGreaterThan(2);
    // It has not come to the edge yet.
    expect(cutAtEdges(plan, scene, 0, 0)).toBe(0);
  });

  it('is nothing where no edge shows', () => {
    const fitted = planFor(request, scene)!;
    for (let f = 0; f < FRAMES; f++) expect(cutAtEdges(fitted, scene, 0, f)).toBe(0);
  });
});
