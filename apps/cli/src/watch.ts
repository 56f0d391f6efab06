import { appendFile, mkdir, readdir, readFile, stat, writeFile } from 'node:fs/promises';
import { basename, extname, join, resolve } from 'node:path';
import { LurnError, stoppedError } from '@lurn/core';
import { formatById } from '@lurn/engine';
import { csvFormatRows, csvParse } from 'd3-dsv';
import type { SteadyArguments } from './arguments/index.js';
import { steadyCommand } from './steady.js';
import type { Surroundings } from './surroundings.js';

export interface WatchArguments {
  readonly kind: 'watch';
  /** The folder in which clips appear. */
  readonly folder: string;
  /** Where the files go, and the report. */
  readonly out: string;
  readonly goal: 'still' | 'calm';
  /** The id of a format. */
  readonly format: string;
  readonly crf: number;
  /** Does what is there, and ends. */
  readonly once: boolean;
  readonly json: boolean;
}

const CLIPS = /\.(mp4|mov|m4v|mkv|webm|avi|mxf|mts|m2ts|ts|mpg|mpeg)$/i;
/** How often it is looked; a file is taken once it has been as large for so many looks, in milliseconds. */
const [LOOK_MS, STILL_LOOKS] = [1_000, 2];
const REPORT = 'report.csv';
const COLUMNS = ['finished', 'file', 'bytes', 'result', 'frames_edges', 'shake_before_px', 'shake_after_px', 'zoom', 'seconds', 'out', 'message']; // prettier-ignore

/**
 * Steadies and renders every clip that appears in a folder, by its surroundings, and writes what came of each into a
 * report. What stands in the report already is not done again, unless the file has become another.
 *
 * @throws LurnError `bad-output` where a folder is missing, `stopped`
 */
export async function watchCommand(args: WatchArguments, io: Surroundings): Promise<object> {
  const [folder, out] = [resolve(args.folder), resolve(args.out)];
  if (folder === out)
    throw new LurnError('bad-output', `--out ${args.out} is the folder that is watched. Name another.`);
  if (!(await isFolder(folder))) throw new LurnError('missing-file', `There is no folder ${args.folder}.`);
  await mkdir(out, { recursive: true });
  const done = await reported(out);
  const sizes = new Map<string, { bytes: number; looks: number }>();
  const counts = { done: 0, failed: 0 };
  for (;;) {
    const names = (await readdir(folder)).filter((n) => CLIPS.test(n) && !n.startsWith('.')).sort();
    for (const name of names) {
      if (io.signal.aborted) throw stoppedError();
      const { size: bytes } = await stat(join(folder, name)).catch(() => ({ size: -1 }));
      if (bytes < 0 || done.has(`${name} ${bytes}`)) continue;
      const before = sizes.get(name);
      const looks = before?.bytes === bytes ? before.looks + 1 : 1;
      sizes.set(name, { bytes, looks });
      // What is still being copied in grows.
      if (looks < (args.once ? 1 : STILL_LOOKS) || bytes === 0) continue;
      const ok = await one(args, { folder, out, name, bytes }, io);
      counts[ok ? 'done' : 'failed']++;
      done.add(`${name} ${bytes}`);
    }
    if (args.once) return { ...counts, report: join(args.out, REPORT) };
    await pause(io);
  }
}

async function one(
  args: WatchArguments,
  { folder, out, name, bytes }: { folder: string; out: string; name: string; bytes: number },
  io: Surroundings,
): Promise<boolean> {
  const { extension } = formatById(args.format);
  const stem = basename(name, extname(name));
  const file = `${stem} steady.${extension}`;
  const start = Date.now();
  const row: Record<string, string | number> = { file: name, bytes };
  try {
    const told = (await steadyCommand(
      steadyFor(args, join(folder, name), join(out, file), join(out, `${stem} motion.json`)),
      io,
    )) as Record<string, number>;
    const { edge_frames, shake_before_px, shake_after_px, zoom } = told;
    Object.assign(row, {
      ...{ result: 'done', frames_edges: edge_frames, out: file },
      ...{ shake_before_px: shake_before_px.toFixed(3), shake_after_px: shake_after_px.toFixed(3) },
      zoom: zoom.toFixed(4),
    });
  } catch (error) {
    if (error instanceof LurnError && error.code === 'stopped') throw error;
    Object.assign(row, { result: 'failed', message: (error as Error).message });
  }
  row.finished = new Date().toISOString();
  row.seconds = ((Date.now() - start) / 1000).toFixed(1);
  await report(out, row);
  io.err(`lurn: ${name}: ${row.result}${row.message ? `, ${row.message}` : ''}\n`);
  return row.result === 'done';
}

function steadyFor(args: WatchArguments, clip: string, out: string, motion: string): SteadyArguments {
  const { goal, format, crf } = args;
  return {
    ...{ kind: 'steady', clip, out, motion, goal, format, crf },
    ...{ marks: null, tracks: null, auto: true, hold: null, rowByRow: false, ref: 0, from: null, to: null },
    ...{ use: { x: 1, y: 1, rotation: 1, scale: 1 }, perspective: true, smooth: 1, maxZoom: null },
    ...{ edges: 'colour', compare: null, fitZoom: true, json: false },
  };
}

async function report(out: string, row: Readonly<Record<string, string | number>>): Promise<void> {
  const path = join(out, REPORT);
  const there = await stat(path).catch(() => null);
  if (!there) await writeFile(path, `${csvFormatRows([COLUMNS])}\n`);
  // What begins like a formula is none in a table.
  const cell = (name: string) => String(row[name] ?? '').replace(/^[=+@-](?=\D)/, "'$&");
  await appendFile(path, `${csvFormatRows([COLUMNS.map(cell)])}\n`);
}

async function reported(out: string): Promise<Set<string>> {
  const text = await readFile(join(out, REPORT), 'utf8').catch(() => '');
  return new Set(csvParse(text).map((row) => `${row.file.replace(/^'(?=[=+@-])/, '')} ${row.bytes}`));
}

async function isFolder(path: string): Promise<boolean> {
  return stat(path).then(
    (s) => s.isDirectory(),
    () => false,
  );
}

async function pause({ signal }: Surroundings): Promise<void> {
  await new Promise<void>((resolve) => {
    const timer = setTimeout(resolve, LOOK_MS);
    signal.addEventListener('abort', () => {
      clearTimeout(timer);
      resolve();
    }, { once: true }); // prettier-ignore
  });
  if (signal.aborted) throw stoppedError();
}
