import type { Samples } from '@lurn/core/picture';
import { planeSizes, type SampleLayout } from '../layout.js';
import { drawWord, type Word } from '../rasters/text.js';
import type { ComparePlan } from './compare.js';

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
