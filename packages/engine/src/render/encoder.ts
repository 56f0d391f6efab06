import { mkdir, mkdtemp, rename, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { LurnError, stoppedError } from '@lurn/core';
import type { ClipInfo } from '@lurn/model';
import { isRgb } from '../decode.js';
import { whyNot, type Format, type FormatSettings } from '../formats/index.js';
import { toRgb, turnedUpright } from '../formats/pictures.js';
import { fourccOf } from '../layout.js';
import { partOf } from '../part-file.js';
import { everyFrame, varyingRate } from '../quirks.js';
import { asFile, ffmpegPath, startTool, toolError, type RunningTool } from '../tools.js';
import { rgbToneFilter } from '../tone.js';
import { matroskaFrameHead, matroskaHeader } from './raw-matroska.js';

/** Of every encoder: what x264 and others write depends on how many there are. */
const THREADS = 4;

export interface EncodeSettings extends FormatSettings {
  readonly format: Format;
  /** Size of the coded picture; both even. */
  readonly width: number;
  readonly height: number;
}

/**
 * Writes planes into a file of some format at the source's rate, or a folder of pictures. It grows beside its place under
 * another name and is moved there when it is complete. Encoders are given a number of threads, so that the same planes
 * give the same bits on every machine.
 */
export class Encoder {
  private written = 0;

  private constructor(
    private readonly tool: RunningTool,
    private readonly file: string,
    private readonly part: string,
    private readonly stamps: Float64Array | null,
    private readonly folder: string | null,
    private readonly signal?: AbortSignal,
  ) {}

  /**
   * @param times  seconds of every frame of the clip from frame 0
   * @param range  first and last frame that will be written
   * @throws LurnError `no-alpha` where the format cannot hold the clip, `no-encoder` where the tool cannot write it
   */
  static async open(
    file: string,
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
    const layout = format.planes(info);
    const size = ['-pix_fmt', layout.pixelFormat, '-s', `${width}x${height}`];
    const picture = info.rate
      ? ['-f', 'rawvideo', ...size, '-framerate', info.rate, '-i', 'pipe:0']
      : ['-f', 'matroska', '-i', 'pipe:0'];
    // What shows HDR is a table in a file, which has to be there while the pictures are encoded.
    const folder = format.looks ? await mkdtemp(join(tmpdir(), 'lurn-look-')) : null;
    const tone = folder && (await rgbToneFilter(info.colour, folder));
    const filters = [
      ...(format.upright ? turnedUpright(info.turns) : []),
      ...(format.looks ? toRgb(info, 'rgb24') : []),
      ...(tone ? [tone] : []),
      ...(format.filters?.(info) ?? []),
      ...(format.tagsPictures ? pictureTags(info) : []),
      `setsar=${sarOf(info, format.upright ?? false)}`,
    ];
    if (format.pictures) await mkdir(part);
    const args = [
      ...['-y', '-v', 'error', '-nostats', ...picture],
      ...['-map', '0:v:0'],
      ...[
        '-c:v',
        format.encoder,
        ...format.video(info, settings),
        ...['-threads', String(THREADS), ...(format.tag ? ['-tag:v', format.tag] : [])],
        ...(format.filters ? [] : colourTags(info)),
      ],
      ...['-vf', filters.join(',')],
      ...(info.rate ? [] : format.pictures ? await everyFrame() : await varyingRate()),
      ...(format.muxing ?? []),
      ...(format.pictures ? ['-start_number', String(range.from)] : []),
      ...['-f', format.muxer],
      asFile(format.pictures ? join(part.replaceAll('%', '%%'), `%06d.${format.pictures}`) : part),
    ];
    const tool = await startTool(ffmpegPath(), args, signal);
    const stamps = info.rate ? null : times.map((t) => t - times[range.from]).slice(range.from);
    if (stamps)
      tool.child.stdin!.write(matroskaHeader(width, height, 1 / info.fps, fourccOf(layout) ?? undefined));
    return new Encoder(tool, file, part, stamps, folder, signal);
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
      await this.tidy();
      await rename(this.part, this.file);
    } catch (error) {
      await this.discard();
      throw error;
    }
  }

  /** Gives the file up. */
  async discard(): Promise<void> {
    this.tool.kill();
    await this.tool.ended.catch(() => null);
    await this.tidy();
    await rm(this.part, { force: true, recursive: true });
  }

  private async tidy(): Promise<void> {
    if (this.folder) await rm(this.folder, { force: true, recursive: true });
  }

  private async fault(error: Error): Promise<never> {
    await this.tool.ended.catch(() => null);
    if (this.signal?.aborted) throw stoppedError('Rendering');
    throw toolError('encode-failed', 'Encoding', this.tool.errorText || error.message);
  }
}

/** How colours are coded, as it is told: what was RGB is written as BT.709. */
function tagsOf(info: ClipInfo): Pick<ClipInfo['colour'], 'range' | 'space' | 'transfer' | 'primaries'> {
  return isRgb(info)
    ? { range: info.colour.range, space: 'bt709', transfer: null, primaries: null }
    : info.colour;
}

/** Options that tell how colours are coded, for encoders and for muxers. */
export function colourTags(info: ClipInfo): string[] {
  const { siting } = info.colour;
  const { range, space, transfer, primaries } = tagsOf(info);
  const tag = (name: string, value: string | null) => (value ? [name, value] : []);
  return [
    '-color_range',
    range,
    ...tag('-colorspace', space),
    ...tag('-color_trc', transfer),
    ...tag('-color_primaries', primaries),
    '-chroma_sample_location',
    siting,
  ];
}

/** The same as a filter that tells it of every picture: what comes as plain samples tells nothing. */
function pictureTags(info: ClipInfo): string[] {
  const { range, space, transfer, primaries } = tagsOf(info);
  const tags = { range, colorspace: space, color_trc: transfer, color_primaries: primaries };
  const told = Object.entries(tags).flatMap(([name, value]) => (value ? [`${name}=${value}`] : []));
  return [`setparams=${told.join(':')}`];
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
