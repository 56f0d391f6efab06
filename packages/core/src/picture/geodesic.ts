/** Sweeps there and back: more of them change next to nothing where regions are no mazes. */
const ROUNDS = 2;
const DIAGONAL = Math.SQRT2;

/**
 * How far every sample of a picture is from the nearest seed where steps of brightness are ways too, by raster sweeps
 * (Toivanen 1996, "New geodesic distance transforms for gray-scale images").
 *
 * @param step    of the way from one sample to the next
 * @param climb   way that a grey level of difference is, beyond `level` of them
 * @param isFree  1 where differences count for nothing
 * @param toll    way that each sample is besides
 *
 * Cost: some thirty operations a sample.
 */
export function geodesicDistance(
  { width, height, data }: { readonly width: number; readonly height: number; readonly data: Float32Array },
  seeds: Iterable<number>,
  { step, climb, level }: { readonly step: number; readonly climb: number; readonly level: number },
  isFree: Uint8Array,
  toll: Float32Array,
): Float32Array {
  const far = new Float32Array(width * height).fill(Infinity);
  for (const p of seeds) far[p] = 0;
  const sweep = (first: number, last: number, by: 1 | -1) => {
    const [left, right] = by > 0 ? [0, width - 1] : [width - 1, 0];
    for (let y = first; y !== last + by; y += by) {
      for (let x = left, p = y * width + left; x !== right + by; x += by, p += by) {
        let least = far[p];
        const value = data[p];
        const free = isFree[p];
        // Beside it, then the three of the row before.
        for (let k = 0; k < 4; k++) {
          const dx = k === 0 ? -by : k - 2;
          const q = k === 0 ? p - by : p - by * width + dx;
          if (x + dx < 0 || x + dx >= width || (k > 0 && y === first)) continue;
          const steep = Math.abs(value - data[q]) - level;
          const way = far[q] + toll[p] + (k === 0 || k === 2 ? step : DIAGONAL * step);
          const whole = steep > 0 && !free && !isFree[q] ? way + climb * steep : way;
          if (whole < least) least = whole;
        }
        far[p] = least;
      }
    }
  };
  for (let round = 0; round < ROUNDS; round++) {
    sweep(0, height - 1, 1);
    sweep(height - 1, 0, -1);
  }
  return far;
}
