import { planeOver, type Plane, type Subsampling } from '@lurn/core/picture';
import type { VideoSample } from 'mediabunny';

/** A decoded picture in planes, eight bits a sample, as coded: not turned upright. */
export interface Picture {
  readonly frame: number;
  readonly y: Plane;
  readonly u: Plane;
  readonly v: Plane;
  readonly subsampling: Subsampling;
  readonly bytes: number;
}

/**
 * Copies a decoded frame into planes, without going through red, green and blue where the decoder gives luma.
 *
 * @param width, height  the coded picture's size; what a working copy has been padded with is left off
 * @param shared  in memory that can be lent to other threads, where the decoder gives planes
 */
export async function pictureFrom(
  sample: VideoSample,
  frame: number,
  width: number,
  height: number,
  shared = false,
): Promise<Picture> {
  const format = sample.format;
  if (format === 'I420' || format === 'I420A' || format === 'I422' || format === 'I444') {
    const size = sample.allocationSize();
    const data = shared ? new Uint8Array(new SharedArrayBuffer(size)) : new Uint8Array(size);
    const layout = await sample.copyTo(data);
    const subsampling: Subsampling = {
      x: format === 'I444' ? 1 : 2,
      y: format === 'I420' || format === 'I420A' ? 2 : 1,
    };
    return planar(frame, data, layout, width, height, subsampling);
  }
  if (format === 'NV12') {
    const data = new Uint8Array(sample.allocationSize());
    const layout = await sample.copyTo(data);
    return planar(frame, ...apart(data, layout, width, height), width, height, { x: 2, y: 2 });
  }
  const data = new Uint8Array(sample.allocationSize({ format: 'RGBA' }));
  const [{ stride }] = await sample.copyTo(data, { format: 'RGBA' });
  return fromRgba(frame, data, stride, width, height);
}

function planar(
  frame: number,
  data: Uint8Array,
  layout: readonly { readonly offset: number; readonly stride: number }[],
  width: number,
  height: number,
  subsampling: Subsampling,
): Picture {
  const plane = (k: number) => {
    const w = k ? Math.ceil(width / subsampling.x) : width;
    const h = k ? Math.ceil(height / subsampling.y) : height;
    return planeOver(data.subarray(layout[k].offset), w, h, layout[k].stride);
  };
  return { frame, y: plane(0), u: plane(1), v: plane(2), subsampling, bytes: data.byteLength };
}

/** NV12's interleaved chroma taken apart into two planes. */
function apart(
  data: Uint8Array,
  layout: readonly { readonly offset: number; readonly stride: number }[],
  width: number,
  height: number,
): [Uint8Array, { offset: number; stride: number }[]] {
  const w = (width + 1) >> 1;
  const h = (height + 1) >> 1;
  const luma = layout[0].stride * height;
  const out = new Uint8Array(luma + 2 * w * h);
  out.set(data.subarray(layout[0].offset, layout[0].offset + luma));
  for (let y = 0; y < h; y++) {
    let p = layout[1].offset + y * layout[1].stride;
    for (let x = 0; x < w; x++) {
      out[luma + y * w + x] = data[p++];
      out[luma + w * h + y * w + x] = data[p++];
    }
  }
  return [
    out,
    [
      { offset: 0, stride: layout[0].stride },
      { offset: luma, stride: w },
      { offset: luma + w * h, stride: w },
    ],
  ];
}

/** Luma and colour differences of ITU-R BT.709, limited range, from red, green and blue. */
function fromRgba(frame: number, rgba: Uint8Array, stride: number, width: number, height: number): Picture {
  const n = width * height;
  const data = new Uint8Array(3 * n);
  for (let y = 0, q = 0; y < height; y++) {
    for (let x = 0, p = y * stride; x < width; x++, p += 4, q++) {
      const [r, g, b] = [rgba[p], rgba[p + 1], rgba[p + 2]];
      data[q] = 16.5 + 0.1826 * r + 0.6142 * g + 0.062 * b;
      data[n + q] = 128.5 - 0.1006 * r - 0.3386 * g + 0.4392 * b;
      data[2 * n + q] = 128.5 + 0.4392 * r - 0.3989 * g - 0.0403 * b;
    }
  }
  const layout = [0, n, 2 * n].map((offset) => ({ offset, stride: width }));
  return planar(frame, data, layout, width, height, { x: 1, y: 1 });
}
