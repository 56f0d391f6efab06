/** How luma and colour differences are coded. */
export interface ColourCode {
  readonly range: 'tv' | 'pc';
  /** As ffprobe names it; null where the file does not say. */
  readonly space: string | null;
}

/** Red, green and blue, 0 to 255. */
export type Rgb = readonly [number, number, number];

/** Kr and Kb (ITU-R BT.601, BT.709 and BT.2020); where the file does not say, by the picture's height. */
export function lumaWeights(space: string | null, height: number): readonly [number, number] {
  if (space === 'bt2020nc' || space === 'bt2020c') return [0.2627, 0.0593];
  if (space === 'bt709') return [0.2126, 0.0722];
  if (space === 'smpte170m' || space === 'bt470bg' || space === 'fcc') return [0.299, 0.114];
  return height >= 720 ? [0.2126, 0.0722] : [0.299, 0.114];
}

/** A colour as it lies in luma and the two chroma planes, eight bits each. */
export function colourInPlanes([r, g, b]: Rgb, code: ColourCode, height: number): Rgb {
  const [kr, kb] = lumaWeights(code.space, height);
  const y = kr * r + (1 - kr - kb) * g + kb * b;
  const full = code.range === 'pc';
  const c = full ? 1 : 224 / 255;
  return [
    Math.round(full ? y : 16 + (y * 219) / 255),
    Math.round(128 + (c * (b - y)) / (2 * (1 - kb))),
    Math.round(128 + (c * (r - y)) / (2 * (1 - kr))),
  ];
}

/** Reads `#rrggbb`. @throws RangeError for anything else */
export function parseColour(text: string): Rgb {
  const match = /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(text);
  if (!match) throw new RangeError(`"${text}" is not a colour such as #1a2b3c.`);
  return [parseInt(match[1], 16), parseInt(match[2], 16), parseInt(match[3], 16)];
}
