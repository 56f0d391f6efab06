import type { Matrix3, Point } from '../../geometry/matrix.js';
import { rateOf, sizeFor } from './choices.js';
import { exact, plain, type DataExport } from './data-export.js';
import { outlinesOf, shownThrough } from './keyed-outlines.js';
import { matricesOf, PARTS, spanOf, type MovingData } from './moving-data.js';

/** When frames are shown, as parts of the whole stretch; and its length in seconds. */
function clockOf(data: MovingData): { readonly seconds: number; readonly at: (frame: number) => number } {
  const { from, to } = spanOf(data);
  const count = to - from + 1;
  return { seconds: plain(count / rateOf(data)), at: (frame) => plain((frame - from) / count) };
}

/** What XML cannot hold, however it is written (XML 1.0, 2.2). */
// oxlint-disable-next-line no-control-regex
const NO_XML = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g;

const escaped = (text: string) =>
  text.replace(NO_XML, '').replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c]!);

const pairs = (at: readonly Point[]) => at.map((p) => `${plain(p.x)},${plain(p.y)}`).join(' ');

/** The picture's size with what moves in it: circles on spots, outlines of surfaces, the picture as it is steadied (SVG 1.1). */
export const svgExport: DataExport = {
  ...{ id: 'svg', name: 'SVG', extension: 'svg' },
  of: ['tracks', 'corners', 'motion', 'movers'],
  heeds: [],
  *files(data) {
    const { width, height } = sizeFor(data.clip, 'SVG');
    const { seconds, at } = clockOf(data);
    const body = outlinesOf(data).map(({ name, keys }) => {
      const times = keys.map((k) => at(k.frame));
      if (times[0] > 0) times.unshift(0);
      const animate = (attribute: string, values: string[]) => {
        if (values.length < times.length) values.unshift(values[0]);
        return `<animate attributeName="${attribute}" dur="${seconds}s" repeatCount="indefinite" calcMode="discrete" keyTimes="${times.join(';')}" values="${values.join(';')}"/>`;
      };
      const title = `<title>${escaped(name)}</title>`;
      if (keys.length === 0) return '';
      if (keys[0].at.length > 1)
        return `<polygon points="${pairs(keys[0].at)}">${title}${animate('points', keys.map((k) => pairs(k.at)))}</polygon>`; // prettier-ignore
      const [x, y] = (['x', 'y'] as const).map((c) => keys.map((k) => String(plain(k.at[0][c]))));
      return `<circle r="6" cx="${x[0]}" cy="${y[0]}">${title}${animate('cx', x)}${animate('cy', y)}</circle>`;
    });
    const head = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" fill="none" stroke="#7aa860" stroke-width="2">`;
    yield { name: 'data.svg', content: [head, ...body.filter(Boolean), '</svg>', ''].join('\n') };
  },
};

/** A 3x3 matrix of a plane as CSS has it, column by column (CSS Transforms 2, matrix3d). */
export function cssMatrix([a, b, c, d, e, f, g, h, i]: Matrix3): string {
  const columns = [a, d, 0, g, b, e, 0, h, 0, 0, 1, 0, c, f, 0, i].map((v) => plain(v / i));
  columns[10] = 1;
  return `matrix3d(${columns.join(', ')})`;
}

/** Keyframes (CSS Animations 1): what steadies the picture, or carries an element of the page along with a spot. */
export const cssExport: DataExport = {
  ...{ id: 'css', name: 'CSS keyframes', extension: 'css' },
  of: ['tracks', 'motion', 'movers'],
  heeds: [],
  *files(data) {
    const { seconds, at } = clockOf(data);
    const taken = new Set<string>();
    const rules = data.things.map(({ name, frames }) => {
      let id = `lurn-${name.toLowerCase().replace(/[^a-z0-9]+/g, '-')}`;
      while (taken.has(id)) id += '-2';
      taken.add(id);
      const keys = frames.map((f) => {
        const transform =
          data.kind !== 'tracks'
            ? cssMatrix(shownThrough(data.kind, f))
            : `translate(${plain(f.values[0])}px, ${plain(f.values[1])}px)`;
        return `  ${plain(100 * at(f.frame))}% { transform: ${transform}; }`;
      });
      return [
        `.${id} { transform-origin: 0 0; animation: ${id} ${seconds}s step-end infinite; }`,
        `@keyframes ${id} {`,
        ...keys,
        '}',
      ].join('\n');
    });
    yield { name: 'data.css', content: `${rules.join('\n\n')}\n` };
  },
};

/** `hh:mm:ss.mmm` */
function cueTime(seconds: number): string {
  const ms = Math.round(seconds * 1000);
  const part = (v: number, digits: number) => String(Math.floor(v)).padStart(digits, '0');
  return `${part(ms / 3_600_000, 2)}:${part((ms / 60_000) % 60, 2)}:${part((ms / 1000) % 60, 2)}.${part(ms % 1000, 3)}`;
}

/** JSON in which no arrow ends the cue. */
const cueText = (told: ReadonlyMap<string, object>) =>
  JSON.stringify(Object.fromEntries(told)).replaceAll('>', '\\u003e');

/** Metadata cues, a frame each, with what is on it as JSON (WebVTT, W3C). */
export const vttExport: DataExport = {
  ...{ id: 'vtt', name: 'WebVTT metadata', extension: 'vtt' },
  of: ['tracks', 'corners', 'motion', 'movers'],
  heeds: [],
  *files(data) {
    const length = 1 / rateOf(data);
    const cues = new Map<number, { time: number; told: Map<string, object> }>();
    const names = new Set<string>();
    for (const { name: given, frames } of data.things) {
      let name = given;
      for (let n = 2; names.has(name); n++) name = `${given} ${n}`;
      names.add(name);
      for (const { frame, time, values } of frames) {
        const cue = cues.get(frame) ?? { time, told: new Map<string, object>() };
        const told = matricesOf(data.kind).length > 0 ? exact : plain;
        cue.told.set(name, Object.fromEntries(PARTS[data.kind].map((part, k) => [part, told(values[k])])));
        cues.set(frame, cue);
      }
    }
    const rows = [...cues].sort(([a], [b]) => a - b);
    const blocks = rows.map(([frame, { time, told }], k) => {
      // A cue lasts until the next frame's begins, whatever the rate does.
      const next = rows[k + 1];
      const end = next && next[0] === frame + 1 ? next[1].time : time + length;
      return `${frame}\n${cueTime(time)} --> ${cueTime(end)}\n${cueText(told)}`;
    });
    yield { name: 'data.vtt', content: ['WEBVTT', ...blocks, ''].join('\n\n') };
  },
};
