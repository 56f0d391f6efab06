import { execFile } from 'node:child_process';
import { mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { invert, matrixWarp, type Matrix3, type Warp } from '@lurn/core/geometry';
import { parseColour } from '@lurn/core/picture';
import type { Size } from '@lurn/core/plan';
import type { Donor } from '@lurn/core/warp';
import { NEW_EDGES, type Edges } from '@lurn/model';
import {
  ffmpegPath,
  ffprobePath,
  FileFrames,
  formatFor,
  indexClip,
  render,
  type Comparison,
  type IndexedClip,
} from '../index.js';

/** Made-up clips for tests, and what comes of them. */

export const run = promisify(execFile);

/** A folder of its own, with clips made in it by ffmpeg. */
export class ClipFolder {
  private constructor(readonly path: string) {}

  static async open(): Promise<ClipFolder> {
    return new ClipFolder(await mkdtemp(join(tmpdir(), 'lurn-engine-')));
  }

  at(name: string): string {
    return join(this.path, name);
  }

  async make(name: string, ...args: string[]): Promise<string> {
    await run(await ffmpegPath(), ['-y', '-v', 'error', ...args, this.at(name)]);
    return this.at(name);
  }

  /** 30 frames of a moving test picture, 320 x 180, tagged as HD. */
  plain(): Promise<string> {
    const tags = [
      '-colorspace',
      'bt709',
      '-color_primaries',
      'bt709',
      '-color_trc',
      'bt709',
      '-color_range',
      'tv',
    ];
    return this.make('plain.mp4', ...picture(), ...x264, '-bf', '2', ...tags);
  }

  /** The same with frames left out. */
  varying(): Promise<string> {
    const select = ['-vf', 'select=not(mod(n\\,3))+not(mod(n\\,7))', '-vsync', 'vfr'];
    return this.make('vfr.mp4', ...picture(), ...select, ...x264);
  }

  remove(): Promise<void> {
    return rm(this.path, { recursive: true, force: true });
  }
}

export const picture = (size = '320x180', seconds = 1.2) => [
  ...['-f', 'lavfi', '-i', `testsrc2=size=${size}:rate=25:duration=${seconds}`],
];
export const x264 = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-preset', 'veryfast'];

export async function streams(file: string): Promise<Record<string, never>[]> {
  const { stdout } = await run(await ffprobePath(), [
    ...['-v', 'error', '-count_packets', '-show_streams', '-show_format', '-of', 'json'],
    file,
  ]);
  return (JSON.parse(stdout) as { streams: Record<string, never>[] }).streams;
}

const known = new Map<string, Promise<IndexedClip>>();

/** {@link indexClip}, once for each state of a file: where something else than reading is tested. */
export async function indexed(file: string): Promise<IndexedClip> {
  const { mtimeMs, size } = await stat(file);
  const key = `${file} ${mtimeMs} ${size}`;
  const clip = known.get(key) ?? indexClip(file);
  known.set(key, clip);
  return clip;
}

/** Renders a clip as it is, or as it is told, quickly. */
export function renderPlain(
  file: string,
  clip: IndexedClip,
  out: string,
  options: {
    from?: number;
    to?: number;
    /** Source pixels to delivered ones; the identity when left out. */
    picture?: (f: number) => Matrix3;
    /** Delivered pixels to the source's: instead of `picture`. */
    toSource?: Warp;
    delivery?: Size;
    edges?: Edges;
    donors?: (f: number) => Donor[];
    signal?: AbortSignal;
    crf?: number;
    format?: string;
    compare?: Comparison;
    work?: string;
    onProgress?: (n: number) => void;
  } = {},
): Promise<void> {
  const { from = 0, to = clip.info.frames - 1, edges = NEW_EDGES, crf = 8, signal, onProgress } = options;
  const delivery = options.delivery ?? clip.info;
  const back = (f: number) =>
    options.toSource ?? matrixWarp(invert(options.picture?.(f) ?? [1, 0, 0, 0, 1, 0, 0, 0, 1]));
  return render({
    ...{
      source: file,
      info: clip.info,
      times: clip.times,
      file: out,
      from,
      to,
      delivery,
      crf,
      signal,
      onProgress,
    },
    scene: (frame) => ({
      size: delivery,
      base: {
        frame,
        toSource: back(frame),
        edges: { mode: edges.mode, colour: parseColour(edges.colour) },
        donors: options.donors?.(frame) ?? [],
      },
      layers: [],
    }),
    format: formatFor(options.format ?? 'h264-mp4', edges.mode),
    compare: options.compare,
    work: options.work,
    preset: 'ultrafast',
  });
}

/** Mean absolute difference of luma between two files' frames. */
export async function difference(a: string, aClip: IndexedClip, b: string, shift = 0): Promise<number> {
  const bClip = await indexed(b);
  const [la, lb] = [new FileFrames(a, aClip.info), new FileFrames(b, bClip.info)];
  let sum = 0;
  let n = 0;
  for (const frame of [0, Math.floor(bClip.info.frames / 2), bClip.info.frames - 1]) {
    const [pa, pb] = [await la.luma(frame + shift), await lb.luma(frame)];
    const w = Math.min(pa.width, pb.width);
    for (let y = 0; y < Math.min(pa.height, pb.height); y++) {
      for (let x = 0; x < w; x++, n++)
        sum += Math.abs(pa.data[y * pa.stride + x] - pb.data[y * pb.stride + x]);
    }
  }
  la.close();
  lb.close();
  return sum / n;
}
