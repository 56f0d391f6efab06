/** Light of reference white, in candelas a square metre (ITU-R BT.2408): where a curve tells absolute light, that is 1. */
export const WHITE = 203;

const power = (v: number, e: number) => Math.max(0, v) ** e;

/** Light by a code from 0 to 1, as the curves' own standards have it; 1 is reference white, and light of HDR goes beyond. */
const CURVES: Readonly<Record<string, (code: number) => number>> = {
  linear: (v) => v,
  'iec61966-2-1': (v) => fromScreen(v),
  // SMPTE ST 2084, equation 4.1
  smpte2084: (v) => fromPq(v) / WHITE,
  // ARIB STD-B67: light of the scene; a code of 0.75 is reference white.
  'arib-std-b67': (v) => fromHlg(v) / fromHlg(0.75),
};

/** Constants of SMPTE ST 2084. */
export const PQ = {
  ...{ m1: 1305 / 8192, m2: 2523 / 32 },
  c: [107 / 128, 2413 / 128, 2392 / 128],
} as const;

/** Light of a code of SMPTE ST 2084, in candelas a square metre. */
export function fromPq(code: number): number {
  const { m1, m2, c } = PQ;
  const e = power(code, 1 / m2);
  return 10_000 * power((e - c[0]) / (c[1] - c[2] * e), 1 / m1);
}

/** The code of light, in candelas a square metre. */
export function toPq(nits: number): number {
  const { m1, m2, c } = PQ;
  const p = power(nits / 10_000, m1);
  return ((c[0] + c[1] * p) / (1 + c[2] * p)) ** m2;
}

/** Its constants a, b and c (ITU-R BT.2100). */
export const HLG = [0.17883277, 0.28466892, 0.55991073] as const;

/** The scene's light, 0 to 1, of a code of ARIB STD-B67. */
export function fromHlg(code: number): number {
  const [a, b, c] = HLG;
  return code <= 0.5 ? (code * code) / 3 : (Math.exp((code - c) / a) + b) / 12;
}

/** The code of the scene's light, 0 to 1. */
export function toHlg(light: number): number {
  const [a, b, c] = HLG;
  return light <= 1 / 12 ? Math.sqrt(3 * light) : a * Math.log(12 * light - b) + c;
}

/** Light of a screen's code, both 0 to 1 (IEC 61966-2-1). */
export const fromScreen = (v: number): number => (v <= 0.04045 ? v / 12.92 : power((v + 0.055) / 1.055, 2.4));

/** The screen's code of light. */
export const toScreen = (light: number): number =>
  light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055;

/** Light of the scene by the inverse of ITU-R BT.709's curve, which those of SD and of BT.2020 are too. */
const rec709 = (v: number) => (v < 0.081 ? v / 4.5 : power((v + 0.099) / 1.099, 1 / 0.45));

/** Light by a code, as a table of 65 536 codes. @param transfer  as ffprobe names it; BT.709 where it is not known */
export function lightTable(transfer: string | null): Float32Array {
  const curve = CURVES[transfer ?? ''] ?? rec709;
  return Float32Array.from({ length: 65536 }, (_, code) => curve(code / 65535));
}
