import type { Point } from '../geometry/matrix.js';
import { createPlane, type Plane } from '../picture/plane.js';
import type { FrameSource } from '../track/frame-run.js';
import { normal, randomNumbers, type Surface } from './footage.js';

/** A made-up cloth that ripples more and more, as pictures in memory with exact truth. */
export const CLOTH = { width: 240, height: 180, frames: 14 };

/** Where a place of the cloth is on a frame; on frame 0 it lies as it is. */
export function onCloth({ x, y }: Point, t: number): Point {
  const grown = Math.min(1, t / 6);
  return {
    x: x + 1.4 * t + grown * 4 * Math.sin(x / 27 + y / 50 - t / 3),
    y: y + 0.6 * Math.sin(t) + grown * 5 * Math.sin(x / 34 - y / 60 - t / 4),
  };
}

export interface ClothLook {
  readonly noise?: number;
  /** What it has come to look like by a frame, as a share, and that. */
  readonly becomes?: { readonly surface: Surface; readonly share: (t: number) => number };
  /** Frames; as many as {@link CLOTH} has when left out. */
  readonly frames?: number;
  /** True where something stands in front of a place of the picture. */
  readonly front?: (x: number, y: number, t: number) => boolean;
}

export function clothPictures(surface: Surface, look: ClothLook = {}): Plane[] {
  const { noise = 1.5, front, becomes, frames = CLOTH.frames } = look;
  const random = randomNumbers(5);
  const { width, height } = CLOTH;
  return Array.from({ length: frames }, (_, t) => {
    const share = becomes?.share(t) ?? 0;
    const own = (u: number, v: number) =>
      becomes && share > 0 ? (1 - share) * surface(u, v) + share * becomes.surface(u, v) : surface(u, v);
    const plane = createPlane(width, height);
    for (let j = 0; j < height; j++) {
      let [u, v] = [0.5, j + 0.5];
      for (let i = 0; i < width; i++) {
        const at = { x: i + 0.5, y: j + 0.5 };
        for (let k = 0; k < 30; k++) {
          const p = onCloth({ x: u, y: v }, t);
          u += at.x - p.x;
          v += at.y - p.y;
          if ((at.x - p.x) ** 2 + (at.y - p.y) ** 2 < 1e-8) break;
        }
        const value = front?.(at.x, at.y, t) ? surface(at.x + 7 * t + 500, at.y) : own(u, v);
        plane.data[j * width + i] = Math.min(255, Math.max(0, Math.round(value + noise * normal(random))));
      }
    }
    return plane;
  });
}

export const inMemory = (planes: readonly Plane[]): FrameSource => ({
  plane: (frame) => Promise.resolve(planes[frame]),
});
