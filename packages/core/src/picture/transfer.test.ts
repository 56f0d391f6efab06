import { lightTable } from './transfer.js';

const at = (transfer: string | null, code: number) => lightTable(transfer)[Math.round(code * 65535)];

it('tells light as the standards do', () => {
  // BT.709: a code of 0.5; sRGB: the middle grey of 18 %; PQ: a code of 0.58 is 203 candelas; HLG: 0.75 is white.
  expect(at('bt709', 0.5)).toBeCloseTo(((0.5 + 0.099) / 1.099) ** (1 / 0.45), 4);
  expect(at(null, 0.5)).toBe(at('bt709', 0.5));
  expect(at('iec61966-2-1', 0.4614)).toBeCloseTo(0.18, 3);
  expect(at('smpte2084', 0.5807)).toBeCloseTo(1, 2);
  expect(at('smpte2084', 1)).toBeCloseTo(10_000 / 203, 1);
  expect(at('arib-std-b67', 0.75)).toBeCloseTo(1, 4);
  expect(at('linear', 0.3)).toBeCloseTo(0.3, 4);
});

it.each([null, 'iec61966-2-1', 'smpte2084', 'arib-std-b67', 'linear'])(
  '%s grows from black on',
  (transfer) => {
    const table = lightTable(transfer);
    expect(table[0]).toBeCloseTo(0, 6);
    for (let code = 64; code < 65536; code += 64) expect(table[code]).toBeGreaterThan(table[code - 64]);
  },
);
