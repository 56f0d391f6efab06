import { stoppedError } from '@lurn/core';
import type { StreamFacts } from './probe.js';
import { asFile, ffmpegPath, LOCAL_ONLY, startTool } from './tools.js';

/** Frames, both included. */
export interface BrokenStretch {
  readonly from: number;
  readonly to: number;
}

const PACKET = /^demuxer -> ist_index:(\d+) type:video\b.*?\bpkt_pts_time:(-?[\d.]+|NOPTS)/;
const COMPLAINT = /error while decoding|concealing|invalid|corrupt|missing|damaged|out of range|overread|illegal|unavailable/i; // prettier-ignore

/** What ffmpeg says of files and settings, which may have any word in it. */
const SETTING = /^(\s|Input #|Output #|Using -vsync|\[[^\]]*\] Opening ')/;

/** True where ffmpeg says that something is wrong with what it reads or writes: the clip is looked at more closely then. */
export function isComplaint(line: string): boolean {
  return /error|invalid|corrupt|partial|truncat|no space/i.test(line) && !SETTING.test(line);
}

/**
 * The frames whose pictures the decoder complains about, each with those that are predicted from it: up to the next
 * frame that stands by itself. The file is decoded once more, by one thread: so what is said belongs to the packet before.
 *
 * @param stamps  file time of each frame, in seconds
 * @param keys    file times of the frames that stand by themselves, in seconds
 */
export async function brokenFrames(
  path: string,
  { stream }: Pick<StreamFacts, 'stream'>,
  stamps: readonly number[],
  keys: readonly number[],
  signal?: AbortSignal,
): Promise<BrokenStretch[]> {
  const told = new Set<number>();
  let packet = NaN;
  const hear = (line: string) => {
    const found = PACKET.exec(line);
    if (found && Number(found[1]) === stream) packet = found[2] === 'NOPTS' ? NaN : Number(found[2]);
    else if (!found && Number.isFinite(packet) && COMPLAINT.test(line)) told.add(packet);
  };
  const args = [
    ...['-hide_banner', '-nostats', '-loglevel', 'info', '-debug_ts', ...LOCAL_ONLY, '-threads', '1'],
    ...['-i', asFile(path), '-map', `0:${stream}`, '-f', 'null', '-'],
  ];
  const tool = await startTool(ffmpegPath(), args, signal, hear);
  tool.child.stdin!.end();
  tool.child.stdout!.resume();
  await tool.ended;
  if (signal?.aborted) throw stoppedError('Reading the clip');
  return stretchesOf([...told], stamps, keys);
}

/** Each frame that is told of, up to the next that stands by itself; those that touch are one stretch. */
export function stretchesOf(
  told: readonly number[],
  stamps: readonly number[],
  keys: readonly number[],
): BrokenStretch[] {
  const frameAt = (time: number) => {
    const at = stamps.findIndex((s) => s >= time - 1e-4);
    return at < 0 ? stamps.length - 1 : at;
  };
  const starts = keys.map(frameAt).sort((a, b) => a - b);
  const out: { from: number; to: number }[] = [];
  for (const from of told.map(frameAt).sort((a, b) => a - b)) {
    const next = starts.find((k) => k > from) ?? stamps.length;
    const last = out[out.length - 1];
    if (last && from <= last.to + 1) last.to = Math.max(last.to, next - 1);
    else out.push({ from, to: next - 1 });
  }
  return out;
}

/** "frame 41", "frames 41 to 59 and 80 to 99". */
export function namedStretches(list: readonly BrokenStretch[]): string {
  const parts = list.map(({ from, to }) => (from === to ? `${from}` : `${from} to ${to}`));
  const said = parts.length > 5 ? [...parts.slice(0, 5), 'others'] : parts;
  const many = list.length > 1 || list.some((s) => s.to > s.from);
  const words = said.length > 1 ? `${said.slice(0, -1).join(', ')} and ${said[said.length - 1]}` : said[0];
  return `${many ? 'frames' : 'frame'} ${words}`;
}
