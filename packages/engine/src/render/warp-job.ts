import {
  borrowPlane,
  chromaWarp,
  coverPlane,
  donorOffset,
  featherOf,
  planeOver,
  warpPlane,
  type Beyond,
  type ChromaSiting,
  type EdgeMode,
  type Matrix3,
  type Plane,
  type Rgb,
  type Sheet,
} from '@lurn/core';

/** A picture in shared memory: luma, then both chroma planes at half size. */
export interface SharedPicture {
  readonly planes: SharedArrayBuffer;
  /** Output luma coordinates to its luma coordinates, of the coded (not turned) pictures. */
  readonly outputToSource: Matrix3;
}

/** One frame to be warped. */
export interface WarpJob extends SharedPicture {
  readonly id: number;
  /** Luma, chroma, and with transparent edges the alpha plane. */
  readonly output: SharedArrayBuffer;
  readonly sourceSize: readonly [number, number];
  readonly outputSize: readonly [number, number];
  readonly siting: ChromaSiting;
  readonly edges: EdgeMode;
  /** What lies outside the picture, as luma and chroma. */
  readonly colour: Rgb;
  /** Other frames that the edges are borrowed from, the nearest in time first. */
  readonly donors: readonly SharedPicture[];
}

const HALF = { x: 2, y: 2 } as const;

/** Warps luma and both chroma planes of a 4:2:0 picture, and fills what lies beyond its edges. */
export function warpPicture(job: WarpJob): void {
  const { sourceSize, outputSize, outputToSource, donors, siting } = job;
  const output = planesOf(job.output, outputSize);
  const pictures = [job, ...donors].map((p) => ({ ...p, list: planesOf(p.planes, sourceSize) }));
  const feather = featherOf({ width: sourceSize[0], height: sourceSize[1] });
  output.forEach((plane, k) => {
    const chroma = k > 0;
    const sheets = pictures.map(({ list, outputToSource: m }): Sheet => ({
      plane: list[k],
      toSource: chroma ? chromaWarp(m, HALF, siting) : m,
      offset: 0,
    }));
    warpPlane(sheets[0].plane, plane, sheets[0].toSource, beyondOf(job, k));
    if (donors.length === 0) return;
    const reach = chroma ? feather / 2 : feather;
    const matched = sheets.map((s, i) => ({ ...s, offset: i ? donorOffset(sheets[0], s, plane, reach) : 0 }));
    borrowPlane(matched, plane, reach, job.colour[k]);
  });
  if (job.edges === 'transparent') {
    const bytes = new Uint8Array(job.output);
    const alpha = planeOver(bytes.subarray(bytes.length - outputSize[0] * outputSize[1]), ...outputSize);
    coverPlane(alpha, outputToSource, { width: sourceSize[0], height: sourceSize[1] });
  }
}

function beyondOf({ edges, colour }: WarpJob, plane: number): Beyond {
  // Under alpha the picture goes on, so that its rim does not take on the colour behind it.
  if (edges === 'transparent') return 'stretched';
  return edges === 'mirrored' || edges === 'stretched' ? edges : colour[plane];
}

function planesOf(memory: SharedArrayBuffer, [w, h]: readonly [number, number]): Plane[] {
  const bytes = new Uint8Array(memory);
  const [cw, ch] = [(w + 1) >> 1, (h + 1) >> 1];
  return [
    planeOver(bytes, w, h),
    planeOver(bytes.subarray(w * h), cw, ch),
    planeOver(bytes.subarray(w * h + cw * ch), cw, ch),
  ];
}
