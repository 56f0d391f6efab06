import { mkdir, readdir, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { LurnError, stoppedError } from '@lurn/core';
import type { ClipInfo } from '@lurn/model';
import { isRgb } from '../decode.js';
import { whyNot, type Format, type FormatSettings } from '../formats/index.js';
import { turnedUpright } from '../formats/pictures.js';
import { partOf } from '../part-file.js';
import { everyFrame, turnedBy, varyingRate } from '../quirks.js';
import { asFile, ffmpegPath, LOCAL_ONLY, startTool, toolError, type RunningTool } from '../tools.js';
import { ZipFile } from '../zip-file.js';
import { matroskaFrameHead, matroskaHeader } from './raw-matroska.js';

export interface EncodeSettings extends FormatSettings {
  readonly format: Format;
  /** Size of the coded picture; both even. */
  readonly width: number;
  readonly height: number;
}

/**
 * Writes planes into a file of some format at the source's rate, with the sound of the same stretch of the source. The
 * file grows beside its place under another name and is moved there when it is complete.
 */
export class Encoder {
  private written = 0;

  private constructor(
    private readonly tool: RunningTool,
    private readonly file: string,
    private readonly part: string,
    private readonly stamps: Float64Array | null,
    private readonly turns: number,
    private readonly format: Format,
    private readonly signal?: AbortSignal,
  ) {}

  /**
   * @param times  seconds of every frame of the clip from frame 0
   * @param range  first and last frame that will be written
   * @throws LurnError `no-alpha` where the format cannot hold the clip, `no-encoder` where the tool cannot write it
   */
  static async open(
    file: string,
    source: string,
    info: ClipInfo,
    times: Float64Array,
    range: { readonly from: number; readonly to: number },
    settings: EncodeSettings,
    signal?: AbortSignal,
  ): Promise<Encoder> {
    const part = partOf(file);
    const { format, width, height } = settings;
    const why = format.refuses(info);
    if (why) throw new LurnError('no-alpha', why);
    const missing = await whyNot(format);
    if (missing)
      throw new LurnError(
        'no-encoder',
        `${format.name} cannot be written here: ${missing}. Choose another format.`,
      );
    const size = ['-pix_fmt', format.planes(info), '-s', `${width}x${height}`];
    const picture = info.rate
      ? ['-f', 'rawvideo', ...size, '-framerate', info.rate, '-i', 'pipe:0']
      : ['-f', 'matroska', '-i', 'pipe:0'];
    const sound = info.audio && format.sound ? format.audio(info) : null;
    const filters = [
      ...(format.upright ? turnedUpright(info.turns) : []),
      ...(format.filters?.(info) ?? []),
      `setsar=${sarOf(info, format.upright ?? false)}`,
    ];
    if (format.pictures) await mkdir(part);
    const args = [
      ...['-y', '-v', 'error', '-nostats', ...picture],
      ...(sound ? soundInput(source, info, times, range) : []),
      ...['-map', '0:v:0', ...(sound ? ['-map', '1:a:0'] : [])],
      ...[
        '-c:v',
        format.encoder,
        ...format.video(info, settings),
        ...(format.filters ? [] : colourTags(info)),
      ],
      ...['-vf', filters.join(',')],
      ...(info.rate ? [] : format.pictures ? await everyFrame() : await varyingRate()),
      ...(sound ? sound.args : []),
      ...(format.muxing ?? []),
      ...(format.pictures ? ['-start_number', String(range.from)] : []),
      ...['-f', format.muxer],
      asFile(format.pictures ? join(part.replaceAll('%', '%%'), `%06d.${format.pictures}`) : part),
    ];
    const tool = await startTool(ffmpegPath(), args, signal);
    const stamps = info.rate ? null : times.map((t) => t - times[range.from]).slice(range.from);
    if (stamps) tool.child.stdin!.write(matroskaHeader(width, height, 1 / info.fps));
    return new Encoder(tool, file, part, stamps, format.upright ? 0 : info.turns, format, signal);
  }

  /** Writes the next frame; settles when its bytes may be overwritten. */
  async write(planes: Uint8Array): Promise<void> {
    const stdin = this.tool.child.stdin!;
    if (this.stamps) stdin.write(matroskaFrameHead(this.stamps[this.written], planes.length));
    this.written++;
    await new Promise<void>((resolve, reject) => {
      stdin.write(planes, (error) => (error ? reject(error) : resolve()));
    }).catch((error: Error) => this.fault(error));
  }

  /** Ends the file and moves it into place. Nothing is left behind when that fails. */
  async finish(): Promise<void> {
    this.tool.child.stdin!.end();
    try {
      await this.tool.succeed('encode-failed', 'Encoding');
      if (this.turns !== 0) await flagTurned(this.part, this.turns, this.format.muxer, this.signal);
      if (this.format.pictures) await this.zip();
      else await rename(this.part, this.file);
    } catch (error) {
      await this.discard();
      throw error;
    }
  }

  /** The pictures as one file; each goes when it is in it, so that they are hardly ever there twice. */
  private async zip(): Promise<void> {
    const zip = new ZipFile(this.file);
    for (const name of (await readdir(this.part)).sort()) {
      if (this.signal?.aborted) {
        await zip.discard();
        throw stoppedError('Rendering');
      }
      const picture = join(this.part, name);
      await zip.add(name, await readFile(picture));
      await rm(picture);
    }
    await zip.finish();
    await rm(this.part, { recursive: true });
  }

  /** Gives the file up. */
  async discard(): Promise<void> {
    this.tool.kill();
    await this.tool.ended.catch(() => null);
    await rm(this.part, { force: true, recursive: true });
  }

  private async fault(error: Error): Promise<never> {
    await this.tool.ended.catch(() => null);
    if (this.signal?.aborted) throw stoppedError('Rendering');
    throw toolError('encode-failed', 'Encoding', this.tool.errorText || error.message);
  }
}

/**
 * Writes into a finished file by how many quarter turns it is to be shown. ffmpeg does so only while copying, and
 * counts counter-clockwise.
 */
async function flagTurned(file: string, turns: number, muxer: string, signal?: AbortSignal): Promise<void> {
  const turned = partOf(file);
  const { input, output } = await turnedBy(360 - 90 * turns);
  const tool = await startTool(
    ffmpegPath(),
    [
      ...['-y', '-v', 'error', ...LOCAL_ONLY, ...input],
      ...['-i', asFile(file), '-map', '0', '-c', 'copy', ...output],
      ...['-movflags', '+faststart', '-f', muxer, asFile(turned)],
    ],
    signal,
  );
  tool.child.stdin!.end();
  try {
    await tool.succeed('encode-failed', 'Encoding');
    await rename(turned, file);
  } finally {
    await rm(turned, { force: true });
  }
}

/** The same stretch of the source's sound, so placed that the range's first frame is at 0. */
function soundInput(
  source: string,
  info: ClipInfo,
  times: Float64Array,
  { from, to }: { readonly from: number; readonly to: number },
): string[] {
  if (!info.audio) return [];
  const whole = from === 0 && to === info.frames - 1;
  // ffmpeg counts from the file's earliest stream; our zero is the range's first picture.
  const zero = info.startTime - info.fileStart + times[from];
  const length = (to + 1 < times.length ? times[to + 1] : info.duration) - times[from];
  const cut = whole ? [] : ['-ss', zero.toFixed(6), '-t', length.toFixed(6)];
  const shift = whole && Math.abs(zero) > 1e-6 ? ['-itsoffset', (-zero).toFixed(6)] : [];
  return [...LOCAL_ONLY, ...cut, ...shift, '-vn', '-i', asFile(source)];
}

function colourTags(info: ClipInfo): string[] {
  const { range, space, transfer, primaries, siting } = info.colour;
  const rgb = isRgb(info);
  const tag = (name: string, value: string | null) => (value ? [name, value] : []);
  return [
    '-color_range',
    range,
    ...tag('-colorspace', rgb ? 'bt709' : space),
    ...tag('-color_trc', rgb ? null : transfer),
    ...tag('-color_primaries', rgb ? null : primaries),
    '-chroma_sample_location',
    siting,
  ];
}

/** The pixel aspect of the picture, as it is coded or upright, as a fraction. */
function sarOf(info: ClipInfo, upright: boolean): string {
  const coded = info.turns % 2 && !upright ? 1 / info.pixelAspect : info.pixelAspect;
  for (let d = 1; d <= 1000; d++) {
    const n = Math.round(coded * d);
    if (n > 0 && Math.abs(n / d - coded) < 1e-6) return `${n}/${d}`;
  }
  return `${Math.round(coded * 10000)}/10000`;
}
