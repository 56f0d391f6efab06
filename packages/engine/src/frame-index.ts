import { basename } from 'node:path';
import { LurnError, planeOver, stoppedError, type Plane } from '@lurn/core';
import type { ClipInfo } from '@lurn/model';
import { FrameStream } from './frame-stream.js';
import { copyFilter, copyOutput } from './working-copy.js';
import { thumbnailFilter, thumbnailOutput } from './thumbnail.js';
import { probeFile, ratio, unreadable, type StreamFacts } from './probe.js';
import { everyFrame } from './quirks.js';
import { asFile, ffmpegPath, ffprobePath, LOCAL_ONLY, runTool, startTool } from './tools.js';

/** A clip's frames as ffmpeg decodes them: the one numbering that browser, server and command line share. */
export interface IndexedClip {
  readonly info: ClipInfo;
  /** Seconds of each frame from frame 0, in presentation order. */
  readonly times: Float64Array;
  /** True when a browser that decodes the codec shows the same frames straight from the file. */
  readonly direct: boolean;
  /** True when a working copy was written on the way. */
  readonly copied: boolean;
}

/** Codecs and pixel formats that browsers decode as they are, in containers that the web side reads. */
const BROWSER_CODECS: Record<string, readonly string[]> = {
  h264: ['yuv420p', 'yuvj420p'],
  vp8: ['yuv420p'],
  vp9: ['yuv420p'],
  av1: ['yuv420p'],
};
const BROWSER_CONTAINERS = /mp4|mov|matroska|webm/;

/**
 * Builds the frame index by decoding the whole file once, exactly as rendering will.
 *
 * @param look  is shown each frame's luma, 480 pixels wide at the most, on the way (for thumbnail and shakiness);
 *              what it is given is overwritten by the next frame; with it how many frames there are about to be, null where the container does not tell
 * @throws LurnError as {@link probeFile} does, and `no-frames` when nothing can be decoded.
 */
export async function indexClip(
  path: string,
  options: {
    readonly name?: string;
    readonly signal?: AbortSignal;
    readonly look?: (luma: Plane, frame: number, expected: number | null, copying: boolean) => void;
    /** Where a JPEG of a frame from the first third goes, taken on the way. */
    readonly thumbnail?: string;
    /** Where a working copy goes, made on the way where the container tells already that one is needed. */
    readonly copy?: string;
  } = {},
): Promise<IndexedClip> {
  const { name = basename(path), signal, look, thumbnail } = options;
  const facts = await probeFile(path, name, signal);
  const copy = mayPlay(facts) ? undefined : options.copy;
  const shown = look && ((luma: Plane, frame: number) => look(luma, frame, facts.expected || null, !!copy));
  const [packets, first] = await Promise.all([
    readPackets(path, facts, signal),
    decodeAll(path, facts, shown, { thumbnail, copy }, signal),
  ]);
  // What could not be written must not pass for a clip that is cut off: it is read once more, for itself.
  const spoilt = first.status !== 0 && (thumbnail || copy);
  const { stamps: told, errors } = spoilt ? await decodeAll(path, facts, undefined, {}, signal) : first;
  const stamps = increasingStamps(told, ratio(facts.rate, '/') || 25);
  if (stamps.length === 0) {
    throw errors
      ? unreadable(name, errors)
      : new LurnError('no-frames', `"${name}" has no frame that can be decoded.`);
  }
  const times = Float64Array.from(stamps, (t) => t - stamps[0]);
  const wanted = packets.filter((p) => !p.discarded);
  const info = describe(facts, stamps, times, warningFor(name, wanted.length, stamps.length, errors));
  const direct =
    mayPlay(facts) &&
    packets.length === stamps.length &&
    packets.every((p) => !p.discarded) &&
    info.warning === null &&
    told.every((t, i) => t === stamps[i]);
  return { info, times, direct, copied: copy !== undefined && !spoilt };
}

/** True when browsers play such a stream, as far as its container tells. */
function mayPlay(facts: StreamFacts): boolean {
  return (
    (BROWSER_CODECS[facts.codec]?.includes(facts.pixelFormat) ?? false) &&
    BROWSER_CONTAINERS.test(facts.container) &&
    facts.codedWidth % 2 === 0 &&
    facts.codedHeight % 2 === 0 &&
    facts.videoStreams === 1
  );
}

function warningFor(name: string, packets: number, frames: number, errors: string): string | null {
  if (packets > frames && /Invalid|error|corrupt|partial|truncat/i.test(errors)) {
    return `"${name}" is damaged or cut off: ${frames} of ${packets} frames could be read. Those can be worked on.`;
  }
  if (/partial file|truncat/i.test(errors)) {
    return `"${name}" is cut off: ${frames} frames could be read. Those can be worked on.`;
  }
  return null;
}

function describe(
  facts: StreamFacts,
  stamps: readonly number[],
  times: Float64Array,
  warning: string | null,
): ClipInfo {
  const frames = times.length;
  const nominal = ratio(facts.rate, '/');
  const mean = frames > 1 ? (frames - 1) / times[frames - 1] : nominal || 25;
  const tolerance = Math.max(0.0015, 0.05 / (nominal || 25));
  const constant = nominal > 0 && times.every((t, i) => Math.abs(t - i / nominal) < tolerance);
  const fps = constant ? nominal : mean;
  const upright = facts.turns % 2 === 0;
  return {
    width: upright ? facts.codedWidth : facts.codedHeight,
    height: upright ? facts.codedHeight : facts.codedWidth,
    pixelAspect: upright ? facts.pixelAspect : 1 / facts.pixelAspect,
    turns: facts.turns,
    frames,
    stream: facts.stream,
    fps,
    rate: constant ? facts.rate : null,
    duration: times[frames - 1] + 1 / fps,
    codec: facts.codec,
    container: facts.container,
    pixelFormat: facts.pixelFormat,
    bitDepth: facts.bitDepth,
    colour: facts.colour,
    audio: facts.audio,
    startTime: stamps[0],
    fileStart: facts.fileStart,
    warning,
  };
}

async function readPackets(
  path: string,
  { stream }: StreamFacts,
  signal?: AbortSignal,
): Promise<{ discarded: boolean }[]> {
  const { stdout } = await runTool(
    ffprobePath(),
    [
      ...LOCAL_ONLY,
      '-v',
      'error',
      '-select_streams',
      String(stream),
      '-show_entries',
      'packet=flags',
      '-of',
      'csv=p=0',
      asFile(path),
    ],
    { seconds: 600, signal },
  );
  return stdout
    .split('\n')
    .filter((line) => line.trim() !== '')
    .map((flags) => ({ discarded: flags.includes('D') }));
}

interface Output {
  readonly filter: string;
  readonly output: readonly string[];
}

/** Several outputs of one decoding, every frame in each of them. */
async function outputs(stream: number, all: readonly Output[]): Promise<string[]> {
  const names = all.map((_, k) => `[in${k}]`);
  const graph = [
    `[0:${stream}]showinfo=checksum=0,split=${all.length}${names.join('')}`,
    ...all.map(({ filter }, k) => `${names[k]}${filter}[out${k}]`),
  ];
  const every = await everyFrame();
  return [
    ...['-filter_complex', graph.join(';')],
    ...all.flatMap(({ output }, k) => ['-map', `[out${k}]`, ...every, ...output]),
  ];
}

/** Decodes every frame: its time stamp in seconds, from the filter `showinfo`, and a small luma plane. */
async function decodeAll(
  path: string,
  facts: StreamFacts,
  look: ((luma: Plane, frame: number) => void) | undefined,
  { thumbnail, copy }: { readonly thumbnail?: string; readonly copy?: string },
  signal?: AbortSignal,
): Promise<{ stamps: number[]; errors: string; status: number | null }> {
  const upright = facts.turns % 2 === 0;
  const w = upright ? facts.codedWidth : facts.codedHeight;
  const h = upright ? facts.codedHeight : facts.codedWidth;
  const scale = Math.min(1, 480 / w);
  const width = Math.max(16, Math.round((w * scale) / 2) * 2);
  const height = Math.max(16, Math.round((h * scale) / 2) * 2);
  const args = [
    '-y',
    '-hide_banner',
    '-nostats',
    '-loglevel',
    'info',
    ...LOCAL_ONLY,
    '-i',
    asFile(path),
    ...(await outputs(facts.stream, [
      {
        filter: `scale=${width}:${height}:flags=area,format=gray`,
        output: ['-f', 'rawvideo', 'pipe:1'],
      },
      ...(thumbnail
        ? [{ filter: thumbnailFilter(Math.floor(facts.expected / 3)), output: thumbnailOutput(thumbnail) }]
        : []),
      ...(copy ? [{ filter: copyFilter({ ...facts, width: w, height: h }), output: copyOutput(copy) }] : []),
    ])),
  ];
  const stamps: number[] = [];
  let base = 0;
  let errors = '';
  const tool = await startTool(ffmpegPath(), args, signal, (line) => {
    if (line.includes('showinfo')) {
      const tb = /config in time_base: (\d+)\/(\d+)/.exec(line);
      if (tb) base = Number(tb[1]) / Number(tb[2]);
      const pts = /\bn: *\d+ pts: *(-?\d+|NOPTS)/.exec(line);
      if (pts) stamps.push(pts[1] === 'NOPTS' ? NaN : Number(pts[1]) * base);
    } else if (/error|invalid|corrupt|partial|truncat|no space/i.test(line)) {
      errors = (errors + line + '\n').slice(-8192);
    }
  });
  tool.child.stdin!.end();
  const reader = new FrameStream(tool.child.stdout!, width * height);
  const buffer = new Uint8Array(width * height);
  for (let frame = 0; await reader.read(buffer); frame++) look?.(planeOver(buffer, width, height), frame);
  const status = await tool.ended;
  if (signal?.aborted) throw stoppedError('Reading the clip');
  return { stamps, errors, status };
}

/**
 * Time stamps that grow from frame to frame. Where some are missing (raw streams) or all are the same, the rate tells;
 * frames that do not come after the one before are spread evenly up to the next that does.
 *
 * @param stamps  seconds as the file has them; NaN where it has none
 */
export function increasingStamps(stamps: readonly number[], fps: number): number[] {
  const known = stamps.every((t) => Number.isFinite(t));
  if (!known || !stamps.some((t) => t > stamps[0])) return stamps.map((_, i) => i / fps);
  const out = [...stamps];
  for (let i = 1; i < out.length; i++) {
    if (out[i] > out[i - 1]) continue;
    let next = i;
    while (next < out.length && !(stamps[next] > out[i - 1])) next++;
    const until = next < out.length ? stamps[next] : out[i - 1] + (next - i + 1) / fps;
    const step = (until - out[i - 1]) / (next - i + 1);
    for (let k = i; k < next; k++) out[k] = out[i - 1] + (k - i + 1) * step;
  }
  return out;
}
