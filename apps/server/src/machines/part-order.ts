import { deserialize, serialize } from 'node:v8';
import { formatById, partsOf, type Part, type RenderRequest } from '@lurn/engine';
import type { Scene } from '@lurn/core/compose';
import type { Size } from '@lurn/core/plan';
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
  if (typeof order !== 'object' || !ArrayBuffer.isView(order.times) || !Array.isArray(order.scenes))
    throw new Error('These bytes are no order of a render.');
  return order;
}

/** The parts that an order has. */
export function partsOfOrder({ info, from, to, format }: PartOrder): Part[] {
  return partsOf(info, from, to, formatById(format));
}

/** Parts that a worker takes at a time: to begin in the middle of a clip, frames before have to be read. */
const TOGETHER = 4;

/** The parts of an order as workers take them. */
export function groupsOf(parts: readonly Part[]): Part[][] {
  return Array.from({ length: Math.ceil(parts.length / TOGETHER) }, (_, g) =>
    parts.slice(g * TOGETHER, (g + 1) * TOGETHER),
  );
}

/** What a group of parts is called in the queue, and back. */
export const groupSubject = (render: string, group: number) => `${render}.${group}`;

export function ofSubject(subject: string): { readonly render: string; readonly group: number } {
  const dot = subject.lastIndexOf('.');
  return { render: subject.slice(0, dot), group: Number(subject.slice(dot + 1)) };
}
