import { LurnError } from '@lurn/core';
import { channelPlane, planeOver, type Channel, type ColourPlanes, type Plane } from '@lurn/core/picture';
import type { FrameSource } from '@lurn/core/track';
import type { ClipInfo } from '@lurn/model';
import { LRUCache } from 'lru-cache';
import { FrameStream } from './frame-stream.js';
import { pictureBytes, type SampleLayout } from './layout.js';
import { everyFrame } from './quirks.js';
import { asFile, ffmpegPath, LOCAL_ONLY, startTool, type RunningTool } from './tools.js';

/** The planar format that a clip is decoded to: 4:2:0, eight bits, its own range. */
export function workingFormat(info: Pick<ClipInfo, 'colour'>): 'yuv420p' | 'yuvj420p' {
  return info.colour.range === 'pc' ? 'yuvj420p' : 'yuv420p';
}

/** The stream of pictures that was chosen when the clip was read, as ffmpeg's -map takes it. */
export function streamOf({ stream }: Pick<ClipInfo, 'stream'>): string {
  return stream === undefined ? '0:v:0' : `0:${stream}`;
}

/** True for sources that have no luma of their own (red, green, blue or palette). */
export function isRgb(info: Pick<ClipInfo, 'pixelFormat'>): boolean {
  return /^(rgb|bgr|gbr|argb|abgr|rgba|bgra|0rgb|0bgr|pal8|monob|monow)/.test(info.pixelFormat);
}

/** Filters that bring the source to {@link workingFormat} without touching what is already there. */
export function toWorkingFormat(info: Pick<ClipInfo, 'colour' | 'pixelFormat'>): string {
  return isRgb(info)
    ? 'scale=out_color_matrix=bt709:out_range=tv,format=yuv420p'
    : `format=${workingFormat(info)}`;
}

/** The same to a layout. */
function toLayout(info: Pick<ClipInfo, 'colour' | 'pixelFormat'>, { pixelFormat }: SampleLayout): string {
  return isRgb(info)
    ? `scale=out_color_matrix=bt709:out_range=tv:flags=bicubic+accurate_rnd+full_chroma_int,format=${pixelFormat}`
    : `format=${pixelFormat}`;
}

export interface DecodeRange {
  /** First and last frame, both included. */
  readonly from: number;
  readonly to: number;
  /** Seconds of every frame from frame 0: with them it need not be read from the beginning where the file has an index. */
  readonly times?: Float64Array;
}

/** Files that are found their way in by time stamps: each has an index of whole pictures. */
const INDEXED = /mov|mp4|matroska|webm/;
/** So many seconds before a frame it is begun to read: pictures that lean on what lies before the whole one are left out. */
const BEFORE = 0.5;
/** It is not worth it for fewer seconds. */
const WORTH = 3;

/** Options and filter that begin in the middle of a file; null where it is read from its beginning. */
function middle(
  { container, startTime, fileStart }: ClipInfo,
  { from, times }: DecodeRange,
): { readonly options: string[]; readonly select: string } | null {
  if (!times || from < 1 || !INDEXED.test(container) || times[from] < WORTH) return null;
  const at = startTime - fileStart + times[from] - BEFORE;
  // Between the frame and the one before: stamps as the file has them.
  const first = startTime + (times[from - 1] + times[from]) / 2;
  return {
    options: ['-copyts', '-noaccurate_seek', '-ss', at.toFixed(6)],
    select: `select=gte(t\\,${first.toFixed(6)}),`,
  };
}

/** Frames of a clip as raw bytes, from one frame to another, in order. */
export class Decoder {
  private constructor(
    private readonly tool: RunningTool,
    private readonly stream: FrameStream,
    readonly frameSize: number,
  ) {}

  /**
   * @param as  `luma`: the upright luma plane; `planes`: luma and both chroma planes, as coded, not turned, or the same of a layout;
   *            `upright`: the same turned upright
   */
  static async open(
    path: string,
    info: ClipInfo,
    range: DecodeRange,
    as: 'luma' | 'planes' | 'upright' | SampleLayout,
    signal?: AbortSignal,
  ): Promise<Decoder> {
    const layout = typeof as === 'string' ? null : as;
    const upright = as === 'luma' || as === 'upright';
    const begun = middle(info, range);
    const select = begun?.select ?? (range.from > 0 ? `select=gte(n\\,${range.from}),` : '');
    const eightBitYuv = !isRgb(info) && info.bitDepth === 8;
    const luma = eightBitYuv ? 'extractplanes=y' : `${toWorkingFormat(info)},extractplanes=y`;
    const args = [
      '-v',
      'error',
      '-nostats',
      ...LOCAL_ONLY,
      ...(upright ? [] : ['-noautorotate']),
      ...(begun?.options ?? []),
      '-i',
      asFile(path),
      '-map',
      streamOf(info),
      ...(await everyFrame()),
      '-vf',
      `${select}${as === 'luma' ? luma : layout ? toLayout(info, layout) : toWorkingFormat(info)}`,
      '-frames:v',
      String(range.to - range.from + 1),
      '-f',
      'rawvideo',
      'pipe:1',
    ];
    const tool = await startTool(ffmpegPath(), args, signal);
    tool.child.stdin!.end();
    const { width, height } = info;
    const [w, h] = !upright && info.turns % 2 === 1 ? [height, width] : [width, height];
    const size = as === 'luma' ? width * height : layout ? pictureBytes(layout, w, h) : planarSize(w, h);
    return new Decoder(tool, new FrameStream(tool.child.stdout!, size), size);
  }

  /** Fills `into` with the next frame; false at the end. */
  read(into: Uint8Array): Promise<boolean> {
    return this.stream.read(into);
  }

  close(): void {
    this.tool.kill();
  }

  /** What ffmpeg complained of, for the error of a stream that ended too soon. */
  get complaint(): string {
    return this.tool.errorText;
  }
}

/** Bytes of a 4:2:0 picture; chroma sizes round up. */
export function planarSize(width: number, height: number): number {
  return width * height + 2 * ((width + 1) >> 1) * ((height + 1) >> 1);
}

/** How many bytes of decoded luma are kept, for going backwards. */
const KEPT_BYTES = 256e6;

/** Pictures for the tracker, read forwards as a stream and backwards in blocks. */
export class FileFrames implements FrameSource {
  private decoder: Decoder | null = null;
  private next = -1;
  private readonly kept: LRUCache<number, Uint8Array>;
  private readonly most: number;

  /**
   * @param colour  true where more than luma will be asked for; reading luma alone is quicker
   */
  constructor(
    private readonly path: string,
    private readonly info: ClipInfo,
    private readonly colour = false,
  ) {
    const size = colour ? planarSize(info.width, info.height) : info.width * info.height;
    // The cache takes room for as many as it may keep from the start.
    this.most = Math.max(2, Math.min(info.frames, Math.floor(KEPT_BYTES / size)));
    this.kept = new LRUCache({ max: this.most });
  }

  luma(frame: number, signal?: AbortSignal): Promise<Plane> {
    return this.plane(frame, 'luma', signal);
  }

  async plane(frame: number, channel: Channel, signal?: AbortSignal): Promise<Plane> {
    const { width, height, colour } = this.info;
    if (!this.colour && channel === 'luma') return planeOver(await this.read(frame, signal), width, height);
    const code = isRgb(this.info) ? ({ range: 'tv', space: 'bt709' } as const) : colour;
    return channelPlane(await this.planes(frame, signal), channel, code);
  }

  /** Luma and chroma, where colour was announced. */
  async planes(frame: number, signal?: AbortSignal): Promise<ColourPlanes> {
    if (!this.colour) throw new Error('Colour was not announced.');
    return planarPlanes(await this.read(frame, signal), this.info.width, this.info.height);
  }

  close(): void {
    this.decoder?.close();
    this.decoder = null;
  }

  private async read(frame: number, signal?: AbortSignal): Promise<Uint8Array> {
    const hit = this.kept.get(frame);
    if (hit) return hit;
    const { width, height } = this.info;
    const size = this.colour ? planarSize(width, height) : width * height;
    const { most } = this;
    if (!this.decoder || frame < this.next || frame > this.next + most) {
      // Backwards, or a long jump: start early enough that the frames before are at hand too.
      const backwards = this.next > 0 && frame < this.next;
      await this.restart(backwards ? Math.max(0, frame - (most >> 1)) : frame, signal);
    }
    for (;;) {
      const bytes = new Uint8Array(size);
      if (!(await this.decoder!.read(bytes))) {
        throw new LurnError(
          'frame-unreadable',
          `Frame ${this.next} cannot be decoded any more. ${this.decoder!.complaint.trim().split('\n')[0]}`,
        );
      }
      this.kept.set(this.next, bytes);
      if (this.next++ === frame) return bytes;
    }
  }

  private async restart(from: number, signal?: AbortSignal): Promise<void> {
    this.close();
    this.kept.clear();
    const range = { from, to: this.info.frames - 1 };
    this.decoder = await Decoder.open(this.path, this.info, range, this.colour ? 'upright' : 'luma', signal);
    this.next = from;
  }
}

function planarPlanes(bytes: Uint8Array, width: number, height: number): ColourPlanes {
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const chroma = (from: number) => planeOver(bytes.subarray(from, from + w * h), w, h);
  return {
    y: planeOver(bytes, width, height),
    u: chroma(width * height),
    v: chroma(width * height + w * h),
    subsampling: { x: 2, y: 2 },
  };
}
