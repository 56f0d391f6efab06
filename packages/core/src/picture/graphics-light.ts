import type { Rgb } from './rgb.js';
import { isHdr, LUMA_2020, TO_709, TONE, type LightCode } from './tone-map.js';
import { fromHlg, fromPq, fromScreen, toHlg, toPq, toScreen, WHITE } from './transfer.js';

/** Light of BT.709's primaries to that of wider ones (ITU-R BT.2087; Display P3 by its primaries). */
const FROM_709: Readonly<Record<string, readonly number[]>> = {
  bt2020: [0.6274, 0.3293, 0.0433, 0.0691, 0.9195, 0.0114, 0.0164, 0.088, 0.8956],
  smpte432: [0.8225, 0.1775, 0, 0.0332, 0.9668, 0, 0.0171, 0.0724, 0.9105],
  bt709: [1, 0, 0, 0, 1, 0, 0, 0, 1],
};
const { peak: HLG_PEAK, systemGamma: SYSTEM_GAMMA } = TONE;
const STEPS = 4096;

/**
 * Brings colours of screens (IEC 61966-2-1) into a clip of HDR: their white becomes its reference white, 203 candelas a
 * square metre, as graphics are meant to be (ITU-R BT.2408, 2.1), and their primaries those of the clip.
 *
 * @returns changes red, green, blue and alpha in turn, 0 to 1, colours multiplied by alpha; null for clips that need none
 * Cost: some forty operations a colour that covers anything.
 */
export function graphicsInto(code: LightCode): ((seen: Float32Array) => void) | null {
  if (!isHdr(code)) return null;
  const key = `${code.transfer} ${code.primaries}`;
  const change = made.get(key) ?? changeInto(code);
  made.set(key, change);
  return change;
}

const made = new Map<string, (seen: Float32Array) => void>();

function changeInto(code: LightCode): (seen: Float32Array) => void {
  const m = FROM_709[code.primaries ?? 'bt2020'] ?? FROM_709.bt2020;
  const hlg = code.transfer === 'arib-std-b67';
  const encode = table((root) => (hlg ? toHlg(root ** 4) : toPq(root ** 4 * WHITE)));
  return (seen) => {
    for (let k = 0; k < seen.length; k += 4) {
      const a = seen[k + 3];
      if (a === 0) continue;
      const [r, g, b] = [
        look(LIGHT, seen[k] / a),
        look(LIGHT, seen[k + 1] / a),
        look(LIGHT, seen[k + 2] / a),
      ];
      let x = m[0] * r + m[1] * g + m[2] * b;
      let y = m[3] * r + m[4] * g + m[5] * b;
      let z = m[6] * r + m[7] * g + m[8] * b;
      if (hlg) {
        // Of the screen's light that of the scene: its luminance to the power of one over the system gamma.
        const luminance = LUMA_2020[0] * x + LUMA_2020[1] * y + LUMA_2020[2] * z;
        const scene =
          luminance > 0 ? (WHITE / HLG_PEAK) * ((luminance * WHITE) / HLG_PEAK) ** (1 / SYSTEM_GAMMA - 1) : 0;
        x *= scene;
        y *= scene;
        z *= scene;
      }
      seen[k] = a * look(encode, Math.sqrt(Math.sqrt(Math.max(0, x))));
      seen[k + 1] = a * look(encode, Math.sqrt(Math.sqrt(Math.max(0, y))));
      seen[k + 2] = a * look(encode, Math.sqrt(Math.sqrt(Math.max(0, z))));
    }
  };
}

/**
 * The other way: what colour of a screen becomes a colour of the clip, red, green and blue from 0 to 255; the nearest where
 * the clip's is brighter, or of wider primaries, than screens show. As it is for clips that need no change.
 */
export function graphicsOutOf(code: LightCode, rgb: Rgb): Rgb {
  if (!isHdr(code)) return rgb;
  const hlg = code.transfer === 'arib-std-b67';
  let light = rgb.map((v) => (hlg ? fromHlg(v / 255) : fromPq(v / 255) / WHITE));
  if (hlg) {
    const luminance = LUMA_2020.reduce((sum, w, k) => sum + w * light[k], 0);
    light = light.map((v) => (v * HLG_PEAK * luminance ** (SYSTEM_GAMMA - 1)) / WHITE);
  }
  const m = TO_709[code.primaries ?? 'bt2020'] ?? TO_709.bt2020;
  const coded = [0, 1, 2].map((k) => {
    const v = Math.min(
      1,
      Math.max(0, m[3 * k] * light[0] + m[3 * k + 1] * light[1] + m[3 * k + 2] * light[2]),
    );
    return Math.round(255 * toScreen(v));
  });
  return [coded[0], coded[1], coded[2]];
}

/** Values at even steps from 0 to 1. */
const table = (of: (v: number) => number) =>
  Float32Array.from({ length: STEPS + 2 }, (_, i) => of(Math.min(1, i / STEPS)));

const LIGHT = table(fromScreen);

/** Between the steps of a table. */
function look(values: Float32Array, v: number): number {
  const at = v <= 0 ? 0 : v >= 1 ? STEPS : v * STEPS;
  const i = at | 0;
  return values[i] + (at - i) * (values[i + 1] - values[i]);
}
