import fc from 'fast-check';
import { apply, multiply, type Matrix3 } from '../geometry/matrix.js';
import { analyse } from '../solve/analysed.js';
import { knownPerspectives, perspectiveOfMover } from '../solve/perspective.js';
import { relativeTo, shakes } from '../testing/motions.js';
import { gridOfPlaces, sceneTracks } from '../testing/scene.js';
import { packScene, unpackScene } from './scene-file.js';

const SIZE = { width: 1280, height: 720, pixelAspect: 1 };
const truth = relativeTo(shakes(30, 3), 0);
const places = gridOfPlaces([0, 0, 1280, 720], 10, 6);
const scene = analyse(
  sceneTracks(
    [
      { motion: truth, places, seen: [0, 17] },
      { motion: truth, places, seen: [18, 29] },
      { motion: truth, places: [{ x: 3, y: 700 }], seen: [4, 9] },
    ],
    { cuts: [18] },
  ),
  SIZE,
);

describe('what is known of a whole picture', () => {
  it('comes back as it was, to a hundredth of a pixel', () => {
    scene.tracks.confidence[12] = 0;
    const back = unpackScene(packScene(scene));
    expect(back).toMatchObject({ movers: scene.movers, size: SIZE, moverOf: scene.moverOf });
    const { tracks } = back;
    expect([tracks.frames, tracks.cuts, tracks.start, tracks.first]).toEqual([
      ...[30, scene.tracks.cuts, scene.tracks.start, scene.tracks.first],
    ]);
    scene.tracks.x.forEach((x, i) => expect(Math.abs(tracks.x[i] - x)).toBeLessThan(0.006));
    scene.tracks.confidence.forEach((c, i) => expect(Math.abs(tracks.confidence[i] - c)).toBeLessThan(0.006));
    const [was, is] = [scene.motions[0]!, back.motions[0]!];
    expect(is.support).toEqual(was.support);
    was.parts.forEach((p, f) => {
      expect(is.parts[f].x).toBeCloseTo(p.x, 3);
      expect(is.parts[f].rotation).toBeCloseTo(p.rotation, 7);
      expect(is.residual[f]).toBeCloseTo(was.residual[f], 2);
    });
  });

  it('keeps the perspective of movers that has been worked out', () => {
    const [x, y] = [SIZE.width / 2, SIZE.height / 2];
    const turns = Array.from({ length: 30 }, (_, f): Matrix3 => {
      const about: Matrix3 = [1, 0, 0, 0, 1, 0, 4e-5 * Math.sin(f / 4), 3e-5 * Math.sin(f / 5), 1];
      return multiply([1, 0, x, 0, 1, y, 0, 0, 1], multiply(about, [1, 0, -x, 0, 1, -y, 0, 0, 1]));
    });
    const turned = sceneTracks([{ motion: turns, places }], { noise: 0.1 });
    const asFound = analyse(turned, SIZE);
    expect(knownPerspectives(unpackScene(packScene(asFound))).size).toBe(0);
    const perspective = perspectiveOfMover(asFound, 0)!;
    const back = unpackScene(packScene(asFound));
    const kept = knownPerspectives(back).get(0)!;
    expect([kept.with, kept.without]).toEqual([perspective.with, perspective.without]);
    perspective.matrices.forEach((m, f) => {
      for (const at of [0, 1]) {
        const [p, q] = [m, kept.matrices[f]].map((h) => apply(h, at * SIZE.width, at * SIZE.height));
        expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeLessThan(1e-4);
      }
    });
    // One without perspective is known to have none.
    expect(perspectiveOfMover(scene, 0)).toBeNull();
    expect(knownPerspectives(unpackScene(packScene(scene))).get(0)).toBeNull();
  });

  it('takes few bytes: eight a sample at the most', () => {
    expect(packScene(scene).length).toBeLessThan(8 * scene.tracks.x.length);
  });

  it('that is cut off or spoilt is refused, or read, and nothing else happens', () => {
    const bytes = packScene(scene);
    expect(() => unpackScene(bytes.subarray(0, bytes.length - 1))).toThrow(/end too early/);
    fc.assert(
      fc.property(fc.nat(bytes.length - 1), fc.integer({ min: 0, max: 255 }), (at, byte) => {
        const odd = bytes.slice();
        odd[at] = byte;
        try {
          unpackScene(odd);
        } catch (error) {
          expect(error).toMatchObject({ code: 'bad-scene' });
        }
      }),
      { numRuns: 300 },
    );
  });
});
