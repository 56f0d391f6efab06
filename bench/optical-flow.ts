import { createRequire } from 'node:module';
import type { Point } from '@lurn/core/geometry';
import type { Plane } from '@lurn/core/picture';

/**
 * The pyramidal Lucas-Kanade tracker of a general-purpose library (OpenCV, WebAssembly), as a yardstick for speed
 * and error: 31 x 31 window, 4 levels, from each frame to the next as it is commonly used.
 */

interface Mat {
  readonly data: Uint8Array;
  readonly data32F: Float32Array;
  delete(): void;
}
interface Library {
  Mat: new (rows?: number, columns?: number, type?: number) => Mat;
  Size: new (width: number, height: number) => unknown;
  TermCriteria: new (type: number, count: number, epsilon: number) => unknown;
  CV_8UC1: number;
  CV_32FC2: number;
  TermCriteria_EPS: number;
  TermCriteria_COUNT: number;
  calcOpticalFlowPyrLK(...args: unknown[]): void;
}

export async function openLibrary(): Promise<{ readonly cv: Library }> {
  const cv = createRequire(import.meta.url)('@techstark/opencv-js') as Library & {
    onRuntimeInitialized?: () => void;
  };
  if (!cv.Mat) await new Promise<void>((ready) => (cv.onRuntimeInitialized = ready));
  return { cv }; // wrapped: the module has a `then` of its own that never settles
}

/** Follows points through planes. @returns their places on every frame, and milliseconds inside the library */
export function opticalFlow(
  cv: Library,
  planes: readonly Plane[],
  starts: readonly Point[],
): { places: Point[][]; ms: number } {
  const { width, height } = planes[0];
  const pictures = [new cv.Mat(height, width, cv.CV_8UC1), new cv.Mat(height, width, cv.CV_8UC1)];
  const points = [new cv.Mat(starts.length, 1, cv.CV_32FC2), new cv.Mat(starts.length, 1, cv.CV_32FC2)];
  const status = new cv.Mat();
  const error = new cv.Mat();
  const window = new cv.Size(31, 31);
  const until = new cv.TermCriteria(cv.TermCriteria_EPS | cv.TermCriteria_COUNT, 30, 0.01);
  const load = (mat: Mat, { data, stride }: Plane) => {
    for (let y = 0; y < height; y++) mat.data.set(data.subarray(y * stride, y * stride + width), y * width);
  };
  load(pictures[0], planes[0]);
  // The library's coordinates put the centre of the first pixel at 0.
  starts.forEach((p, i) => points[0].data32F.set([p.x - 0.5, p.y - 0.5], 2 * i));
  const places: Point[][] = [starts.map((p) => ({ ...p }))];
  let ms = 0;
  for (let frame = 1; frame < planes.length; frame++) {
    load(pictures[1], planes[frame]);
    const begin = performance.now();
    cv.calcOpticalFlowPyrLK(pictures[0], pictures[1], points[0], points[1], status, error, window, 3, until);
    ms += performance.now() - begin;
    const at = points[1].data32F;
    places.push(starts.map((_, i) => ({ x: at[2 * i] + 0.5, y: at[2 * i + 1] + 0.5 })));
    pictures.reverse();
    points.reverse();
  }
  for (const mat of [...pictures, ...points, status, error]) mat.delete();
  return { places, ms };
}
