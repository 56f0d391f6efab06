import type { Point } from '@lurn/core/geometry';

type Pair = readonly [number, number];

/** A place as what is drawn is stored: hundredths of a pixel are more than anybody draws. */
export const hundredths = (x: number, y: number): Pair => [
  Math.round(x * 100) / 100,
  Math.round(y * 100) / 100,
];

export const pairs = (corners: readonly Point[]): Pair[] => corners.map(({ x, y }) => hundredths(x, y));
