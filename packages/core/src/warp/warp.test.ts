import { apply, chain, IDENTITY, invert, scaling, translation } from '../geometry/matrix.js';
import { composeSimilarity } from '../geometry/similarity.js';
import { matrixWarp, evaluatorOf } from '../geometry/warp.js';
import { createPlane } from '../picture/plane.js';
import { halve, Pyramid } from '../picture/pyramid.js';
import { speckledSurface, takePicture } from '../testing/footage.js';
import { chromaToLuma, chromaWarp } from './chroma.js';
import { warpPlane } from './warp-plane.js';

const surface = speckledSurface(21);
const picture = takePicture(surface, IDENTITY, 200, 140);

describe('warping a plane', () => {
  it('by the identity changes nothing', () => {
    const out = createPlane(200, 140);
    warpPlane(picture, out, matrixWarp(IDENTITY), 0);
    expect(out.data).toEqual(picture.data);
  });

  it('draws what a camera moved the same way would have seen, to a grey level or so', () => {
    const move = composeSimilarity({ x: 3.3, y: -2.7, rotation: 0.03, logScale: 0.05 }, { x: 100, y: 70 });
    const truth = takePicture(surface, move, 200, 140);
    const out = createPlane(200, 140);
    warpPlane(picture, out, matrixWarp(invert(move)), 0);
    let worst = 0;
    for (let y = 12; y < 128; y++) {
      for (let x = 12; x < 188; x++)
        worst = Math.max(worst, Math.abs(out.data[y * 200 + x] - truth.data[y * 200 + x]));
    }
    expect(worst).toBeLessThanOrEqual(2);
  });

  it('fills what lies outside and leaves no edge at a zoom that fits', () => {
    const out = createPlane(200, 140);
    warpPlane(picture, out, matrixWarp(translation(-30, 0)), 16);
    expect([...out.data.subarray(0, 28)]).toEqual(Array(28).fill(16));
    const white = createPlane(200, 140);
    white.data.fill(200);
    warpPlane(white, out, matrixWarp(chain(translation(20, 14), scaling(0.8))), 16);
    expect(new Set(out.data)).toEqual(new Set([200]));
  });

  it('shrinks without aliasing: fine stripes become their mean', () => {
    for (const factor of [1.7, 3.4]) {
      const stripes = createPlane(240, 120);
      stripes.data.forEach((_, i) => (stripes.data[i] = i % 2 ? 220 : 20));
      const out = createPlane(Math.floor(240 / factor) - 8, 20);
      warpPlane(stripes, out, matrixWarp(chain(translation(12, 12), scaling(factor))), 0);
      const values = [...out.data];
      expect(Math.max(...values) - Math.min(...values)).toBeLessThan(24);
      expect(values.reduce((a, b) => a + b, 0) / values.length).toBeCloseTo(120, -1);
    }
  });

  it('draws rows apart as it does together', () => {
    const m = composeSimilarity({ x: 5, y: 1, rotation: 0.1, logScale: 0.1 }, { x: 60, y: 60 });
    const whole = createPlane(200, 140);
    const parts = createPlane(200, 140);
    warpPlane(picture, whole, matrixWarp(m), 7);
    warpPlane(picture, parts, matrixWarp(m), 7, [0, 61]);
    warpPlane(picture, parts, matrixWarp(m), 7, [61, 140]);
    expect(parts.data).toEqual(whole.data);
  });
});

describe('chroma', () => {
  it('sits on the first luma column with left siting and between them with centre siting', () => {
    const left = apply(chromaToLuma({ x: 2, y: 2 }, 'left'), 0.5, 0.5);
    expect([left.x, left.y]).toEqual([0.5, 1]);
    const centre = apply(chromaToLuma({ x: 2, y: 2 }, 'center'), 0.5, 0.5);
    expect([centre.x, centre.y]).toEqual([1, 1]);
  });

  it('moves by half as much as luma', () => {
    const warp = chromaWarp(matrixWarp(translation(10, 6)), { x: 2, y: 2 }, 'left');
    expect(evaluatorOf(warp).at(0, 0)).toEqual({ x: 5, y: 3 });
  });
});

describe('halving', () => {
  it('keeps corner-based coordinates: the centre of mass halves', () => {
    const dot = createPlane(64, 48);
    for (const [x, y] of [
      [30, 20],
      [31, 20],
      [30, 21],
      [31, 21],
    ])
      dot.data[y * 64 + x] = 240;
    const half = halve(dot);
    let mass = 0;
    let mx = 0;
    let my = 0;
    half.data.forEach((v, i) => {
      mass += v;
      mx += v * ((i % 32) + 0.5);
      my += v * (Math.floor(i / 32) + 0.5);
    });
    expect(mx / mass).toBeCloseTo(15.5, 6);
    expect(my / mass).toBeCloseTo(10.5, 6);
  });

  it('rounds odd sizes up and stops at small ones', () => {
    const { levels } = new Pyramid(createPlane(51, 33), 6);
    expect(levels.map((l) => [l.width, l.height])).toEqual([
      [51, 33],
      [26, 17],
      [13, 9],
    ]);
  });
});
