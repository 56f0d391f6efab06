import { spawn, type ChildProcess } from 'node:child_process';
import { access, chmod, constants } from 'node:fs/promises';
import { createRequire } from 'node:module';
import type { Socket } from 'node:net';
import { basename, delimiter, join } from 'node:path';
import { LurnError, stoppedError } from '@lurn/core';
import { toolEnvironment } from './tool-environment.js';

/** Finding and running ffmpeg and ffprobe: those on PATH, else those that came with the npm packages. */

const require = createRequire(import.meta.url);
const found = new Map<string, Promise<string>>();

export function ffmpegPath(): Promise<string> {
  return locate('ffmpeg', 'LURN_FFMPEG', '@ffmpeg-installer/ffmpeg');
}

export function ffprobePath(): Promise<string> {
  return locate('ffprobe', 'LURN_FFPROBE', '@ffprobe-installer/ffprobe');
}

function locate(name: string, variable: string, packageName: string): Promise<string> {
  let path = found.get(name);
  if (!path) {
    path = search(name, process.env[variable], packageName);
    found.set(name, path);
  }
  return path;
}

async function search(name: string, preset: string | undefined, packageName: string): Promise<string> {
  const places = (process.env.PATH ?? '').split(delimiter).map((folder) => join(folder, name));
  for (const place of preset ? [preset] : places) if (await runnable(place)) return place;
  try {
    const { path } = require(packageName) as { path: string };
    if (!(await runnable(path))) await chmod(path, 0o755);
    return path;
  } catch {
    throw new LurnError(
      'no-ffmpeg',
      `${name} was found neither on PATH nor in ${packageName}. Run "npm ci" again.`,
    );
  }
}

async function runnable(path: string): Promise<boolean> {
  return access(path, constants.X_OK).then(
    () => true,
    () => false,
  );
}

/** Demuxers that read one local file and nothing that it names: neither playlists nor lists of other files. */
const LOCAL_DEMUXERS = [
  'mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpegts,mpeg,mpegvideo,mxf,mxf_d10,flv,live_flv,asf,ogg,rm,nut,gxf,dv,wtv',
  'h264,hevc,av1,obu,ivf,m4v,h261,h263,vc1,yuv4mpegpipe,dirac,mjpeg,mjpeg_2000,rawvideo,dnxhd,cavsvideo,swf',
  'aac,ac3,eac3,aiff,amr,ape,au,caf,dts,flac,mp3,w64,wav,wv,tta,gsm',
  'image2,apng,gif,png_pipe,jpeg_pipe,jpegls_pipe,webp_pipe,tiff_pipe,bmp_pipe,exr_pipe,dpx_pipe,j2k_pipe,ppm_pipe',
  'pgm_pipe,pam_pipe,psd_pipe,sgi_pipe,svg_pipe,qdraw_pipe,pcx_pipe,dds_pipe,pictor_pipe,sunrast_pipe,xpm_pipe',
].join(',');

/** Input options that keep a tool to the file it is given, whatever a playlist or reference in it may say. */
export const LOCAL_ONLY = ['-protocol_whitelist', 'file,pipe', '-format_whitelist', LOCAL_DEMUXERS];

/** A path that ffmpeg cannot mistake for an option or another protocol. */
export function asFile(path: string): string {
  return `file:${path}`;
}

/** Written by a command that ends the tool when whoever started it is gone, however that came about. */
const LIFELINE = [
  // A command in the background has no input but what it is given under another number.
  'exec 4<&0 </dev/null',
  '"$@" <&4 3<&- 4<&- & tool=$!',
  'exec 4<&-',
  '(read -r end <&3; kill -9 $tool) >/dev/null 2>&1 & line=$!',
  'wait $tool; status=$?',
  'kill -9 $line 2>/dev/null; exit $status',
].join('\n');
/** Where there is a shell to hold it. */
const LIFELINES = process.platform !== 'win32';

/** Exit codes of a shell whose command was ended by a signal: those of crashes, and of {@link RunningTool.kill}. */
const CRASHED = [4, 6, 7, 8, 9, 11].map((signal) => 128 + signal);

/**
 * Starts a tool with its arguments as they are. It ends when this process or thread does: its lifeline is a pipe that
 * closes then. Its standard error is kept (the last 16 kB) for {@link toolError}.
 */
export async function startTool(
  path: Promise<string>,
  args: readonly string[],
  signal?: AbortSignal,
  onErrorLine?: (line: string) => void,
): Promise<RunningTool> {
  const place = await path;
  const options = { windowsHide: true, env: toolEnvironment(place) };
  const child = LIFELINES
    ? spawn('/bin/sh', ['-c', LIFELINE, 'lurn', place, ...args], {
        ...options,
        stdio: ['pipe', 'pipe', 'pipe', 'pipe'],
        detached: true,
      })
    : spawn(place, args, { ...options, stdio: ['pipe', 'pipe', 'pipe'] });
  (child.stdio[3] as Socket | undefined)?.on('error', () => undefined);
  return new RunningTool(child, signal, onErrorLine);
}

export class RunningTool {
  private tail = '';
  /** Settles when the process has ended and its streams are closed: its exit code, or null when killed. */
  readonly ended: Promise<number | null>;
  private readonly onAbort = () => this.kill();

  constructor(
    readonly child: ChildProcess,
    private readonly signal?: AbortSignal,
    onErrorLine?: (line: string) => void,
  ) {
    let rest = '';
    child.stderr!.setEncoding('utf8').on('data', (text: string) => {
      this.tail = (this.tail + text).slice(-16384);
      if (!onErrorLine) return;
      const lines = (rest + text).split('\n');
      rest = lines.pop()!;
      lines.forEach(onErrorLine);
    });
    child.stdin!.on('error', () => undefined); // a process that ends early is judged by its exit code
    this.ended = new Promise((resolve, reject) => {
      child.on('error', reject);
      child.on('close', (code) => {
        signal?.removeEventListener('abort', this.onAbort);
        resolve(LIFELINES && code !== null && CRASHED.includes(code) ? null : code);
      });
    });
    this.ended.catch(() => undefined);
    if (signal?.aborted) this.kill();
    else signal?.addEventListener('abort', this.onAbort, { once: true });
  }

  kill(): void {
    const { pid, exitCode, signalCode } = this.child;
    if (pid === undefined || exitCode !== null || signalCode !== null) return;
    try {
      // The shell, the tool and its lifeline are a group of their own.
      if (LIFELINES) process.kill(-pid, 'SIGKILL');
      else this.child.kill('SIGKILL');
    } catch {
      // It has ended meanwhile.
    }
  }

  get errorText(): string {
    return this.tail;
  }

  /** Waits for the end. @throws LurnError `stopped`, `disk-full` or `code` when it did not end well. */
  async succeed(code: string, doing: string): Promise<void> {
    const status = await this.ended;
    if (this.signal?.aborted) throw stoppedError(doing);
    if (status !== 0) throw toolError(code, doing, this.tail);
  }
}

/** An error in words from what a tool wrote to its standard error. */
export function toolError(code: string, doing: string, text: string): LurnError {
  if (/No space left on device/i.test(text)) {
    return new LurnError('disk-full', `${doing} stopped: the disk is full. Free some space and try again.`);
  }
  const last = text
    .trim()
    .split('\n')
    .map((line) => withoutFolders(line.replace(/^\[[^\]]*\]\s*/, '').trim()))
    .filter((line) => line && !/^(frame=|size=|Conversion failed)/.test(line))
    .pop();
  return new LurnError(code, `${doing} failed: ${last ?? 'ffmpeg ended without saying why'}.`);
}

/** A message with the names of files, but not where they lie on this machine. */
function withoutFolders(line: string): string {
  return line.replace(/(?:file:)?(?:\/[^\s/:'"]+)+\/([^\s/:'"]+)/g, '$1');
}

export interface ToolLimits {
  /** The longest it may run. */
  readonly seconds: number;
  /** The most it may print, in bytes; 64 MB when left out. */
  readonly bytes?: number;
  readonly signal?: AbortSignal;
}

export interface ToolOutput {
  readonly status: number | null;
  readonly stdout: string;
  readonly stderr: string;
}

/**
 * Runs a tool to its end and returns what it printed.
 *
 * @throws LurnError `too-slow` past the time, `too-much-output` past the bytes, `stopped` at the signal, `tool-crashed`
 *         when something else ended it.
 */
export async function runTool(
  path: Promise<string>,
  args: readonly string[],
  limits: ToolLimits,
): Promise<ToolOutput> {
  const tool = await startTool(path, args, limits.signal);
  tool.child.stdin!.end();
  const chunks: Buffer[] = [];
  let bytes = 0;
  let fault: LurnError | null = null;
  const stop = (error: LurnError) => {
    fault ??= error;
    tool.kill();
  };
  const timer = setTimeout(
    () => stop(new LurnError('too-slow', `ffmpeg took longer than ${limits.seconds} s and was stopped.`)),
    limits.seconds * 1000,
  );
  tool.child.stdout!.on('data', (chunk: Buffer) => {
    chunks.push(chunk);
    bytes += chunk.length;
    if (bytes > (limits.bytes ?? 64e6))
      stop(new LurnError('too-much-output', 'ffmpeg printed more than it should.'));
  });
  const status = await tool.ended.finally(() => clearTimeout(timer));
  if (limits.signal?.aborted) throw stoppedError();
  if (fault) throw fault as LurnError;
  if (status === null) {
    throw new LurnError(
      'tool-crashed',
      `${basename(await path)} crashed. Install ffmpeg so that it is found on PATH, or name another with LURN_FFMPEG and LURN_FFPROBE.`,
    );
  }
  return { status, stdout: Buffer.concat(chunks).toString('utf8'), stderr: tool.errorText };
}
