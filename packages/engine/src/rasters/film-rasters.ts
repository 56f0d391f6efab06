import { LurnError } from '@lurn/core';
import type { Raster } from '@lurn/core/compose';
import type { Size } from '@lurn/core/plan';
import { LRUCache } from 'lru-cache';
import { FrameStream } from '../frame-stream.js';
import { everyFrame } from '../quirks.js';
import { asFile, ffmpegPath, LOCAL_ONLY, startTool, type RunningTool } from '../tools.js';

/** Rasters that are kept, in bytes: a film is looked at forwards, and round and round. */
const KEPT_BYTES = 120e6;
/** So many frames are read on the way rather than beginning anew. */
const SHORT_RUN = 60;

/** The frames of a film as rasters, in any order; read forwards as a stream. */
export class FilmRasters {
  private run: { readonly tool: RunningTool; readonly stream: FrameStream; next: number } | null = null;
  private queue: Promise<unknown> = Promise.resolve();
  private readonly kept: LRUCache<number, Raster>;

  /** @param size  of its upright pictures */
  constructor(
    private readonly path: string,
    private readonly name: string,
    private readonly size: Size,
  ) {
    const bytes = 4 * size.width * size.height;
    this.kept = new LRUCache({ max: Math.max(2, Math.floor(KEPT_BYTES / bytes)) });
  }

  /** In memory that threads share. @throws LurnError `frame-unreadable` */
  frame(frame: number): Promise<Raster> {
    const read = this.queue.then(() => this.read(frame));
    this.queue = read.catch(() => undefined);
    return read;
  }

  close(): void {
    this.run?.tool.kill();
    this.run = null;
  }

  private async read(frame: number): Promise<Raster> {
    const hit = this.kept.get(frame);
    if (hit) return hit;
    if (!this.run || frame < this.run.next || frame > this.run.next + SHORT_RUN) await this.begin(frame);
    for (;;) {
      const { run } = this;
      const { width, height } = this.size;
      const data = new Uint8Array(new SharedArrayBuffer(4 * width * height));
      if (!run || !(await run.stream.read(data))) {
        const why = run?.tool.errorText.trim().split('\n')[0] ?? '';
        this.close();
        throw new LurnError('frame-unreadable', `Frame ${frame} of "${this.name}" cannot be decoded. ${why}`);
      }
      const raster: Raster = { width, height, data: multiplied(data) };
      this.kept.set(run.next, raster);
      if (run.next++ === frame) return raster;
    }
  }

  private async begin(frame: number): Promise<void> {
    this.close();
    const { width, height } = this.size;
    const select = frame > 0 ? `select=gte(n\\,${frame}),` : '';
    const args = [
      ...[
        '-v',
        'error',
        '-nostats',
        ...LOCAL_ONLY,
        '-i',
        asFile(this.path),
        '-map',
        '0:v:0',
        ...(await everyFrame()),
      ],
      ...['-vf', `${select}scale=${width}:${height}:flags=bilinear+accurate_rnd+full_chroma_int,format=rgba`],
      ...['-f', 'rawvideo', 'pipe:1'],
    ];
    const tool = await startTool(ffmpegPath(), args);
    tool.child.stdin!.end();
    this.run = { tool, stream: new FrameStream(tool.child.stdout!, 4 * width * height), next: frame };
  }
}

/** Colours multiplied by their alpha. */
function multiplied(data: Uint8Array): Uint8Array {
  for (let k = 0; k < data.length; k += 4) {
    const alpha = data[k + 3];
    if (alpha === 255) continue;
    for (let c = 0; c < 3; c++) data[k + c] = (data[k + c] * alpha + 127) / 255;
  }
  return data;
}
