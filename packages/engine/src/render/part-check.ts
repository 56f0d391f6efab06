import { open, readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { LurnError } from '@lurn/core';
import type { Size } from '@lurn/core/plan';
import type { ClipInfo } from '@lurn/model';
import type { Format } from '../formats/index.js';
import { asFile, ffprobePath, LOCAL_ONLY, runTool } from '../tools.js';
import { codedFor } from './coded.js';
import { comparedSize, comparePlan, type Comparison } from './compare.js';
import type { Part } from './parts.js';

/** How a file begins that a muxer has written, from which byte on, and what reads it. */
interface Container {
  readonly at: number;
  readonly magic: readonly string[];
  readonly demuxer: string;
}

const QUICKTIME: Container = { at: 4, magic: [hex('ftyp'), hex('moov'), hex('mdat'), hex('wide'), hex('free')], demuxer: 'mov' }; // prettier-ignore
const MATROSKA: Container = { at: 0, magic: ['1a45dfa3'], demuxer: 'matroska' };

const CONTAINERS: Readonly<Partial<Record<string, Container>>> = {
  mp4: QUICKTIME,
  mov: QUICKTIME,
  matroska: MATROSKA,
  webm: MATROSKA,
  gif: { at: 0, magic: [hex('GIF8')], demuxer: 'gif' },
  webp: { at: 0, magic: [hex('RIFF')], demuxer: 'webp_pipe' },
  png: { at: 0, magic: ['89504e47'], demuxer: 'png_pipe' },
  tiff: { at: 0, magic: ['49492a00', '4d4d002a'], demuxer: 'tiff_pipe' },
};

function hex(text: string): string {
  return Buffer.from(text, 'latin1').toString('hex');
}

/** What the parts of a format are read by, and nothing else. */
export function demuxerOf({ muxer }: Format): string {
  return CONTAINERS[muxer]!.demuxer;
}

/**
 * Looks into a part that came from another machine: it is a file of its format by its first bytes, with as many
 * pictures, as large and as fast as they were ordered. What is no such file is never handed to a tool.
 *
 * @param path  the file, or the folder of pictures
 * @throws LurnError `part-broken` that says what is wrong
 */
export async function demandPart(
  path: string,
  part: Part,
  {
    info,
    format,
    delivery,
    compare,
  }: {
    readonly info: ClipInfo;
    readonly format: Format;
    readonly delivery: Size;
    readonly compare?: Comparison | null;
  },
): Promise<void> {
  const wanted = part.to - part.from + 1;
  const files = format.pictures ? (await readdir(path)).sort().map((f) => join(path, f)) : [path];
  const coded = codedFor(info, delivery).outputSize;
  const both = compare ? comparedSize(coded, comparePlan(compare.way, info.turns)) : coded;
  const [width, height] = format.upright && info.turns % 2 ? [both[1], both[0]] : both;
  if (format.pictures && files.length !== wanted)
    throw broken(part, `has ${files.length} pictures in place of ${wanted}`);
  const container = CONTAINERS[format.pictures ?? format.muxer];
  if (!container) {
    // Plain samples, four of sixteen bits a pixel.
    for (const file of files)
      if ((await stat(file)).size !== 8 * width * height) throw broken(part, 'has pictures of another size');
    return;
  }
  for (const file of files) if (!(await begins(file, container))) throw broken(part, `is no ${format.name}`);
  const found = await probed(files[0], container, part);
  // A quick look has a size and rate of its own.
  if (format.inOneGo) return;
  if (found.width !== width || found.height !== height)
    throw broken(part, `is ${found.width} x ${found.height} in place of ${width} x ${height}`);
  if (format.pictures) return;
  if (found.frames !== wanted) throw broken(part, `has ${found.frames} frames in place of ${wanted}`);
  if (info.rate && wanted > 1 && Math.abs(found.fps / info.fps - 1) > 0.02)
    throw broken(part, `has ${found.fps.toFixed(3)} frames a second in place of ${info.fps.toFixed(3)}`);
}

async function begins(path: string, { at, magic }: Container): Promise<boolean> {
  const file = await open(path).catch(() => null);
  if (!file) return false;
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(4), 0, 4, at);
    return bytesRead === 4 && magic.includes(buffer.toString('hex'));
  } finally {
    await file.close();
  }
}

async function probed(path: string, { demuxer }: Container, part: Part) {
  const args = [
    ...LOCAL_ONLY,
    ...['-v', 'error', '-f', demuxer, '-select_streams', 'v:0', '-count_packets', '-print_format', 'json'],
    ...['-show_entries', 'stream=width,height,nb_read_packets,avg_frame_rate', asFile(path)],
  ];
  const { status, stdout } = await runTool(ffprobePath(), args, { seconds: 60 });
  const stream = status === 0 ? (JSON.parse(stdout) as { streams?: Probed[] }).streams?.[0] : undefined;
  if (!stream) throw broken(part, 'cannot be read');
  const [n, d = 1] = stream.avg_frame_rate.split('/').map(Number);
  return { width: stream.width, height: stream.height, frames: Number(stream.nb_read_packets), fps: n / d };
}

interface Probed {
  readonly width: number;
  readonly height: number;
  readonly nb_read_packets: string;
  readonly avg_frame_rate: string;
}

const broken = ({ from, to }: Part, what: string) =>
  new LurnError(
    'part-broken',
    `What a worker brought for frames ${from} to ${to} ${what}. It is rendered again.`,
  );
