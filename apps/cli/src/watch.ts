import { appendFile, mkdir, readdir, readFile, rename, stat, writeFile } from 'node:fs/promises';
import { basename, extname, join, resolve } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { LurnError, stoppedError } from '@lurn/core';
import { csvSafe } from '@lurn/core/formats';
import { formatById } from '@lurn/engine';
import { csvFormatRows, csvParse } from 'd3-dsv';
import type { WatchArguments } from './arguments/folders.js';
import type { SteadyArguments } from './arguments/index.js';
import { steadyCommand } from './steady.js';
import type { Surroundings } from './surroundings.js';

const CLIPS = /\.(mp4|mov|m4v|mkv|webm|avi|mxf|mts|m2ts|ts|mpg|mpeg)$/i;
/** How often it is looked; a file is taken once it has been as large for so many looks, in milliseconds. */
const [LOOK_MS, STILL_LOOKS] = [1_000, 2];
const REPORT = 'report.csv';
const COLUMNS = ['finished', 'file', 'bytes', 'modified', 'result', 'again', 'frames_edges', 'shake_before_px', 'shake_after_px', 'zoom', 'seconds', 'out', 'message']; // prettier-ignore
/** What another try may mend, though the file is the same; and after how long it is tried, in milliseconds. */
const PASSING = ['disk-full', 'tool-crashed', 'thread-died', 'too-slow', 'encode-failed', 'missing-file', 'offline']; // prettier-ignore
const AGAIN_MS = 60_000;

/** A file as it lies there: another of the same name has been written since. */
interface Lying {
  readonly name: string;
  readonly bytes: number;
  readonly modified: string;
}

const stateOf = ({ name, bytes, modified }: Lying) => `${name} ${bytes} ${modified}`;

/**
 * Steadies and renders every clip that appears in a folder, by its surroundings, and writes what came of each into a
 * report. What stands there as done, or as a file that cannot be used, is not done again unless the file has changed;
 * what failed for want of something else is tried again.
 *
 * @throws LurnError `bad-output` where a folder is missing, `stopped`
 */
export async function watchCommand(args: WatchArguments, io: Surroundings): Promise<object> {
  const [folder, out] = [resolve(args.folder), resolve(args.out)];
  if (folder === out)
    throw new LurnError('bad-output', `--out ${args.out} is the folder that is watched. Name another.`);
  if (!(await isFolder(folder))) throw new LurnError('missing-file', `There is no folder ${args.folder}.`);
  await mkdir(out, { recursive: true });
  const { settled, owners } = await reported(out);
  /** Since how many looks each lies as it does, and when what failed is tried again. */
  const looks = new Map<string, { readonly state: string; readonly times: number }>();
  const later = new Map<string, number>();
  const counts = { done: 0, failed: 0 };
  let away = false;
  for (;;) {
    const files = await lyingIn(folder);
    if (!files && args.once) throw new LurnError('missing-file', `There is no folder ${args.folder}.`);
    if (!files !== away)
      io.err(`lurn: ${args.folder} is ${away ? 'there again' : 'gone: waiting for it'}.\n`);
    away = !files;
    for (const file of files ?? []) {
      if (io.signal.aborted) throw stoppedError();
      const state = stateOf(file);
      if (settled.has(state) || (later.get(state) ?? 0) > Date.now()) continue;
      const before = looks.get(file.name);
      const times = before?.state === state ? before.times + 1 : 1;
      looks.set(file.name, { state, times });
      // What is still being copied in grows, or is written to.
      if (times < (args.once ? 1 : STILL_LOOKS) || file.bytes === 0) continue;
      const { ok, again } = await one(args, { folder, out, file, ...outFor(args, file, owners) }, io);
      counts[ok ? 'done' : 'failed']++;
      if (again) later.set(state, Date.now() + AGAIN_MS);
      else settled.add(state);
    }
    if (args.once) return { ...counts, report: join(args.out, REPORT) };
    await setTimeout(LOOK_MS, undefined, { signal: io.signal }).catch(() => {
      throw stoppedError();
    });
  }
}

/** The clips of a folder; null while it is not there. */
async function lyingIn(folder: string): Promise<Lying[] | null> {
  const names = await readdir(folder).catch(() => null);
  if (!names) return null;
  const clips = names.filter((n) => CLIPS.test(n) && !n.startsWith('.')).sort();
  const found = await Promise.all(
    clips.map(async (name) => {
      const known = await stat(join(folder, name)).catch(() => null);
      return known && { name, bytes: known.size, modified: known.mtime.toISOString() };
    }),
  );
  return found.filter((f) => f !== null);
}

/** What comes of a file is called as it is; with its ending where that is another file's already. */
function outFor(
  { format }: WatchArguments,
  { name }: Lying,
  owners: Map<string, string>,
): { readonly made: string; readonly motion: string } {
  const { extension } = formatById(format);
  const madeOf = (stem: string) => `${stem} steady.${extension}`;
  const bare = basename(name, extname(name));
  const owner = owners.get(madeOf(bare)) ?? name;
  const stem = owner === name ? bare : name;
  owners.set(madeOf(stem), name);
  return { made: madeOf(stem), motion: `${stem} motion.json` };
}

async function one(
  args: WatchArguments,
  at: {
    readonly folder: string;
    readonly out: string;
    readonly file: Lying;
    readonly made: string;
    readonly motion: string;
  },
  io: Surroundings,
): Promise<{ readonly ok: boolean; readonly again: boolean }> {
  const { folder, out, file, made, motion } = at;
  const { name, bytes, modified } = file;
  const start = Date.now();
  const row: Record<string, string | number> = { file: name, bytes, modified };
  let again = false;
  try {
    const told = (await steadyCommand(
      steadyFor(args, join(folder, name), join(out, made), join(out, motion)),
      io,
    )) as Record<string, number>;
    const { edge_frames, shake_before_px, shake_after_px, zoom } = told;
    Object.assign(row, {
      ...{ result: 'done', frames_edges: edge_frames, out: made },
      ...{ shake_before_px: shake_before_px.toFixed(3), shake_after_px: shake_after_px.toFixed(3) },
      zoom: zoom.toFixed(4),
    });
  } catch (error) {
    if (error instanceof LurnError && error.code === 'stopped') throw error;
    again = !(error instanceof LurnError) || PASSING.includes(error.code);
    Object.assign(row, { result: 'failed', again: again ? 'yes' : '', message: (error as Error).message });
  }
  row.finished = new Date().toISOString();
  row.seconds = ((Date.now() - start) / 1000).toFixed(1);
  await report(out, row);
  io.err(`lurn: ${name}: ${row.result}${row.message ? `, ${row.message}` : ''}\n`);
  return { ok: row.result === 'done', again };
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
  const text = await readFile(path, 'utf8').catch(() => '');
  const head = csvFormatRows([COLUMNS]);
  // One of an earlier version has fewer columns: it is kept under another name.
  if (text && text.split('\n', 1)[0] !== head)
    await rename(path, join(out, `report until ${Date.now()}.csv`));
  if (!text.startsWith(head)) await writeFile(path, `${head}\n`);
  const cell = (name: string) => csvSafe(String(row[name] ?? ''));
  await appendFile(path, `${csvFormatRows([COLUMNS.map(cell)])}\n`);
}

/** What is not to be done again, and which file each result is of. */
async function reported(out: string): Promise<{ settled: Set<string>; owners: Map<string, string> }> {
  const rows = csvParse(await readFile(join(out, REPORT), 'utf8').catch(() => ''));
  const settled = new Set<string>();
  const owners = new Map<string, string>();
  for (const { file, bytes, modified, again, out: made } of rows) {
    const name = file.replace(/^'(?=[=+@-])/, '');
    if (!again) settled.add(stateOf({ name, bytes: Number(bytes), modified }));
    if (made) owners.set(made, name);
  }
  return { settled, owners };
}

async function isFolder(path: string): Promise<boolean> {
  return stat(path).then(
    (s) => s.isDirectory(),
    () => false,
  );
}
