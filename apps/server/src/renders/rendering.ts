import { Injectable } from '@nestjs/common';
import { render, type RenderRequest } from '@lurn/engine';
import type { Assets } from '../assets/assets.js';
import type { PartOrder } from '../machines/part-order.js';

/** What is rendered: an order that can be given away, and what only this machine has. */
export interface Rendered extends Omit<PartOrder, 'format'> {
  readonly id: string;
  readonly file: string;
  readonly path: string;
  /** Its parts are kept there until it is finished. */
  readonly work: string;
  /** What is ordered, as a text that differs where the pictures do. */
  readonly told: string;
  readonly format: RenderRequest['format'];
  readonly layers: Awaited<ReturnType<Assets['rasters']>>;
  readonly signal: AbortSignal;
  readonly onProgress: (done: number, total: number) => void;
}

/** Who draws: this process, or whichever machines there are. */
@Injectable()
export class Rendering {
  async run(rendered: Rendered): Promise<void> {
    await render(requestOf(rendered));
  }
}

export function requestOf(r: Rendered): RenderRequest {
  const { info, times, from, to, delivery, scenes, crf, compare, file, work, signal, onProgress } = r;
  return {
    ...{ source: r.path, info, times, file, from, to, delivery, format: r.format, crf, compare, work },
    ...{ order: r.told, rasters: r.layers, signal, onProgress },
    scene: (frame) => scenes[frame - from],
  };
}
