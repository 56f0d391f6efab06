import { cornersAt, outlineOf, type AreaKey } from '../geometry/area.js';
import type { Point } from '../geometry/matrix.js';

/** A closed outline in pixels of the frame that it was drawn on, and how its edge runs. */
export interface Outline {
  readonly points: readonly Point[];
  /** Pixels that it is made larger by; smaller where negative. */
  readonly grow: number;
  /** Pixels over which it fades. */
  readonly soften: number;
}

/** A closed shape as it is drawn, in places of a frame of its own whatever frame its keys are on. */
export interface LookOutline {
  readonly smooth: boolean;
  readonly keys: readonly AreaKey[];
  readonly grow: number;
  readonly soften: number;
}

/** As it is drawn on a frame. */
export function outlineOn({ smooth, keys, grow, soften }: LookOutline, frame: number): Outline {
  return { points: outlineOf(cornersAt({ keys }, frame), smooth), grow, soften };
}

/** How much of a sample lies inside an outline, by its distance from the edge: straight across a sample, gentle where soft. */
export function insideShare(distance: number, grow: number, soften: number, span: number): number {
  const width = Math.max(span, soften);
  const t = 0.5 + (distance + grow) / width;
  if (t <= 0) return 0;
  if (t >= 1) return 1;
  return soften > span ? t * t * (3 - 2 * t) : t;
}
