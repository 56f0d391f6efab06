import type { Samples } from '@lurn/core';
import { planeSizes, type SampleLayout } from '../layout.js';
import type { ComparePlan } from './compare.js';

type Stroke = readonly (readonly [x: number, y: number])[];

/** Part of an ellipse, in degrees from the right, upwards. */
function arc(x: number, y: number, rx: number, ry: number, from: number, to: number): Stroke {
  const steps = 16;
  return Array.from({ length: steps + 1 }, (_, k) => {
    const a = ((from + ((to - from) * k) / steps) * Math.PI) / 180;
    return [x + rx * Math.cos(a), y + ry * Math.sin(a)] as const;
  });
}

/** Letters by their strokes, ten units high, y upwards, and how wide they are: drawn for these two words. */
const LETTERS: Readonly<Record<string, { readonly wide: number; readonly strokes: readonly Stroke[] }>> = {
  A: { wide: 7.4, strokes: [[[0, 0], [3.7, 10], [7.4, 0]], [[1.2, 3.2], [6.2, 3.2]]] }, // prettier-ignore
  B: {
    wide: 5.8,
    strokes: [
      [[3, 5.3], [0, 5.3], [0, 10], [3, 10]], // prettier-ignore
      arc(3, 7.65, 2.4, 2.35, 90, -90),
      [[3.2, 0], [0, 0], [0, 5.3], [3.2, 5.3]], // prettier-ignore
      arc(3.2, 2.65, 2.6, 2.65, 90, -90),
    ],
  },
  e: { wide: 6, strokes: [[[0.1, 3.7], [6, 3.7]], arc(3, 3.5, 3, 3.5, 3, 315)] }, // prettier-ignore
  f: { wide: 3.6, strokes: [[[1.4, 0], [1.4, 7.8]], arc(3.6, 7.8, 2.2, 2.2, 180, 90), [[0, 7], [3.4, 7]]] }, // prettier-ignore
  o: { wide: 6.2, strokes: [arc(3.1, 3.5, 3.1, 3.5, 0, 360)] },
  r: { wide: 3.4, strokes: [[[0, 0], [0, 7]], arc(3.2, 4.2, 3.2, 2.8, 180, 80)] }, // prettier-ignore
  t: { wide: 3.6, strokes: [[[1.4, 9.2], [1.4, 2.2]], arc(3.6, 2.2, 2.2, 2.2, 180, 270), [[0, 7], [3.4, 7]]] }, // prettier-ignore
};
const [GAP, STROKE, PAD, TALL] = [1.7, 1.35, 4, 10];

/** How much of each pixel a word's strokes cover, 0 to 1, on a plate round it. */
export interface Word {
  readonly width: number;
  readonly height: number;
  readonly cover: Float32Array;
}

/** @param size  height of its capitals, in pixels */
export function drawWord(word: string, size: number): Word {
  const unit = size / TALL;
  const segments: [number, number, number, number][] = [];
  let pen = PAD;
  for (const letter of word) {
    const { wide, strokes } = LETTERS[letter];
    for (const stroke of strokes)
      for (let k = 1; k < stroke.length; k++)
        segments.push([
          ...[pen + stroke[k - 1][0], PAD + TALL - stroke[k - 1][1]],
          ...[pen + stroke[k][0], PAD + TALL - stroke[k][1]],
        ] as unknown as [number, number, number, number]);
    pen += wide + GAP;
  }
  const even = (v: number) => 2 * Math.ceil((v * unit) / 2);
  const [width, height] = [even(pen - GAP + PAD), even(TALL + 2 * PAD)];
  const cover = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const [px, py] = [(x + 0.5) / unit, (y + 0.5) / unit];
      const near = Math.min(...segments.map((s) => distance(px, py, s)));
      cover[y * width + x] = Math.min(1, Math.max(0, 0.5 + (STROKE / 2 - near) * unit));
    }
  }
  return { width, height, cover };
}

function distance(x: number, y: number, [ax, ay, bx, by]: readonly [number, number, number, number]): number {
  const [dx, dy] = [bx - ax, by - ay];
  const square = dx * dx + dy * dy;
  const t = square > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / square)) : 0;
  return Math.hypot(x - ax - t * dx, y - ay - t * dy);
}

/** A word as it lies in the coded picture, which is shown turned. */
interface Placed extends Word {
  readonly x: number;
  readonly y: number;
}

/** Capitals as high as this part of the picture, no less than so many pixels; and how far from its corner. */
const [SHARE, LEAST, MARGIN] = [1 / 32, 9, 0.8];
/** How dark the plate is. */
const PLATE = 0.6;

/** "Before" and "After", written into the two parts of a compared picture. */
export class Labels {
  private readonly placed: readonly Placed[];

  /**
   * @param one    size of each of the two pictures, as it is coded
   * @param both   of the picture that holds both
   * @param turns  quarter turns clockwise by which it is shown
   */
  constructor(
    one: readonly [number, number],
    both: readonly [number, number],
    private readonly plan: ComparePlan & { readonly above: boolean },
    turns: number,
    private readonly layout: SampleLayout,
    private readonly fullRange: boolean,
  ) {
    const upright = ([w, h]: readonly [number, number]) => (turns % 2 === 0 ? [w, h] : [h, w]);
    const [[w, h], [wide, tall]] = [upright(one), upright(both)];
    const size = Math.max(LEAST, h * SHARE);
    const margin = 2 * Math.round((size * MARGIN) / 2);
    const [before, after] = [drawWord('Before', size), drawWord('After', size)];
    const right = (word: Word) => wide - margin - word.width;
    const at = plan.above ? { x: margin, y: h + margin } : { x: plan.grows ? w + margin : right(after), y: margin }; // prettier-ignore
    this.placed = [
      { ...before, x: margin, y: margin },
      { ...after, ...at },
    ].map((word) => turned(word, [wide, tall], turns));
  }

  /** @param border  what lies before it along the plan's side, in luma samples, is the first picture */
  write(out: Samples, [width, height]: readonly [number, number], border: number): void {
    const { layout, plan, fullRange } = this;
    const unit = 2 ** (layout.depth - 8);
    const [black, white] = fullRange ? [0, 256 * unit - 1] : [16 * unit, 235 * unit];
    let from = 0;
    planeSizes(layout, width, height).forEach(([w, h], plane) => {
      const chroma = plane === 1 || plane === 2;
      const [sx, sy] = [width / w, height / h];
      const [dark, light] = chroma ? [128 * unit, 128 * unit] : plane === 3 ? [256 * unit - 1, 256 * unit - 1] : [black, white]; // prettier-ignore
      this.placed.forEach((word, which) => {
        // Where one is wiped over the other, a word that is not all on its own side is left out.
        const [low, high] = plan.along === 'x' ? [word.x, word.x + word.width] : [word.y, word.y + word.height]; // prettier-ignore
        const first = (which === 0) === plan.beforeFirst;
        if (!plan.grows && (first ? high > border : low < border)) return;
        for (let y = 0; y < word.height; y += sy) {
          for (let x = 0; x < word.width; x += sx) {
            const k = from + ((word.y + y) / sy) * w + (word.x + x) / sx;
            const under = plane === 3 ? dark : out[k] + PLATE * (dark - out[k]);
            out[k] = Math.round(under + word.cover[y * word.width + x] * (light - under));
          }
        }
      });
      from += w * h;
    });
  }
}

/** A word that stands upright in the shown picture, as it lies in the coded one. */
function turned(word: Placed, [wide, tall]: readonly number[], turns: number): Placed {
  const { width, height, cover, x, y } = word;
  const t = turns & 3;
  if (t === 0) return word;
  const [w, h] = t % 2 === 0 ? [width, height] : [height, width];
  const out = new Float32Array(w * h);
  for (let v = 0; v < h; v++) {
    for (let u = 0; u < w; u++) {
      // Shown is coded turned clockwise: coded (u, v) lies there in the word as it is read.
      const [i, j] = t === 1 ? [width - 1 - v, u] : t === 2 ? [width - 1 - u, height - 1 - v] : [v, height - 1 - u]; // prettier-ignore
      out[v * w + u] = cover[j * width + i];
    }
  }
  const at = { 1: { x: y, y: wide - x - width }, 2: { x: wide - x - width, y: tall - y - height }, 3: { x: tall - y - height, y: x } }[t as 1 | 2 | 3]; // prettier-ignore
  return { width: w, height: h, cover: out, ...at };
}
