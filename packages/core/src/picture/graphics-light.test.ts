import type { Rgb } from './rgb.js';
import { graphicsInto, graphicsOutOf } from './graphics-light.js';
import { ToneMap } from './tone-map.js';

const PQ = { transfer: 'smpte2084', primaries: 'bt2020' };
const HLG = { transfer: 'arib-std-b67', primaries: 'bt2020' };
const into = (code: typeof PQ, ...colour: number[]) => {
  const seen = Float32Array.from(colour);
  graphicsInto(code)!(seen);
  return [...seen];
};

describe('graphics on HDR', () => {
  it('are as bright as reference white should be, by BT.2408', () => {
    // 203 candelas a square metre: a PQ code of 58 per cent, an HLG code of 75 per cent.
    into(PQ, 1, 1, 1, 1).slice(0, 3).forEach((v) => expect(v).toBeCloseTo(0.581, 2)); // prettier-ignore
    into(HLG, 1, 1, 1, 1).slice(0, 3).forEach((v) => expect(v).toBeCloseTo(0.75, 2)); // prettier-ignore
    into(PQ, 0, 0, 0, 1).slice(0, 3).forEach((v) => expect(v).toBeCloseTo(0, 4)); // prettier-ignore
  });

  it('keep how much they cover, and their colour under it', () => {
    const whole = into(PQ, 0.8, 0.4, 0.2, 1);
    const half = into(PQ, 0.4, 0.2, 0.1, 0.5);
    expect(half[3]).toBe(0.5);
    [0, 1, 2].forEach((k) => expect(half[k]).toBeCloseTo(whole[k] / 2, 4));
    expect(into(PQ, 0, 0, 0, 0)).toEqual([0, 0, 0, 0]);
  });

  it.each([PQ, HLG])('look as they did, shown by the tone map, up to where that rolls off', (code) => {
    const tone = ToneMap.for(code)!;
    for (const colour of [
      [0.2, 0.2, 0.2],
      [0.5, 0.3, 0.1],
      [0.1, 0.4, 0.3],
    ]) {
      const coded = into(code, ...colour, 1);
      const shown = [0, 0, 0];
      tone.show(...([0, 1, 2].map((k) => Math.round(255 * coded[k])) as [number, number, number]), shown);
      shown.forEach((v, k) => expect(Math.abs(v - 255 * colour[k])).toBeLessThan(9));
    }
  });

  it.each([PQ, HLG])('whose colour is taken from the picture lie on it in that colour', (code) => {
    for (const colour of [
      [40, 80, 120],
      [200, 180, 90],
      [250, 250, 250],
      [3, 2, 1],
    ] as const) {
      // prettier-ignore
      const coded = into(code, ...colour.map((v) => v / 255), 1).slice(0, 3).map((v) => 255 * v); // prettier-ignore
      const back = graphicsOutOf(code, coded as unknown as Rgb);
      back.forEach((v, k) => expect(Math.abs(v - colour[k])).toBeLessThanOrEqual(2));
    }
    // Brighter than a screen shows: its white.
    expect(graphicsOutOf(code, [240, 240, 240])).toEqual([255, 255, 255]);
  });

  it('of other clips stay as they are', () => {
    expect(graphicsInto({ transfer: 'bt709', primaries: 'bt709' })).toBeNull();
    expect(graphicsInto({})).toBeNull();
    expect(graphicsOutOf({ transfer: 'bt709' }, [1, 2, 3])).toEqual([1, 2, 3]);
  });
});
