import { open, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { LurnError } from '@lurn/core';
import { isHdr } from '@lurn/core/picture';
import type { Size } from '@lurn/core/plan';
import { masteringOf, type Mastering } from './mastering.js';
import { asFile, ffprobePath, LOCAL_ONLY, runTool } from './tools.js';

/** A video stream and its file as the container tells of them, before anything is decoded. */
export interface StreamFacts {
  /** Its place among the file's streams: what is decoded, everywhere. */
  readonly stream: number;
  /** Streams of pictures in the file, covers included: with more than one a browser may choose another. */
  readonly videoStreams: number;
  /** Size of the coded picture. */
  readonly codedWidth: number;
  readonly codedHeight: number;
  readonly turns: 0 | 1 | 2 | 3;
  readonly pixelAspect: number;
  readonly codec: string;
  readonly container: string;
  /** Which of two fields that its pictures are woven of is shown first; null where they are whole. */
  readonly fields: 'top' | 'bottom' | null;
  readonly pixelFormat: string;
  readonly bitDepth: number;
  readonly rate: string;
  /** About how many frames there are, by what the container says; 0 when it does not tell. */
  readonly expected: number;
  readonly colour: {
    range: 'tv' | 'pc';
    space: string | null;
    transfer: string | null;
    primaries: string | null;
    siting: 'left' | 'center';
    mastering?: Mastering;
  };
  readonly audio: { codec: string; channels: number; rate: number } | null;
  /** File time of the file's earliest stream, and of its pictures, in seconds. */
  readonly fileStart: number;
  readonly pictureStart: number;
  /** Frames a second, as told. */
  readonly fps: number;
}

/** Size of the picture as it is seen. */
export function uprightSize({ codedWidth, codedHeight, turns }: StreamFacts): Size {
  const upright = turns % 2 === 0;
  return { width: upright ? codedWidth : codedHeight, height: upright ? codedHeight : codedWidth };
}

interface ProbeStream {
  index: number;
  codec_type: string;
  codec_name?: string;
  width?: number;
  height?: number;
  pix_fmt?: string;
  field_order?: string;
  r_frame_rate?: string;
  avg_frame_rate?: string;
  nb_frames?: string;
  duration?: string;
  start_time?: string;
  sample_aspect_ratio?: string;
  color_range?: string;
  color_space?: string;
  color_transfer?: string;
  color_primaries?: string;
  chroma_location?: string;
  bits_per_raw_sample?: string;
  channels?: number;
  sample_rate?: string;
  disposition?: { attached_pic?: number };
  tags?: { rotate?: string };
  side_data_list?: { rotation?: number }[];
}

/** Formats that hold a still picture, or nothing but text, and that ffprobe reads all the same. */
const PICTURES = /^(image2|.*_pipe|gif|apng|tty|srt|ass|webvtt|concat|hls|dash)$/;

/** The most pixels a picture may have: more would not fit in a graphics card's texture. */
const LARGEST_SIDE = 8192;

/**
 * Reads what a file says of itself.
 *
 * @throws LurnError `missing-file`, `empty-file`, `not-video`, `audio-only`, `still-picture`, `too-large`; each
 *         sentence names the file.
 */
export async function probeFile(
  path: string,
  name = basename(path),
  signal?: AbortSignal,
): Promise<StreamFacts> {
  const facts = await stat(path).catch(() => null);
  if (!facts?.isFile()) throw new LurnError('missing-file', `"${name}" is not there any more.`);
  if (facts.size === 0)
    throw new LurnError('empty-file', `"${name}" is empty (0 bytes). Copy it again and retry.`);
  if (await isText(path)) {
    throw new LurnError(
      'not-video',
      `"${name}" is a text file or a playlist, not a video. Bring in the clips that it names.`,
    );
  }
  const { status, stdout, stderr } = await runTool(
    ffprobePath(),
    [...LOCAL_ONLY, '-v', 'error', '-print_format', 'json', '-show_streams', '-show_format', asFile(path)],
    { seconds: 60, signal },
  );
  if (status !== 0) throw unreadable(name, (await looksLikeMp4(path)) ? stderr : '');
  const { streams = [], format = {} } = JSON.parse(stdout) as {
    streams?: ProbeStream[];
    format?: { format_name?: string; start_time?: string; duration?: string };
  };
  const video = streams.find((s) => s.codec_type === 'video' && !s.disposition?.attached_pic);
  const audio = streams.find((s) => s.codec_type === 'audio');
  const container = format.format_name ?? '';
  if (!video) {
    if (audio)
      throw new LurnError('audio-only', `"${name}" has sound but no picture. Bring in a video clip.`);
    throw new LurnError('not-video', `"${name}" is not a video: nothing in it can be played.`);
  }
  if (PICTURES.test(container)) {
    throw new LurnError(
      'still-picture',
      `"${name}" is a ${container.replace(/_pipe$/, '')} file, not a video clip.`,
    );
  }
  const { width = 0, height = 0, codec_name: codec = '?', pix_fmt: pixelFormat = '' } = video;
  if (width < 1 || height < 1 || !pixelFormat) {
    throw new LurnError(
      'not-video',
      `"${name}" has a video track (${codec}) whose picture cannot be decoded.`,
    );
  }
  if (Math.max(width, height) > LARGEST_SIDE) {
    throw new LurnError(
      'too-large',
      `"${name}" is ${width} x ${height}; at most ${LARGEST_SIDE} pixels a side work.`,
    );
  }
  const light = { transfer: known(video.color_transfer), primaries: known(video.color_primaries) };
  const mastering = isHdr(light) ? await masteringOf(path, video.index, signal) : null;
  return {
    stream: video.index,
    videoStreams: streams.filter((s) => s.codec_type === 'video').length,
    codedWidth: width,
    codedHeight: height,
    turns: quarterTurns(video),
    pixelAspect: ratio(video.sample_aspect_ratio, ':') || 1,
    codec,
    container,
    pixelFormat,
    bitDepth: Number(/p(9|10|12|14|16)(le|be)?$/.exec(pixelFormat)?.[1] ?? 8),
    fields: FIELDS[video.field_order ?? ''] ?? null,
    rate: video.r_frame_rate ?? '0/0',
    expected: expectedFrames(video, Number(video.duration ?? format.duration ?? 0)),
    colour: {
      range: video.color_range === 'pc' || pixelFormat.startsWith('yuvj') ? 'pc' : 'tv',
      space: known(video.color_space),
      ...light,
      siting: video.chroma_location === 'center' ? 'center' : 'left',
      ...(mastering && { mastering }),
    },
    audio: audio
      ? {
          codec: audio.codec_name ?? '?',
          channels: audio.channels ?? 0,
          rate: Number(audio.sample_rate ?? 0),
        }
      : null,
    fileStart: Number(format.start_time ?? 0) || 0,
    pictureStart: Number(video.start_time ?? format.start_time ?? 0) || 0,
    fps: ratio(video.avg_frame_rate, '/') || ratio(video.r_frame_rate, '/') || 25,
  };
}

/** Orders of fields as ffprobe tells them: by the second letter, which is shown first. */
const FIELDS: Readonly<Record<string, 'top' | 'bottom'>> = {
  tt: 'top',
  bt: 'top',
  bb: 'bottom',
  tb: 'bottom',
};

/** So much of a file's beginning tells whether it is text. */
const HEAD = 1024;

/**
 * True for files that are text from their first byte on, whatever their name: playlists, manifests and lists name other
 * files, or places on the network, and no tool may open one. No video format begins so.
 */
async function isText(path: string): Promise<boolean> {
  const head = await headOf(path, HEAD);
  // UTF-16 has its mark; everything else that is text has no control characters but those of layout.
  if (head.length >= 2 && (head.readUInt16BE(0) === 0xfffe || head.readUInt16BE(0) === 0xfeff)) return true;
  return !head.some((byte) => byte < 9 || (byte > 13 && byte < 32) || byte === 127);
}

async function headOf(path: string, bytes: number): Promise<Buffer> {
  const file = await open(path);
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(bytes), 0, bytes, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await file.close();
  }
}

/** True when the file begins with a box of MP4 or QuickTime; ffprobe believes the extension instead. */
async function looksLikeMp4(path: string): Promise<boolean> {
  return /^(ftyp|moov|mdat|free|skip|wide)$/.test((await headOf(path, 8)).toString('latin1', 4));
}

export function unreadable(name: string, stderr: string): LurnError {
  if (/moov atom not found|truncat|End of file|partial file/i.test(stderr)) {
    return new LurnError(
      'cut-off',
      `"${name}" is cut off: its index is missing. Copy it again from the source.`,
    );
  }
  return new LurnError(
    'not-video',
    `"${name}" is not a video that can be read. Bring in MP4, MOV, MKV, WebM or AVI.`,
  );
}

/** "4:3" or "30000/1001" as a number; 0 where it is not one. */
export function ratio(text: string | undefined, sign: ':' | '/'): number {
  const [a, b] = (text ?? '').split(sign).map(Number);
  return a > 0 && b > 0 ? a / b : 0;
}

function expectedFrames(video: ProbeStream, seconds: number): number {
  const told = Number(video.nb_frames ?? 0);
  if (told > 0) return told;
  const rate = ratio(video.avg_frame_rate, '/') || ratio(video.r_frame_rate, '/');
  return Math.max(0, Math.round((seconds || 0) * rate));
}

function known(value: string | undefined): string | null {
  return value && value !== 'unknown' && value !== 'reserved' ? value : null;
}

function quarterTurns(stream: ProbeStream): 0 | 1 | 2 | 3 {
  const matrix = stream.side_data_list?.find((s) => s.rotation !== undefined)?.rotation;
  const clockwise = matrix !== undefined ? -matrix : Number(stream.tags?.rotate ?? 0);
  return (((Math.round(clockwise / 90) % 4) + 4) % 4) as 0 | 1 | 2 | 3;
}
