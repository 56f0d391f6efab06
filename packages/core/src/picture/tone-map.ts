import { fromPq, HLG, lightTable, PQ, toPq, toScreen, WHITE } from './transfer.js';

/** Brightest light that a tone map looks at, in candelas a square metre: what most HDR is graded on. */
const PEAK = 1000;
/** HLG's system gamma at that brightness (ITU-R BT.2100, table 5). */
const SYSTEM_GAMMA = 1.2;
/** Red, green and blue of wider primaries to those of BT.709, for light (ITU-R BT.2087; Display P3 by its primaries). */
export const TO_709: Readonly<Record<string, readonly number[]>> = {
  bt2020: [1.6605, -0.5876, -0.0728, -0.1246, 1.1329, -0.0083, -0.0182, -0.1006, 1.1187],
  smpte432: [1.2249, -0.2247, 0, -0.042, 1.0419, 0, -0.0197, -0.0786, 1.0979],
  bt709: [1, 0, 0, 0, 1, 0, 0, 0, 1],
};
/** Luminance of BT.2020's primaries. */
export const LUMA_2020 = [0.2627, 0.678, 0.0593] as const;

/** What is known of how a clip's light is coded, as ffprobe names it. */
export interface LightCode {
  readonly transfer?: string | null;
  readonly primaries?: string | null;
}

/** True for curves that tell of more light than reference white. */
export function isHdr({ transfer }: LightCode): boolean {
  return transfer === 'smpte2084' || transfer === 'arib-std-b67';
}

/** The codes of {@link ToneMap.out}: fourth roots of light, up to this much. */
const [STEPS, MOST_LIGHT] = [4096, 10_000 / WHITE];

/**
 * Shows HDR on a screen of ordinary light: codes become light, its primaries those of BT.709, what is brighter than
 * reference white is rolled off (the EETF of ITU-R BT.2390, channel by channel), and the screen's curve is applied. For
 * looking only: nothing that is measured or delivered goes through it.
 */
export class ToneMap {
  /** Light by an eight-bit code; of the scene, 0 to 1, where the curve is HLG. */
  readonly light: Float32Array;
  readonly gamut: readonly number[];
  readonly hlg: boolean;
  /** The screen's code, 0 to 255, by the fourth root of light. */
  readonly out: Uint8Array;
  /** What HLG's light is multiplied by, by the scene's luminance in 1023rds. */
  readonly system: Float32Array;

  private constructor({ transfer, primaries }: LightCode) {
    this.hlg = transfer === 'arib-std-b67';
    const table = lightTable(transfer ?? null);
    // The table tells HLG's light against a code of three quarters.
    const unit = this.hlg ? 1 / table[65535] : 1;
    this.light = Float32Array.from({ length: 256 }, (_, code) => table[code * 257] * unit);
    this.gamut = TO_709[primaries ?? 'bt2020'] ?? TO_709.bt2020;
    this.out = Uint8Array.from({ length: STEPS }, (_, i) =>
      Math.round(255 * toScreen(rolledOff(MOST_LIGHT * (i / (STEPS - 1)) ** 4))),
    );
    this.system = Float32Array.from(
      { length: 1024 },
      (_, i) => (PEAK / WHITE) * (i / 1023) ** (SYSTEM_GAMMA - 1),
    );
  }

  /** null for what needs none. */
  static for(code: LightCode): ToneMap | null {
    return isHdr(code) ? new ToneMap(code) : null;
  }

  /** Codes of the screen, 0 to 255, for the clip's. Cost: some thirty operations. */
  show(r: number, g: number, b: number, out: Uint8Array | number[]): void {
    const { light, gamut: m, hlg, system } = this;
    let [x, y, z] = [light[r], light[g], light[b]];
    if (hlg) {
      const luminance = LUMA_2020[0] * x + LUMA_2020[1] * y + LUMA_2020[2] * z;
      const brighter = system[(luminance * 1023 + 0.5) | 0];
      x *= brighter;
      y *= brighter;
      z *= brighter;
    }
    out[0] = this.coded(m[0] * x + m[1] * y + m[2] * z);
    out[1] = this.coded(m[3] * x + m[4] * y + m[5] * z);
    out[2] = this.coded(m[6] * x + m[7] * y + m[8] * z);
  }

  private coded(light: number): number {
    if (!(light > 0)) return 0;
    const root = Math.sqrt(Math.sqrt(light / MOST_LIGHT));
    return this.out[root >= 1 ? STEPS - 1 : (root * (STEPS - 1) + 0.5) | 0];
  }
}

const SOURCE = toPq(PEAK);
const TARGET = toPq(WHITE) / SOURCE;
const KNEE = 1.5 * TARGET - 0.5;

/** The numbers of the map, for whoever computes it elsewhere. */
export const TONE = {
  ...{ white: WHITE, peak: PEAK, systemGamma: SYSTEM_GAMMA, ...PQ },
  ...{ source: SOURCE, target: TARGET, knee: KNEE, hlg: HLG },
} as const;

/** Light in units of reference white, from up to {@link PEAK} down to no more than 1 (ITU-R BT.2390, 5.4.1). */
function rolledOff(light: number): number {
  const e = Math.min(1, toPq(light * WHITE) / SOURCE);
  if (e < KNEE) return light;
  const t = (e - KNEE) / (1 - KNEE);
  const [t2, t3] = [t * t, t * t * t];
  const rolled = (2 * t3 - 3 * t2 + 1) * KNEE + (t3 - 2 * t2 + t) * (1 - KNEE) + (-2 * t3 + 3 * t2) * TARGET;
  return Math.min(1, fromPq(rolled * SOURCE) / WHITE);
}
