/** What is shown beyond the picture. */
export type EdgeMode = 'colour' | 'stretched' | 'mirrored' | 'borrowed' | 'transparent';

/** What a plane shows beyond itself: a value, or how it goes on. */
export type Beyond = number | 'stretched' | 'mirrored';

/**
 * The place within [0, size] that is shown at a place of an endless line: the nearest (`stretched`), or as between
 * two mirrors (`mirrored`). Shared, word for word, with the preview's shader.
 */
export function fold(x: number, size: number, how: 'stretched' | 'mirrored'): number {
  if (how === 'stretched') return x < 0 ? 0 : x > size ? size : x;
  const period = 2 * size;
  const t = x - period * Math.floor(x / period);
  return t > size ? period - t : t;
}
