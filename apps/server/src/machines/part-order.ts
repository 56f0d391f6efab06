import { deserialize, serialize } from 'node:v8';
import { formatById, partsOf, type Part, type RenderRequest } from '@lurn/engine';
import type { Scene, Size } from '@lurn/core';
import type { ClipInfo, RasterSource } from '@lurn/model';

/** What server and workers say to each other: others of another number are refused, for their parts may differ. */
export const WORK_VERSION = '1';

/** All that a worker needs for the parts of a render, but for the files. It is data: a worker runs nothing of it. */
export interface PartOrder {
  readonly info: ClipInfo;
  readonly times: Float64Array;
  readonly from: number;
  readonly to: number;
  readonly delivery: Size;
  readonly scenes: readonly Scene[];
  readonly rasters: readonly RasterSource[];
  /** The id of the format. */
  readonly format: string;
  readonly crf: number;
  readonly compare: RenderRequest['compare'];
  /** The original, by its SHA-256. */
  readonly source: { readonly hash: string; readonly bytes: number; readonly name: string };
}

export function packOrder(order: PartOrder): Buffer {
  return serialize(order);
}

/** @throws Error where the bytes are no order */
export function unpackOrder(bytes: Uint8Array): PartOrder {
  const order = deserialize(bytes) as PartOrder;
  if (typeof order !== 'object' || !(order.times instanceof Float64Array) || !Array.isArray(order.scenes))
    throw new Error('These bytes are no order of a render.');
  return order;
}

/** The parts that an order has. */
export function partsOfOrder({ info, from, to, format }: PartOrder): Part[] {
  return partsOf(info, from, to, formatById(format));
}

/** What a part is called in the queue, and back. */
export const partSubject = (render: string, index: number) => `${render}.${index}`;

export function ofSubject(subject: string): { readonly render: string; readonly index: number } {
  const dot = subject.lastIndexOf('.');
  return { render: subject.slice(0, dot), index: Number(subject.slice(dot + 1)) };
}
