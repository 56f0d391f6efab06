import { apply, type Matrix3, type Point } from '../geometry/matrix.js';
import { smoothGaussian } from '../smooth/gaussian.js';

/** Motion slower than this is meant, faster is shake: sigma of the smoothing, in seconds. */
const SMOOTHING_S = 0.35;

/**
 * Root mean square distance, in pixels, of four points well inside the picture from their smoothed course.
 *
 * @param parts  the motion of the surroundings, frame by frame, of each stretch that has to do with itself alone
 * @param fps    frames a second, the average where it varies
 * @returns 0 where no stretch has three frames
 */
export function cameraShake(
  parts: readonly (readonly Matrix3[])[],
  { width, height }: { readonly width: number; readonly height: number },
  fps: number,
): number {
  const points: Point[] = [0.25, 0.75].flatMap((u) =>
    [0.25, 0.75].map((v) => ({ x: u * width, y: v * height })),
  );
  let [sum, count] = [0, 0];
  for (const matrices of parts) {
    if (matrices.length < 3) continue;
    count += points.length * matrices.length;
    for (const p of points) {
      const path = matrices.map((m) => apply(m, p.x, p.y));
      for (const axis of ['x', 'y'] as const) {
        const values = path.map((q) => q[axis]);
        const smooth = smoothGaussian(values, SMOOTHING_S * fps);
        values.forEach((v, i) => (sum += (v - smooth[i]) ** 2));
      }
    }
  }
  return count > 0 ? Math.sqrt(sum / count) : 0;
}
