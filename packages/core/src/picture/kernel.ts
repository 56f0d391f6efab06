/**
 * The cubic convolution kernel with a = -1/2, which interpolates and reproduces quadratics
 * (Keys 1981, "Cubic convolution interpolation for digital image processing", eq. 15).
 * Its support is [-2, 2].
 */
export function cubic(t: number): number {
  const x = Math.abs(t);
  if (x < 1) return 1.5 * x * x * x - 2.5 * x * x + 1;
  if (x < 2) return -0.5 * x * x * x + 2.5 * x * x - 4 * x + 2;
  return 0;
}
