import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import type { Raster } from '@lurn/core/compose';
import type { TextStyle } from '@lurn/model';
import { createCanvas, GlobalFonts } from '@napi-rs/canvas';
import { multiplied } from './picture-file.js';

/** Height of the letters' square, in pixels, and how far lines are apart, in such heights. */
const SIZE = 128;
const LINE = 1.25;
const WIDEST = 4096;
const MOST_SAMPLES = 8e6;

interface Family {
  readonly folder: string;
  readonly subsets: readonly string[];
}

const FAMILIES: Readonly<Record<TextStyle['font'], Family>> = {
  'Hanken Grotesk': {
    folder: 'hanken-grotesk',
    subsets: ['latin', 'latin-ext', 'vietnamese', 'cyrillic-ext'],
  },
  'Spline Sans Mono': { folder: 'spline-sans-mono', subsets: ['latin', 'latin-ext'] },
};

const required = createRequire(import.meta.url);
const folderOf = (family: Family) =>
  dirname(required.resolve(`@fontsource-variable/${family.folder}/package.json`));

const registered = new Map<string, string>();

/** The names under which a font's files are known to the canvas, as it takes them. */
function facesOf(font: TextStyle['font']): string {
  let names = registered.get(font);
  if (names) return names;
  const family = FAMILIES[font];
  const faces = family.subsets.map((subset) => {
    const name = `${font} ${subset}`;
    GlobalFonts.registerFromPath(
      join(folderOf(family), 'files', `${family.folder}-${subset}-wght-normal.woff2`),
      name,
    );
    return `"${name}"`;
  });
  registered.set(font, (names = faces.join(', ')));
  return names;
}

/** The letters of a text that its font does not have. */
export function lettersMissing(text: string, font: TextStyle['font']): string[] {
  const family = FAMILIES[font];
  const ranges = JSON.parse(readFileSync(join(folderOf(family), 'unicode.json'), 'utf8')) as Record<
    string,
    string
  >;
  const known = Object.entries(ranges)
    .filter(([subset]) => family.subsets.includes(subset))
    .flatMap(([, list]) => list.split(','))
    .map((range) => {
      const [from, to = from] = range.replace(/^U\+/, '').split('-');
      return [parseInt(from, 16), parseInt(to, 16)] as const;
    });
  const has = (letter: string) => {
    const code = letter.codePointAt(0)!;
    return /\s/.test(letter) || known.some(([from, to]) => code >= from && code <= to);
  };
  return [...new Set(text)].filter((letter) => !has(letter));
}

/** A text as a raster: as wide as its longest line, with room for its outline. An empty text is one empty sample. */
export function drawText(text: string, style: TextStyle): Raster {
  const lines = text.split('\n');
  const faces = facesOf(style.font);
  const measure = createCanvas(1, 1).getContext('2d');
  const fontOf = (size: number) => `${style.weight} ${size}px ${faces}`;
  measure.font = fontOf(SIZE);
  const widest = Math.max(...lines.map((line) => measure.measureText(line).width));
  if (text.trim() === '') return { width: 1, height: 1, data: new Uint8Array(4) };
  const wide = Math.max(8, Math.min(SIZE, (SIZE * WIDEST) / widest));
  // As large as it may be in all: of very many lines nobody reads one.
  const samples = ((widest * wide) / SIZE) * wide * LINE * lines.length;
  const size = wide * Math.min(1, Math.sqrt(MOST_SAMPLES / samples));
  const margin = Math.ceil(size * (0.06 + style.outline));
  const width = Math.ceil((widest * size) / SIZE) + 2 * margin;
  const height = Math.ceil(size * LINE * lines.length) + 2 * margin;
  const canvas = createCanvas(width, height);
  const context = canvas.getContext('2d');
  context.font = fontOf(size);
  context.textBaseline = 'middle';
  context.textAlign = style.align === 'middle' ? 'center' : style.align;
  context.lineJoin = 'round';
  const x = style.align === 'left' ? margin : style.align === 'right' ? width - margin : width / 2;
  lines.forEach((line, i) => {
    const y = margin + size * LINE * (i + 0.5);
    if (style.outline > 0) {
      context.strokeStyle = style.outlineColour;
      // Half of it lies under the letter.
      context.lineWidth = 2 * style.outline * size;
      context.strokeText(line, x, y);
    }
    context.fillStyle = style.colour;
    context.fillText(line, x, y);
  });
  return multiplied(new Uint8Array(context.getImageData(0, 0, width, height).data.buffer), width, height);
}

/** How much of each pixel a word's letters cover, 0 to 1, with room round them. */
export interface Word {
  readonly width: number;
  readonly height: number;
  readonly cover: Float32Array;
}

/** Height of the font's capitals, a share of its size; room round a word, in heights of capitals. */
const [CAPITAL, ROOM] = [0.7, 0.4];

/** A word as a mask of even sides. @param capital  height of its capitals, in pixels */
export function drawWord(word: string, capital: number): Word {
  const font = `700 ${capital / CAPITAL}px ${facesOf('Hanken Grotesk')}`;
  const measure = createCanvas(1, 1).getContext('2d');
  measure.font = font;
  const room = ROOM * capital;
  const even = (v: number) => 2 * Math.ceil(v / 2);
  const [width, height] = [even(measure.measureText(word).width + 2 * room), even(capital + 2 * room)];
  const context = createCanvas(width, height).getContext('2d');
  context.font = font;
  context.fillStyle = '#fff';
  context.fillText(word, room, room + capital);
  const { data } = context.getImageData(0, 0, width, height);
  return {
    width,
    height,
    cover: Float32Array.from({ length: width * height }, (_, k) => data[4 * k + 3] / 255),
  };
}
