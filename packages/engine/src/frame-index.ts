import { basename } from 'node:path';
import { LurnError, stoppedError } from '@lurn/core';
import { planeOver, type Plane } from '@lurn/core/picture';
import type { ClipInfo } from '@lurn/model';
import { brokenFrames, isComplaint, namedStretches, type BrokenStretch } from './broken-frames.js';
import { FrameStream } from './frame-stream.js';
import type { Gate } from './gate.js';
import { probeFile, ratio, unreadable, uprightSize, type StreamFacts } from './probe.js';
import { everyFrame } from './quirks.js';
import { asFile, ffmpegPath, ffprobePath, LOCAL_ONLY, runTool, startTool } from './tools.js';

/** A clip's frames as ffmpeg decodes them: the one numbering that browser, server and command line share. */
export interface IndexedClip {
  readonly info: ClipInfo;
  /** Seconds of each frame from frame 0, in presentation order. */
  readonly times: Float64Array;
  /** True when a browser that decodes the codec shows the same frames straight from the file. */
  readonly direct: boolean;
  /** True when what was to be made beside it on the way has been made. */
  readonly beside: boolean;
}

/** Codecs and pixel formats that browsers decode as they are, in containers that the web side reads. */
const BROWSER_CODECS: Record<string, readonly string[]> = {
  h264: ['yuv420p', 'yuvj420p'],
  vp8: ['yuv420p'],
  vp9: ['yuv420p'],
  av1: ['yuv420p'],
};
const BROWSER_CONTAINERS = /mp4|mov|matroska|webm/;

/** As many samples of luma are enough to see how a picture moves. */
const FEW_SAMPLES = 480 * 270;
/** From so many frames on a clip is long. */
const LONG = 5000;

/** Something else that is made of the clip in the same pass. */
export interface Sideline {
  /** What of the clip it is made of. */
  readonly of: 'pictures' | 'sound';
  /** Its filters, for pictures; every frame reaches them. */
  readonly filter?: string;
  /** True when it is made of full pictures also where smaller ones are at hand. */
  readonly full?: boolean;
  /** Options and file of its output. */
  readonly output: readonly string[];
}

/** What is made of a clip in the pass that indexes it. */
export interface Beside {
  readonly sidelines: readonly Sideline[];
  /** Filters that make large pictures smaller once for all that needs no large ones. */
  readonly shrink?: string;
  /** Samples of the luma that is looked at, at the most. */
  readonly samples?: number;
}

/** A clip by what its container tells: what it will most likely turn out to be once every frame has been decoded. */
export type ToldClip = Omit<IndexedClip, 'beside'>;

export interface IndexOptions {
  readonly name?: string;
  readonly signal?: AbortSignal;
  /**
   * Is shown each frame's luma on the way, in reduced size; what it is given is overwritten by the next frame, which
   * waits for it.
   */
  readonly look?: (luma: Plane, frame: number) => void | Promise<void>;
  /** What else is made on the way. @param plays  whether browsers play the clip, as far as its container tells */
  readonly beside?: (facts: StreamFacts, plays: boolean) => Promise<Beside>;
  /** Is told what the container says, where that is complete, long before the last frame is decoded. */
  readonly onTold?: (told: ToldClip) => void;
  /** Lines of what ffmpeg says on the way. */
  readonly onLine?: (line: string) => void;
  /** Where reading can be held up: ffmpeg stands still when nobody takes its pictures. */
  readonly gate?: Gate;
}

/**
 * Builds the frame index by decoding the whole file once, exactly as rendering will.
 *
 * @throws LurnError as {@link probeFile} does, and `no-frames` when nothing can be decoded.
 */
export async function indexClip(path: string, options: IndexOptions = {}): Promise<IndexedClip> {
  const { name = basename(path), signal, look, onTold } = options;
  const facts = await probeFile(path, name, signal);
  const plays = mayPlay(facts);
  const beside = (await options.beside?.(facts, plays)) ?? { sidelines: [] };
  const reading = readPackets(path, facts, signal);
  // What comes to light after reading has failed is told to nobody.
  let failed = false;
  const early = (packets: readonly Packet[]) => {
    if (onTold && !failed) tell(facts, packets, onTold);
  };
  reading.then(early, () => undefined);
  // Of a long clip it is first found out what it is, with all that the machine has: then it can be opened.
  if (facts.expected > LONG) await reading.catch(() => undefined);
  const both = Promise.all([reading, decodeAll(path, facts, look, beside, signal, options)]);
  const [packets, first] = await both.catch((error: unknown) => {
    failed = true;
    throw error;
  });
  // What could not be written must not pass for a clip that is cut off: it is read once more, for itself.
  const spoilt = first.status !== 0 && beside.sidelines.length > 0;
  const { stamps: told, errors } = spoilt
    ? await decodeAll(path, facts, undefined, { sidelines: [] }, signal)
    : first;
  const stamps = increasingStamps(told, ratio(facts.rate, '/') || 25);
  if (stamps.length === 0) {
    throw errors
      ? unreadable(name, errors)
      : new LurnError('no-frames', `"${name}" has no frame that can be decoded.`);
  }
  const wanted = packets.filter((p) => !p.discarded);
  const keys = packets.filter((p) => p.key && Number.isFinite(p.stamp)).map((p) => p.stamp);
  // What the container does not tell is found out by decoding once more: only where there was a complaint.
  const broken = errors ? await brokenFrames(path, facts, stamps, keys, signal) : [];
  const warning = warningFor(name, wanted.length, stamps.length, errors, broken);
  const direct =
    plays &&
    packets.length === stamps.length &&
    packets.every((p) => !p.discarded) &&
    warning === null &&
    told.every((t, i) => t === stamps[i]);
  const { info, times } = clipOf(facts, stamps, warning);
  const damaged = broken.length > 0 ? { damaged: broken } : {};
  return { info: { ...info, ...damaged }, times, direct, beside: !spoilt };
}

/** What a clip's container says of it; null where that is not complete. @throws LurnError as {@link probeFile} does */
export async function toldOf(
  path: string,
  name = basename(path),
): Promise<{ readonly facts: StreamFacts; readonly plays: boolean; readonly told: ToldClip } | null> {
  const facts = await probeFile(path, name);
  let told: ToldClip | null = null;
  tell(facts, await readPackets(path, facts), (clip) => (told = clip));
  return told && { facts, plays: mayPlay(facts), told };
}

function clipOf(facts: StreamFacts, stamps: readonly number[], warning: string | null) {
  const times = Float64Array.from(stamps, (t) => t - stamps[0]);
  return { info: describe(facts, stamps, times, warning), times };
}

/** Tells of a clip whose packets all have a time of their own and are all to be shown. */
function tell(facts: StreamFacts, packets: readonly Packet[], onTold: (told: ToldClip) => void): void {
  const stamps = packets.map((p) => p.stamp).sort((a, b) => a - b);
  const clear =
    packets.length > 0 &&
    packets.every((p) => !p.discarded && Number.isFinite(p.stamp)) &&
    stamps.every((t, i) => i === 0 || t > stamps[i - 1]);
  if (clear) onTold({ ...clipOf(facts, stamps, null), direct: mayPlay(facts) });
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

function warningFor(
  name: string,
  packets: number,
  frames: number,
  errors: string,
  broken: readonly BrokenStretch[],
): string | null {
  const which = broken.length > 0 ? ` What is seen on ${namedStretches(broken)} is damaged.` : '';
  if (packets > frames && /Invalid|error|corrupt|partial|truncat/i.test(errors)) {
    return `"${name}" is damaged or cut off: ${frames} of ${packets} frames could be read. Those can be worked on.${which}`;
  }
  if (/partial file|truncat/i.test(errors)) {
    return `"${name}" is cut off: ${frames} frames could be read. Those can be worked on.${which}`;
  }
  return which ? `"${name}":${which} Tracks are carried over it; check them there.` : null;
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
  return {
    ...uprightSize(facts),
    pixelAspect: facts.turns % 2 === 0 ? facts.pixelAspect : 1 / facts.pixelAspect,
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

interface Packet {
  /** True for one that stands by itself. */
  readonly key: boolean;
  readonly discarded: boolean;
  /** Its time in the file, in seconds; NaN where it has none. */
  readonly stamp: number;
}

async function readPackets(path: string, { stream }: StreamFacts, signal?: AbortSignal): Promise<Packet[]> {
  const { stdout } = await runTool(
    ffprobePath(),
    [
      ...[...LOCAL_ONLY, '-v', 'error', '-select_streams', String(stream)],
      ...['-show_entries', 'packet=pts,flags:stream=time_base', '-of', 'compact=nk=0', asFile(path)],
    ],
    { seconds: 600, signal },
  );
  const lines = stdout.split('\n');
  const base = /time_base=(\d+)\/(\d+)/.exec(lines.find((line) => line.startsWith('stream')) ?? '');
  const unit = base ? Number(base[1]) / Number(base[2]) : NaN;
  return lines
    .filter((line) => line.startsWith('packet'))
    .map((line) => ({
      key: /flags=[^|]*K/.test(line),
      discarded: /flags=[^|]*D/.test(line),
      stamp: Number(/pts=(-?\d+)/.exec(line)?.[1] ?? NaN) * unit,
    }));
}

/** Several outputs of one decoding, every frame in each of them that is of pictures. */
async function outputs(stream: number, { sidelines: all, shrink }: Beside): Promise<string[]> {
  const pictures = all.filter((s) => s.of === 'pictures');
  const names = pictures.map((_, k) => `[in${k}]`);
  const into = (of: (s: Sideline) => boolean) => names.filter((_, k) => of(pictures[k]));
  const split = (to: readonly string[]) => `split=${to.length}${to.join('')}`;
  const first = `[0:${stream}]showinfo=checksum=0`;
  const graph = [
    ...(shrink
      ? [
          `${first},${split([...into((s) => s.full === true), '[small]'])}`,
          `[small]${shrink},${split(into((s) => s.full !== true))}`,
        ]
      : [`${first},${split(names)}`]),
    ...pictures.map(({ filter }, k) => `${names[k]}${filter}[out${k}]`),
  ];
  const every = await everyFrame();
  return [
    ...['-filter_complex', graph.join(';')],
    ...pictures.flatMap(({ output }, k) => ['-map', `[out${k}]`, ...every, ...output]),
    ...all.filter((s) => s.of === 'sound').flatMap(({ output }) => ['-map', '0:a:0', ...output]),
  ];
}

/** Decodes every frame: its time stamp in seconds, from the filter `showinfo`, and a small luma plane. */
async function decodeAll(
  path: string,
  facts: StreamFacts,
  look: IndexOptions['look'],
  beside: Beside,
  signal?: AbortSignal,
  { onLine, gate }: Pick<IndexOptions, 'onLine' | 'gate'> = {},
): Promise<{ stamps: number[]; errors: string; status: number | null }> {
  const { width: w, height: h } = uprightSize(facts);
  const scale = Math.min(1, Math.sqrt((beside.samples ?? FEW_SAMPLES) / (w * h)));
  const width = Math.max(16, Math.round((w * scale) / 2) * 2);
  const height = Math.max(16, Math.round((h * scale) / 2) * 2);
  const small: Sideline = {
    of: 'pictures',
    filter: `scale=${width}:${height}:flags=area,format=gray`,
    output: ['-f', 'rawvideo', 'pipe:1'],
  };
  const args = [
    ...['-y', '-hide_banner', '-nostats', '-loglevel', 'info', ...LOCAL_ONLY, '-i', asFile(path)],
    ...(await outputs(facts.stream, { ...beside, sidelines: [small, ...beside.sidelines] })),
  ];
  const stamps: number[] = [];
  let base = 0;
  let errors = '';
  let first: string | undefined;
  let changed: { frame: number; from: string; to: string } | null = null;
  const hear = (line: string) => {
    if (line.includes('showinfo')) {
      const tb = /config in time_base: (\d+)\/(\d+)/.exec(line);
      if (tb) base = Number(tb[1]) / Number(tb[2]);
      const pts = /\bn: *\d+ pts: *(-?\d+|NOPTS)/.exec(line);
      // What is decoded is told from the file's earliest stream on.
      if (pts) stamps.push(pts[1] === 'NOPTS' ? NaN : Number(pts[1]) * base + facts.fileStart);
      const size = /\bs:(\d+x\d+)/.exec(line)?.[1];
      if (size && first && size !== first && !changed)
        changed = { frame: stamps.length - 1, from: first, to: size };
      first ??= size;
      return;
    }
    onLine?.(line);
    if (isComplaint(line)) {
      errors = (errors + line + '\n').slice(-8192);
    }
  };
  const tool = await startTool(ffmpegPath(), args, signal, hear);
  tool.child.stdin!.end();
  const reader = new FrameStream(tool.child.stdout!, width * height);
  const buffer = new Uint8Array(width * height);
  for (let frame = 0; await reader.read(buffer); frame++) {
    await look?.(planeOver(buffer, width, height), frame);
    await gate?.pass();
  }
  const status = await tool.ended;
  if (signal?.aborted) throw stoppedError('Reading the clip');
  if (changed) throw changingSize(changed);
  return { stamps, errors, status };
}

function changingSize({ frame, from, to }: { frame: number; from: string; to: string }): LurnError {
  return new LurnError(
    'changing-size',
    `The clip changes its size at frame ${frame}, from ${from} to ${to}. Make one of a single size first: lurn conform.`,
    { frame },
  );
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
