import { chromaWarp, planeOver, warpPlane, type ChromaSiting, type Matrix3 } from '@lurn/core';

/** One frame to be warped, in shared memory. */
export interface WarpJob {
  readonly id: number;
  readonly source: SharedArrayBuffer;
  readonly output: SharedArrayBuffer;
  readonly sourceSize: readonly [number, number];
  readonly outputSize: readonly [number, number];
  /** Output luma coordinates to source luma coordinates, of the coded (not turned) pictures. */
  readonly outputToSource: Matrix3;
  readonly siting: ChromaSiting;
  /** Luma of what lies outside the picture. */
  readonly black: number;
}

const HALF = { x: 2, y: 2 } as const;

/** Warps luma and both chroma planes of a 4:2:0 picture. */
export function warpPicture(job: WarpJob): void {
  const [w, h] = job.sourceSize;
  const [ow, oh] = job.outputSize;
  const from = new Uint8Array(job.source);
  const to = new Uint8Array(job.output);
  warpPlane(planeOver(from, w, h), planeOver(to, ow, oh), job.outputToSource, job.black);
  const [cw, ch] = [(w + 1) >> 1, (h + 1) >> 1];
  const [cow, coh] = [(ow + 1) >> 1, (oh + 1) >> 1];
  const chroma = chromaWarp(job.outputToSource, HALF, job.siting);
  for (let plane = 0; plane < 2; plane++) {
    const source = planeOver(from.subarray(w * h + plane * cw * ch), cw, ch);
    const output = planeOver(to.subarray(ow * oh + plane * cow * coh), cow, coh);
    warpPlane(source, output, chroma, 128);
  }
}
