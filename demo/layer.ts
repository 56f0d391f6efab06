import { mix } from './noise.js';

export type Colour = readonly [number, number, number];
/** Colour of a place on a shape, from 0 to 255 a channel. */
export type Paint = Colour | ((x: number, y: number) => Colour);
export type Vertex = readonly [number, number];

/** A painted sheet of scenery: premultiplied red, green, blue (0-255) and cover (0-1), at (x, y) of the scene. */
export class Layer {
  readonly pixels: Float32Array;

  constructor(
    readonly x: number,
    readonly y: number,
    readonly width: number,
    readonly height: number,
  ) {
    this.pixels = new Float32Array(width * height * 4);
  }

  /** Paints where `cover(x, y)` (0-1, scene coordinates at pixel centres) says, within a box. */
  paint(
    box: readonly [number, number, number, number],
    paint: Paint,
    cover: (x: number, y: number) => number,
  ): void {
    const x0 = Math.max(0, Math.floor(box[0] - this.x));
    const y0 = Math.max(0, Math.floor(box[1] - this.y));
    const x1 = Math.min(this.width, Math.ceil(box[2] - this.x));
    const y1 = Math.min(this.height, Math.ceil(box[3] - this.y));
    for (let j = y0; j < y1; j++) {
      for (let i = x0; i < x1; i++) {
        const x = i + this.x + 0.5;
        const y = j + this.y + 0.5;
        const a = cover(x, y);
        if (a <= 0) continue;
        const c = typeof paint === 'function' ? paint(x, y) : paint;
        const p = (j * this.width + i) * 4;
        for (let k = 0; k < 3; k++) this.pixels[p + k] = this.pixels[p + k] * (1 - a) + c[k] * a;
        this.pixels[p + 3] = this.pixels[p + 3] * (1 - a) + a;
      }
    }
  }

  /** A convex polygon with soft rims one pixel wide; vertices clockwise on screen. */
  polygon(vertices: readonly Vertex[], paint: Paint, alpha = 1, soft = 1): void {
    const xs = vertices.map((v) => v[0]);
    const ys = vertices.map((v) => v[1]);
    const edges = vertices.map((a, i) => {
      const b = vertices[(i + 1) % vertices.length];
      const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
      return { x: a[0], y: a[1], nx: -(b[1] - a[1]) / length, ny: (b[0] - a[0]) / length };
    });
    const box = [
      Math.min(...xs) - soft,
      Math.min(...ys) - soft,
      Math.max(...xs) + soft,
      Math.max(...ys) + soft,
    ] as const;
    this.paint(box, paint, (x, y) => {
      let cover = alpha;
      for (const e of edges) {
        const d = (x - e.x) * e.nx + (y - e.y) * e.ny;
        cover = Math.min(cover, alpha * Math.min(1, Math.max(0, d / soft + 0.5)));
      }
      return cover;
    });
  }

  rectangle(x: number, y: number, w: number, h: number, paint: Paint, alpha = 1, soft = 1): void {
    this.polygon(
      [
        [x, y],
        [x + w, y],
        [x + w, y + h],
        [x, y + h],
      ],
      paint,
      alpha,
      soft,
    );
  }

  line(a: Vertex, b: Vertex, thickness: number, paint: Paint, alpha = 1, soft = 1): void {
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
    const nx = (-(b[1] - a[1]) / length) * (thickness / 2);
    const ny = ((b[0] - a[0]) / length) * (thickness / 2);
    this.polygon(
      [
        [a[0] - nx, a[1] - ny],
        [b[0] - nx, b[1] - ny],
        [b[0] + nx, b[1] + ny],
        [a[0] + nx, a[1] + ny],
      ],
      paint,
      alpha,
      soft,
    );
  }

  ellipse(cx: number, cy: number, rx: number, ry: number, paint: Paint, alpha = 1, soft = 1): void {
    const r = Math.min(rx, ry);
    this.paint([cx - rx - soft, cy - ry - soft, cx + rx + soft, cy + ry + soft], paint, (x, y) => {
      const d = (1 - Math.hypot((x - cx) / rx, (y - cy) / ry)) * r;
      return alpha * Math.min(1, Math.max(0, d / soft + 0.5));
    });
  }

  /** Darkens what is already there, for shadows and grime. */
  shade(box: readonly [number, number, number, number], strength: (x: number, y: number) => number): void {
    const x0 = Math.max(0, Math.floor(box[0] - this.x));
    const y0 = Math.max(0, Math.floor(box[1] - this.y));
    const x1 = Math.min(this.width, Math.ceil(box[2] - this.x));
    const y1 = Math.min(this.height, Math.ceil(box[3] - this.y));
    for (let j = y0; j < y1; j++) {
      for (let i = x0; i < x1; i++) {
        const k = 1 - strength(i + this.x + 0.5, j + this.y + 0.5);
        const p = (j * this.width + i) * 4;
        for (let c = 0; c < 3; c++) this.pixels[p + c] *= k;
      }
    }
  }

  /** Blurs the sheet as a lens out of focus does, with two passes of a box of `radius` pixels. */
  defocus(radius: number): void {
    for (let pass = 0; pass < 2; pass++) {
      blurLines(this.pixels, this.height, this.width, this.width * 4, 4, radius);
      blurLines(this.pixels, this.width, this.height, 4, this.width * 4, radius);
    }
  }
}

function blurLines(
  p: Float32Array,
  lines: number,
  length: number,
  lineStep: number,
  step: number,
  r: number,
): void {
  const copy = new Float32Array(length);
  for (let line = 0; line < lines; line++) {
    for (let c = 0; c < 4; c++) {
      const base = line * lineStep + c;
      for (let i = 0; i < length; i++) copy[i] = p[base + i * step];
      for (let i = 0; i < length; i++) {
        let sum = 0;
        for (let k = -r; k <= r; k++) sum += copy[Math.min(length - 1, Math.max(0, i + k))];
        p[base + i * step] = sum / (2 * r + 1);
      }
    }
  }
}

export function blend(a: Colour, b: Colour, t: number): Colour {
  return [mix(a[0], b[0], t), mix(a[1], b[1], t), mix(a[2], b[2], t)];
}

export function lit(c: Colour, k: number): Colour {
  return [c[0] * k, c[1] * k, c[2] * k];
}
