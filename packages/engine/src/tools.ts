import { spawn, type ChildProcess } from 'node:child_process';
import { access, chmod, constants } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { basename, delimiter, join } from 'node:path';
import { LurnError, stoppedError } from '@lurn/core';

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

let version: Promise<number> | null = null;

/** The major version of ffmpeg; 0 when its first line does not tell. */
export function ffmpegMajor(): Promise<number> {
  version ??= runTool(ffmpegPath(), ['-version'], { seconds: 20 }).then(({ stdout }) =>
    Number(/^ffmpeg version n?(\d+)\./.exec(stdout)?.[1] ?? 0),
  );
  return version;
}

/** "Pass every decoded frame on once", in the words that this ffmpeg knows. */
export async function everyFrame(): Promise<string[]> {
  return (await ffmpegMajor()) >= 6 ? ['-fps_mode', 'passthrough'] : ['-vsync', 'passthrough'];
}

/** Input options that keep ffmpeg to local files, whatever a playlist or reference in them may say. */
export const LOCAL_ONLY = ['-protocol_whitelist', 'file,pipe'];

/** A path that ffmpeg cannot mistake for an option or another protocol. */
export function asInput(path: string): string {
  return `file:${path}`;
}

/**
 * What a tool's process is given. The builds inside the npm packages are static: where a text has to be converted (the
 * service name of a transport stream), they load the machine's own conversion modules, which crash them. Pointed at a
 * folder that is not there, they leave such texts as they are.
 */
function toolEnvironment(path: string): NodeJS.ProcessEnv {
  const shipped = path.includes(join('node_modules', '@ff'));
  return shipped ? { ...process.env, GCONV_PATH: join(path, 'none') } : process.env;
}

/** Starts a tool without a shell. Its standard error is kept (the last 16 kB) for {@link toolError}. */
export async function startTool(
  path: Promise<string>,
  args: readonly string[],
  signal?: AbortSignal,
  onErrorLine?: (line: string) => void,
): Promise<RunningTool> {
  const place = await path;
  const child = spawn(place, args, {
    stdio: ['pipe', 'pipe', 'pipe'],
    windowsHide: true,
    env: toolEnvironment(place),
  });
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
        resolve(code);
      });
    });
    this.ended.catch(() => undefined);
    if (signal?.aborted) this.kill();
    else signal?.addEventListener('abort', this.onAbort, { once: true });
  }

  kill(): void {
    this.child.kill('SIGKILL');
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
    .map((line) => line.replace(/^\[[^\]]*\]\s*/, '').trim())
    .filter((line) => line && !/^(frame=|size=|Conversion failed)/.test(line))
    .pop();
  return new LurnError(code, `${doing} failed: ${last ?? 'ffmpeg ended without saying why'}.`);
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
