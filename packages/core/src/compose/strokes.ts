import type { Rgb } from '../picture/rgb.js';
import type { Raster } from './raster.js';

/** One stroke of a brush, in pixels of the frame that it is painted on. */
export interface Stroke {
  /** Paints with a colour, or takes away what other strokes have painted. */
  readonly tool: 'brush' | 'eraser';
  readonly colour: Rgb;
  /** Diameter in pixels, at full pressure. */
  readonly size: number;
  /** 0: falls off from the middle; 1: full up to its edge. */
  readonly hardness: number;
  /** How opaque it is, 0 to 1. */
  readonly flow: number;
  /** x, y and pressure (0 to 1) of one place after the other. */
  readonly points: readonly (readonly [number, number, number])[];
}

/** Where strokes lie, in whole pixels. */
export interface StrokeBox {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

/** The least rectangle that holds all of the strokes' paint; null where there is none. */
export function boxOfStrokes(strokes: readonly Stroke[]): StrokeBox | null {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const { tool, size, points } of strokes) {
    if (tool === 'eraser') continue;
    const r = size / 2 + 1;
    for (const [x, y] of points) {
      x0 = Math.min(x0, x - r);
      y0 = Math.min(y0, y - r);
      x1 = Math.max(x1, x + r);
      y1 = Math.max(y1, y + r);
    }
  }
  if (!(x1 > x0)) return null;
  const [left, top] = [Math.floor(x0), Math.floor(y0)];
  return { left, top, width: Math.ceil(x1) - left, height: Math.ceil(y1) - top };
}

/**
 * Paints strokes into a raster. A stroke is as opaque where it crosses itself as elsewhere: a sample takes the most that
 * any part of it lays on, by its distance from the line through the stroke's places.
 *
 * @param scale  pixels of the raster for one of the frame: painting finer than the picture takes more
 * Cost: for each piece of a stroke, the rectangle that its brush passes over.
 */
export function paintStrokes(strokes: readonly Stroke[], box: StrokeBox, scale: number): Raster {
  const [width, height] = [
    Math.max(1, Math.ceil(box.width * scale)),
    Math.max(1, Math.ceil(box.height * scale)),
  ];
  const data = new Uint8Array(4 * width * height);
  const laid = new Float32Array(width * height);
  for (const stroke of strokes) {
    const touched = lay(stroke, box, scale, laid, width, height);
    const { tool, flow, colour } = stroke;
    for (let y = touched.y0; y < touched.y1; y++) {
      for (let k = y * width + touched.x0; k < y * width + touched.x1; k++) {
        const a = flow * laid[k];
        laid[k] = 0;
        if (a === 0) continue;
        const over = tool === 'eraser' ? 0 : a;
        for (let c = 0; c < 3; c++)
          data[4 * k + c] = Math.round(data[4 * k + c] * (1 - a) + colour[c] * over);
        data[4 * k + 3] = Math.round(data[4 * k + 3] * (1 - a) + 255 * over);
      }
    }
  }
  return { width, height, data };
}

/** Lays a stroke on an empty ground: how much of each sample it covers. @returns what part may have been touched */
function lay(
  { points, size, hardness }: Stroke,
  box: StrokeBox,
  scale: number,
  laid: Float32Array,
  width: number,
  height: number,
): { x0: number; y0: number; x1: number; y1: number } {
  const touched = { x0: width, y0: height, x1: 0, y1: 0 };
  const at = points.map(([x, y, pressure]) => ({
    x: (x - box.left) * scale,
    y: (y - box.top) * scale,
    r: Math.max(0.35, (size / 2) * pressure * scale),
  }));
  for (let i = 0; i < at.length; i++) {
    const a = at[i];
    const b = at[Math.min(i + 1, at.length - 1)];
    if (i > 0 && a === b) break;
    const r = Math.max(a.r, b.r) + 1;
    const x0 = Math.max(0, Math.floor(Math.min(a.x, b.x) - r));
    const y0 = Math.max(0, Math.floor(Math.min(a.y, b.y) - r));
    const x1 = Math.min(width, Math.ceil(Math.max(a.x, b.x) + r));
    const y1 = Math.min(height, Math.ceil(Math.max(a.y, b.y) + r));
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const length = dx * dx + dy * dy || 1;
    for (let y = y0; y < y1; y++) {
      for (let x = x0; x < x1; x++) {
        const [px, py] = [x + 0.5 - a.x, y + 0.5 - a.y];
        const t = Math.min(1, Math.max(0, (px * dx + py * dy) / length));
        const d = Math.hypot(px - t * dx, py - t * dy);
        const share = brushShare(d, a.r + t * (b.r - a.r), hardness);
        const k = y * width + x;
        if (share > laid[k]) laid[k] = share;
      }
    }
    touched.x0 = Math.min(touched.x0, x0);
    touched.y0 = Math.min(touched.y0, y0);
    touched.x1 = Math.max(touched.x1, x1);
    touched.y1 = Math.max(touched.y1, y1);
  }
  return touched;
}

/** How much a brush lays on at a distance from its middle: all up to its hard part, none beyond its edge. */
export function brushShare(distance: number, radius: number, hardness: number): number {
  const hard = radius * hardness;
  const rim = Math.max(1, radius - hard);
  const t = 0.5 + ((radius + hard) / 2 - distance) / rim;
  if (t <= 0) return 0;
  if (t >= 1) return 1;
  return rim > 1 ? t * t * (3 - 2 * t) : t;
}
