import type { Point } from '@lurn/core/geometry';
import type { Plane } from '@lurn/core/picture';
import { FileFrames, indexClip } from '@lurn/engine';

/**
 * How far blocks of a rendered file stray from where they are on its first frame, in pixels RMS about their mean.
 *
 * A measure of its own, sharing nothing with the tracker: large blocks are registered to the first frame by
 * forward-additive Gauss-Newton on sums of squared differences with bilinear sampling, mean brightness removed.
 */
export async function strayOf(file: string, centres: readonly Point[], half = 44): Promise<number> {
  const { info } = await indexClip(file);
  const luma = new FileFrames(file, info);
  const first = await luma.luma(0);
  const paths: Point[][] = centres.map(() => []);
  let guesses = centres.map(() => ({ x: 0, y: 0 }));
  for (let frame = 1; frame < info.frames; frame++) {
    const picture = await luma.luma(frame);
    guesses = centres.map((c, i) => register(first, picture, c, half, guesses[i]));
    guesses.forEach((g, i) => paths[i].push(g));
  }
  luma.close();
  let sum = 0;
  let n = 0;
  for (const path of paths) {
    const mx = path.reduce((s, p) => s + p.x, 0) / path.length;
    const my = path.reduce((s, p) => s + p.y, 0) / path.length;
    for (const p of path) sum += (p.x - mx) ** 2 + (p.y - my) ** 2;
    n += path.length;
  }
  return Math.sqrt(sum / n);
}

function register(a: Plane, b: Plane, centre: Point, half: number, guess: Point): Point {
  let { x, y } = guess;
  const [cx, cy] = [Math.round(centre.x), Math.round(centre.y)];
  const n = (2 * half + 1) ** 2;
  for (let step = 0; step < 25; step++) {
    let [xx, xy, yy, bx, by, ma, mb] = [0, 0, 0, 0, 0, 0, 0];
    for (const pass of [0, 1]) {
      for (let j = -half; j <= half; j++) {
        for (let i = -half; i <= half; i++) {
          const va = a.data[(cy + j) * a.stride + cx + i];
          const vb = bilinear(b, cx + i + x, cy + j + y);
          if (pass === 0) {
            ma += va / n;
            mb += vb / n;
            continue;
          }
          const gx = (bilinear(b, cx + i + x + 1, cy + j + y) - bilinear(b, cx + i + x - 1, cy + j + y)) / 2;
          const gy = (bilinear(b, cx + i + x, cy + j + y + 1) - bilinear(b, cx + i + x, cy + j + y - 1)) / 2;
          const e = va - ma - (vb - mb);
          xx += gx * gx;
          xy += gx * gy;
          yy += gy * gy;
          bx += gx * e;
          by += gy * e;
        }
      }
    }
    const det = xx * yy - xy * xy;
    const dx = (yy * bx - xy * by) / det;
    const dy = (xx * by - xy * bx) / det;
    x += dx;
    y += dy;
    if (Math.hypot(dx, dy) < 1e-3) break;
  }
  return { x, y };
}

function bilinear(plane: Plane, x: number, y: number): number {
  const i = Math.min(plane.width - 2, Math.max(0, Math.floor(x)));
  const j = Math.min(plane.height - 2, Math.max(0, Math.floor(y)));
  const [u, v] = [x - i, y - j];
  const p = j * plane.stride + i;
  const top = plane.data[p] * (1 - u) + plane.data[p + 1] * u;
  const bottom = plane.data[p + plane.stride] * (1 - u) + plane.data[p + plane.stride + 1] * u;
  return top * (1 - v) + bottom * v;
}
