import { graphicsInto } from './graphics-light.js';
import type { Rgb } from './rgb.js';
import type { LightCode } from './tone-map.js';

/** How luma and colour differences are coded. */
export interface ColourCode {
  readonly range: 'tv' | 'pc';
  /** As ffprobe names it; null where the file does not say. */
  readonly space: string | null;
}

/** Kr and Kb (ITU-R BT.601, BT.709 and BT.2020); where the file does not say, by the picture's height. */
export function lumaWeights(space: string | null, height: number): readonly [number, number] {
  if (space === 'bt2020nc' || space === 'bt2020c') return [0.2627, 0.0593];
  if (space === 'bt709') return [0.2126, 0.0722];
  if (space === 'smpte170m' || space === 'bt470bg' || space === 'fcc') return [0.299, 0.114];
  return height >= 720 ? [0.2126, 0.0722] : [0.299, 0.114];
}

/** Between red, green and blue, 0 to 1, and samples of luma and the two chroma planes, of any depth; without rounding. */
export class PlaneCoding {
  /** Luma of black, the span from there to white, the chroma planes' middle, and their span. */
  readonly black: number;
  readonly span: number;
  readonly middle: number;
  readonly chroma: number;
  readonly kr: number;
  readonly kb: number;
  /** What a unit of blue less luma, and of red less luma, is in the chroma planes. */
  readonly perBlue: number;
  readonly perRed: number;

  constructor(code: ColourCode, height: number, depth = 8) {
    const full = code.range === 'pc';
    const unit = 2 ** (depth - 8);
    [this.kr, this.kb] = lumaWeights(code.space, height);
    this.black = full ? 0 : 16 * unit;
    this.span = full ? 256 * unit - 1 : 219 * unit;
    this.middle = 128 * unit;
    this.chroma = full ? 256 * unit - 1 : 224 * unit;
    this.perBlue = this.chroma / (2 * (1 - this.kb));
    this.perRed = this.chroma / (2 * (1 - this.kr));
  }

  /** A colour in planes. @param weight  of a colour that is multiplied by how much it covers, that share */
  toPlanes(r: number, g: number, b: number, out: Float64Array, weight = 1): void {
    const y = this.kr * r + (1 - this.kr - this.kb) * g + this.kb * b;
    out[0] = weight * this.black + this.span * y;
    out[1] = weight * this.middle + this.perBlue * (b - y);
    out[2] = weight * this.middle + this.perRed * (r - y);
  }

  /** A sample of the three planes as red, green and blue; beyond 0 to 1 where they say so. */
  toRgb(y: number, u: number, v: number, out: Float64Array): void {
    const light = (y - this.black) / this.span;
    out[0] = light + (v - this.middle) / this.perRed;
    out[2] = light + (u - this.middle) / this.perBlue;
    out[1] = (light - this.kr * out[0] - this.kb * out[2]) / (1 - this.kr - this.kb);
  }
}

/** A name of how luma is weighed that holds at any size: where the file has none, the one that its height speaks for. */
export function spaceNamed(space: string | null, height: number): string {
  const [kr] = lumaWeights(space, height);
  return kr === 0.2627 ? 'bt2020nc' : kr === 0.2126 ? 'bt709' : 'smpte170m';
}

/** A screen's colour as it lies in luma and the two chroma planes of a clip, of eight bits unless it is said otherwise. */
export function colourInPlanes([r, g, b]: Rgb, code: ColourCode & LightCode, height: number, depth = 8): Rgb {
  const out = new Float64Array(3);
  const seen = Float32Array.of(r / 255, g / 255, b / 255, 1);
  graphicsInto(code)?.(seen);
  new PlaneCoding(code, height, depth).toPlanes(seen[0], seen[1], seen[2], out);
  return [Math.round(out[0]), Math.round(out[1]), Math.round(out[2])];
}

/** Reads `#rrggbb`. @throws RangeError for anything else */
export function parseColour(text: string): Rgb {
  const match = /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(text);
  if (!match) throw new RangeError(`"${text}" is not a colour such as #1a2b3c.`);
  return [parseInt(match[1], 16), parseInt(match[2], 16), parseInt(match[3], 16)];
}
