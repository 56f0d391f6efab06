import type { ClipInfo } from '@lurn/model';
import { soundArgs, type Format } from '../formats/index.js';
import { asFile, ffprobePath, LOCAL_ONLY, runTool } from '../tools.js';

/** What a file has besides the pictures that are worked on. */
export interface OtherStreams {
  /** Codecs of its sound tracks, in order. */
  readonly sounds: readonly string[];
  /** Subtitles that are text: which of its subtitle tracks, and how they are coded. */
  readonly subtitles: readonly { readonly track: number; readonly codec: string }[];
  /** Time code of its first picture, as `01:00:00:00`; null where it tells none. */
  readonly timecode: string | null;
}

const NONE: OtherStreams = { sounds: [], subtitles: [], timecode: null };
/** Subtitles that can be written anew as text; pictures cannot. */
const TEXT = ['subrip', 'srt', 'mov_text', 'ass', 'ssa', 'webvtt', 'text'];

interface Stream {
  readonly codec_type?: string;
  readonly codec_name?: string;
  readonly tags?: Readonly<Record<string, string>>;
}

/** Looks what a file has besides; nothing where that cannot be told. */
export async function otherStreamsOf(source: string, signal?: AbortSignal): Promise<OtherStreams> {
  const args = [
    ...LOCAL_ONLY,
    '-v',
    'error',
    '-print_format',
    'json',
    '-show_streams',
    '-show_format',
    asFile(source),
  ];
  const { status, stdout } = await runTool(ffprobePath(), args, { seconds: 60, signal });
  if (status !== 0) return NONE;
  const { streams = [], format } = JSON.parse(stdout) as {
    streams?: Stream[];
    format?: { tags?: Readonly<Record<string, string>> };
  };
  const of = (type: string) => streams.filter((s) => s.codec_type === type);
  const told = [...streams.map((s) => s.tags?.timecode), format?.tags?.timecode];
  return {
    sounds: of('audio').map((s) => s.codec_name ?? '?'),
    subtitles: of('subtitle').flatMap(({ codec_name: codec = '' }, track) =>
      TEXT.includes(codec) ? [{ track, codec }] : [],
    ),
    timecode: told.find((t) => t && /^\d\d:\d\d:\d\d[:;.]\d\d$/.test(t)) ?? null,
  };
}

/** Containers by what subtitles are called in them. */
const SUBTITLES: Readonly<Record<string, string>> = {
  mp4: 'mov_text',
  mov: 'mov_text',
  matroska: 'subrip',
  webm: 'webvtt',
};

/** Options that carry sound tracks and subtitles of the second input over, each track by its own codec. */
export function otherStreamArgs(
  { sounds, subtitles }: OtherStreams,
  info: ClipInfo,
  format: Format,
): string[] {
  const out: string[] = [];
  const rule = format.sound;
  if (rule && info.audio)
    sounds.forEach((codec, k) => {
      const args = soundArgs(rule, codec);
      // What is said of sound as a whole is said of this track.
      const own = args.map((a) =>
        a.replace(/^-(c|b):a$/, `-$1:a:${k}`).replace(/^-sample_fmt$/, `-sample_fmt:a:${k}`),
      );
      out.push('-map', `1:a:${k}`, ...own);
    });
  const text = SUBTITLES[format.muxer];
  if (text) for (const { track } of subtitles) out.push('-map', `1:s:${track}`);
  if (text && subtitles.length > 0) out.push('-c:s', text);
  return out;
}

/** The time code so many frames later; of drop-frame codes frames 0 and 1 of most minutes are left out (SMPTE 12M). */
export function timecodeAfter(timecode: string, frames: number, fps: number): string {
  const [h, m, s, f] = timecode.split(/[:;.]/).map(Number);
  const rate = Math.round(fps);
  const drop = /[;.]/.test(timecode) ? Math.round(rate / 15) : 0;
  const minutes = 60 * h + m;
  let n = (3600 * h + 60 * m + s) * rate + f - drop * (minutes - Math.floor(minutes / 10)) + frames;
  const inTen = 600 * rate - 9 * drop;
  const inMinute = 60 * rate - drop;
  if (drop > 0) {
    const [tens, rest] = [Math.floor(n / inTen), n % inTen];
    n += 9 * drop * tens + (rest >= drop ? drop * Math.floor((rest - drop) / inMinute) : 0);
  }
  const two = (v: number) => String(v).padStart(2, '0');
  const seconds = Math.floor(n / rate);
  const parts = [Math.floor(seconds / 3600) % 24, Math.floor(seconds / 60) % 60, seconds % 60].map(two);
  return `${parts.join(':')}${drop > 0 ? ';' : ':'}${two(n % rate)}`;
}
