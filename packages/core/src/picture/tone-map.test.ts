import { isHdr, ToneMap } from './tone-map.js';

const PQ = { transfer: 'smpte2084', primaries: 'bt2020' };
const HLG = { transfer: 'arib-std-b67', primaries: 'bt2020' };
const shown = (map: ToneMap, r: number, g = r, b = r): number[] => {
  const out = [0, 0, 0];
  map.show(r, g, b, out);
  return out;
};

describe('a tone map', () => {
  it('is there for HDR alone', () => {
    expect(isHdr(PQ) && isHdr(HLG)).toBe(true);
    for (const transfer of ['bt709', 'iec61966-2-1', null, undefined])
      expect(ToneMap.for({ transfer })).toBeNull();
  });

  it.each([
    ['PQ', PQ],
    ['HLG', HLG],
  ])('of %s keeps greys grey, black black, and what is brighter brighter until it is white', (_, code) => {
    const map = ToneMap.for(code)!;
    let before = -1;
    for (let v = 0; v < 256; v++) {
      const [r, g, b] = shown(map, v);
      expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThanOrEqual(1);
      expect(g).toBeGreaterThanOrEqual(before);
      before = g;
    }
    expect(shown(map, 0)).toEqual([0, 0, 0]);
    expect(shown(map, 255)).toEqual([255, 255, 255]);
  });

  it('shows dim light as the screen does: 20 candelas of the 203 of white as a tenth of white', () => {
    // PQ’s code of 20 cd/m2 is 0.357: 91 of 255. A tenth of white is 89 on a screen of sRGB.
    expect(Math.abs(shown(ToneMap.for(PQ)!, 91)[1] - 89)).toBeLessThanOrEqual(2);
  });

  it('leaves room above reference white: 203 candelas are bright, and not yet white', () => {
    for (const [code, white] of [
      [PQ, 148],
      [HLG, 191],
    ] as const) {
      const [, reference] = shown(ToneMap.for(code)!, white);
      expect(reference).toBeGreaterThan(215);
      expect(reference).toBeLessThan(240);
    }
  });

  it('shows a colour that BT.709 has as it has it: a green of BT.2020 beyond it stays green', () => {
    const [r, g, b] = shown(ToneMap.for(PQ)!, 60, 120, 60);
    expect(g).toBeGreaterThan(2 * Math.max(r, b));
  });
});
