import fc from 'fast-check';
import { kernelBytes, type BytePlane } from '../index.js';

/** A picture of noise in the kernels' memory, its rows longer than it is wide. */
export function noise(width: number, height: number, seed: number): BytePlane {
  const stride = width + (seed % 5);
  const data = kernelBytes(stride * height)!;
  let a = seed + 1;
  for (let i = 0; i < data.length; i++) {
    a = (Math.imul(a, 1664525) + 1013904223) >>> 0;
    data[i] = a >>> 24;
  }
  return { width, height, stride, data };
}

export const seeds = fc.integer({ min: 0, max: 1e6 });
export const upTo = (max: number, min = 0) => fc.integer({ min, max });
/** Evenly between: `fc.double` prefers numbers next to zero. */
export const real = (min: number, max: number) => upTo(1e6).map((v) => min + ((max - min) * v) / 1e6);
