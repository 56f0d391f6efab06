import { createPlane, LurnError, planeOver, type LumaSource, type Plane } from '@lurn/core';
import type { ClipInfo } from '@lurn/model';
import { FrameStream } from './frame-stream.js';
import { asInput, everyFrame, ffmpegPath, LOCAL_ONLY, startTool, type RunningTool } from './tools.js';

/** The planar format that a clip is decoded to: 4:2:0, eight bits, its own range. */
export function workingFormat(info: ClipInfo): 'yuv420p' | 'yuvj420p' {
  return info.colour.range === 'pc' ? 'yuvj420p' : 'yuv420p';
}

/** True for sources that have no luma of their own (red, green, blue or palette). */
export function isRgb(info: ClipInfo): boolean {
  return /^(rgb|bgr|gbr|argb|abgr|rgba|bgra|0rgb|0bgr|pal8|monob|monow)/.test(info.pixelFormat);
}

/** Filters that bring the source to {@link workingFormat} without touching what is already there. */
export function toWorkingFormat(info: ClipInfo): string {
  return isRgb(info)
    ? 'scale=out_color_matrix=bt709:out_range=tv,format=yuv420p'
    : `format=${workingFormat(info)}`;
}

export interface DecodeRange {
  /** First and last frame, both included. */
  readonly from: number;
  readonly to: number;
}

/** Frames of a clip as raw bytes, from one frame to another, in order. */
export class Decoder {
  private constructor(
    private readonly tool: RunningTool,
    private readonly stream: FrameStream,
    readonly frameSize: number,
  ) {}

  /**
   * @param as  `luma`: the upright luma plane; `planes`: luma and both chroma planes, as coded, not turned
   */
  static async open(
    path: string,
    info: ClipInfo,
    range: DecodeRange,
    as: 'luma' | 'planes',
    signal?: AbortSignal,
  ): Promise<Decoder> {
    const upright = as === 'luma';
    const select = range.from > 0 ? `select=gte(n\\,${range.from}),` : '';
    const eightBitYuv = !isRgb(info) && info.bitDepth === 8;
    const luma = eightBitYuv ? 'extractplanes=y' : `${toWorkingFormat(info)},extractplanes=y`;
    const args = [
      '-v',
      'error',
      '-nostats',
      ...LOCAL_ONLY,
      ...(upright ? [] : ['-noautorotate']),
      '-i',
      asInput(path),
      '-map',
      '0:v:0',
      ...(await everyFrame()),
      '-vf',
      `${select}${upright ? luma : toWorkingFormat(info)}`,
      '-frames:v',
      String(range.to - range.from + 1),
      '-f',
      'rawvideo',
      'pipe:1',
    ];
    const tool = await startTool(ffmpegPath(), args, signal);
    tool.child.stdin!.end();
    const { width, height } = info;
    const size = upright
      ? width * height
      : planarSize(info.turns % 2 ? height : width, info.turns % 2 ? width : height);
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

/** Luma planes for the tracker, read forwards as a stream and backwards in blocks. */
export class FileLuma implements LumaSource {
  private decoder: Decoder | null = null;
  private next = -1;
  private readonly kept = new Map<number, Plane>();

  constructor(
    private readonly path: string,
    private readonly info: ClipInfo,
  ) {}

  async luma(frame: number, signal?: AbortSignal): Promise<Plane> {
    const hit = this.kept.get(frame);
    if (hit) return hit;
    const most = Math.max(2, Math.floor(KEPT_BYTES / (this.info.width * this.info.height)));
    if (!this.decoder || frame < this.next || frame > this.next + most) {
      // Backwards, or a long jump: start early enough that the frames before are at hand too.
      const backwards = this.next > 0 && frame < this.next;
      await this.restart(backwards ? Math.max(0, frame - (most >> 1)) : frame, signal);
    }
    for (;;) {
      const plane = createPlane(this.info.width, this.info.height);
      if (!(await this.decoder!.read(plane.data))) {
        throw new LurnError(
          'frame-unreadable',
          `Frame ${this.next} cannot be decoded any more. ${this.decoder!.complaint.trim().split('\n')[0]}`,
        );
      }
      this.kept.set(this.next, planeOver(plane.data, plane.width, plane.height));
      if (this.kept.size > most) this.kept.delete(this.kept.keys().next().value!);
      if (this.next++ === frame) return plane;
    }
  }

  close(): void {
    this.decoder?.close();
    this.decoder = null;
  }

  private async restart(from: number, signal?: AbortSignal): Promise<void> {
    this.close();
    this.kept.clear();
    this.decoder = await Decoder.open(
      this.path,
      this.info,
      { from, to: this.info.frames - 1 },
      'luma',
      signal,
    );
    this.next = from;
  }
}
