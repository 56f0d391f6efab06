/** Red, green and blue, 0 to 255. */
export type Rgb = readonly [number, number, number];
