import { LurnError } from '../errors.js';
import { readRows, writeRow } from './csv.js';

/** A note of a file: the frames that it is about, both included. */
export interface FileNote {
  readonly from: number;
  readonly to: number;
  readonly text: string;
}

export interface NotesFile {
  readonly notes: readonly FileNote[];
  /** The frames that a timeline shows of the clip; null where nothing of that is told. */
  readonly range: { readonly from: number; readonly to: number } | null;
  /** Frames on which it cuts to another place of the clip; and those that markers call so. */
  readonly cuts: readonly number[];
}

/** How a clip counts: the time of each frame, in seconds, and frames a second. */
export interface NotesClock {
  readonly times: ArrayLike<number>;
  readonly fps: number;
}

const bad = (why: string) => new LurnError('bad-notes', `The notes cannot be read: ${why}.`);
/** Times are told in thousandths: a frame begins within half of one of what is told. */
const ROUNDING = 6e-4;
const CUE = /^\s*((?:\d+:)?\d{1,2}:\d{2}[.,]\d{1,3})\s*-->\s*((?:\d+:)?\d{1,2}:\d{2}[.,]\d{1,3})/;

/**
 * Notes of a file of markers: SubRip or WebVTT cues, delimited text with a frame or a time and a text, or an
 * OpenTimelineIO timeline with its markers, its cuts, and the range that it shows.
 *
 * @throws LurnError `bad-notes` that says where and what is due
 */
export function readNotes(text: string, clock: NotesClock): NotesFile {
  const clean = text.replace(/^\uFEFF/, '');
  if (clean.trim() === '') throw bad('the file is empty');
  const found = clean.trimStart().startsWith('{')
    ? readTimeline(clean, clock)
    : {
        notes: clean.includes('-->') ? readCues(clean, clock) : readTable(clean, clock),
        range: null,
        cuts: [],
      };
  const last = clock.times.length - 1;
  const inside = found.notes
    .filter((n) => n.from <= last && n.to >= 0)
    .map(({ from, to, text: said }) => {
      const first = Math.max(0, from);
      return { from: first, to: Math.min(last, Math.max(first, to)), text: said };
    });
  const range = found.range && within(found.range, last);
  const cuts = [...new Set(found.cuts)].filter((c) => c > 0 && c <= last).sort((a, b) => a - b);
  if (inside.length === 0 && !range)
    throw bad(found.notes.length > 0 ? 'all of them lie beyond the end of the clip' : 'there is none in it');
  return { notes: inside.sort((a, b) => a.from - b.from || a.to - b.to), range, cuts };
}

function within(
  { from, to }: { from: number; to: number },
  last: number,
): { from: number; to: number } | null {
  const inside = { from: Math.max(0, from), to: Math.min(last, to) };
  return inside.from <= inside.to ? inside : null;
}

/** The frame that is shown at a time: the last that has begun; beyond the clip the count goes on at its rate. */
function frameAt({ times, fps }: NotesClock, seconds: number): number {
  const n = times.length;
  const end = n > 0 ? times[n - 1] : 0;
  if (seconds >= end + 1 / fps - ROUNDING) return n - 1 + Math.floor((seconds - end) * fps + fps * ROUNDING);
  let [low, high] = [0, n];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (times[middle] <= seconds + ROUNDING) low = middle + 1;
    else high = middle;
  }
  return Math.max(0, low - 1);
}

/** The last frame that begins before a time. */
const frameBefore = (clock: NotesClock, seconds: number) => frameAt(clock, seconds - 2 * ROUNDING);

function readCues(text: string, clock: NotesClock): FileNote[] {
  const notes: FileNote[] = [];
  for (const block of text.split(/\r?\n[ \t]*\r?\n/)) {
    const lines = block.split(/\r?\n/);
    const at = lines.findIndex((line) => CUE.test(line));
    if (at < 0) {
      if (lines.some((line) => line.includes('-->')))
        throw bad(
          `"${lines
            .find((l) => l.includes('-->'))!
            .trim()
            .slice(0, 60)}" is no pair of times`,
        );
      continue;
    }
    const [, begins, ends] = CUE.exec(lines[at])!;
    const said = lines
      .slice(at + 1)
      .join(' ')
      .replace(/<[^<>]*>/g, '')
      .trim();
    const [from, to] = [secondsOf(begins)!, secondsOf(ends)!];
    if (to < from) throw bad(`"${lines[at].trim().slice(0, 60)}" ends before it begins`);
    if (said) notes.push({ from: frameAt(clock, from), to: frameBefore(clock, to), text: said });
  }
  return notes;
}

/** Hours, minutes and seconds, or seconds alone; undefined for anything else. */
function secondsOf(cell: string): number | undefined {
  const parts = cell.trim().replace(',', '.').split(':').map((p) => (p.trim() === '' ? NaN : Number(p))); // prettier-ignore
  if (parts.length > 3 || parts.some((p) => !Number.isFinite(p) || p < 0)) return undefined;
  return parts.reduce((sum, p) => 60 * sum + p, 0);
}

const COLUMNS = {
  frame: ['frame', 'from', 'start_frame'],
  toFrame: ['to', 'to_frame', 'end_frame', 'last'],
  time: ['time', 'time_s', 'start', 'start_s', 'in', 'timecode', 'time code', 'position'],
  end: ['end', 'end_s', 'out'],
  text: ['note', 'notes', 'text', 'comment', 'comments', 'name', 'marker', 'marker name', 'description'],
} as const;

function readTable(text: string, clock: NotesClock): FileNote[] {
  const head = text.trimStart().split(/\r?\n/, 1)[0];
  const separator = ['\t', ';'].find((s) => head.includes(s)) ?? ',';
  const { rows, unclosed } = readRows(text, separator);
  if (unclosed !== null) throw bad(`line ${unclosed}: a quotation mark is not closed`);
  const names = rows[0].cells.map((c) => c.trim().toLowerCase());
  const column = (which: keyof typeof COLUMNS) =>
    COLUMNS[which].map((name) => names.indexOf(name)).find((i) => i >= 0) ?? -1;
  const [frame, toFrame, time, end, said] = [column('frame'), column('toFrame'), column('time'), column('end'), column('text')]; // prettier-ignore
  if ((frame < 0 && time < 0) || said < 0)
    throw bad(
      `line 1: the columns are "${head.slice(0, 60)}", where a "frame" or a "time", and a "note" are due`,
    );
  return rows.slice(1).flatMap(({ line, cells }) => {
    const words = cells[said]?.trim();
    if (!words) return [];
    const whole = (i: number) => {
      const value = Number(cells[i]);
      if (!cells[i]?.trim() || !Number.isInteger(value) || value < 0)
        throw bad(`line ${line}: column ${names[i]}: "${cells[i] ?? ''}" is no frame`);
      return value;
    };
    const moment = (i: number) => {
      const value = momentOf(cells[i] ?? '', clock);
      if (value === undefined)
        throw bad(`line ${line}: column ${names[i]}: "${cells[i] ?? ''}" is neither seconds nor a time code`);
      return value;
    };
    const has = (i: number) => i >= 0 && !!cells[i]?.trim();
    const from = frame >= 0 ? whole(frame) : frameAt(clock, moment(time));
    const to = has(toFrame) ? whole(toFrame) : has(end) ? frameBefore(clock, moment(end)) : from;
    return [{ from, to: Math.max(from, to), text: words }];
  });
}

/** Seconds, hours:minutes:seconds, or a time code whose fourth part counts frames. */
function momentOf(cell: string, { fps }: NotesClock): number | undefined {
  const parts = cell.trim().split(/[:;]/);
  if (parts.length < 4) return secondsOf(cell);
  const seconds = secondsOf(parts.slice(0, 3).join(':'));
  const frames = Number(parts[3]);
  return parts.length > 4 || seconds === undefined || !Number.isInteger(frames)
    ? undefined
    : seconds + frames / fps;
}

type Node = Readonly<Record<string, unknown>>;
const isNode = (v: unknown): v is Node => typeof v === 'object' && v !== null && !Array.isArray(v);
const nodes = (v: unknown): Node[] => (Array.isArray(v) ? v.filter(isNode) : []);
const schema = (node: Node) => String(node.OTIO_SCHEMA ?? '').split('.')[0];

function readTimeline(text: string, clock: NotesClock): NotesFile {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw bad(`it is no JSON (${(error as Error).message.slice(0, 80)})`);
  }
  if (!isNode(json) || json.OTIO_SCHEMA === undefined) throw bad('it is no OpenTimelineIO timeline');
  const clips = everyClip(json).flatMap((clip) => {
    const shown = framesOf(clip.source_range ?? mediaRange(clip), clock, startOf(clip));
    return shown ? [{ clip, shown }] : [];
  });
  if (clips.length === 0) throw bad('there is no clip with a range in the timeline');
  const marked = clips.flatMap(({ clip }) =>
    nodes(clip.markers).flatMap((marker): FileNote[] => {
      const at = framesOf(marker.marked_range, clock, startOf(clip));
      return at ? [{ ...at, text: wordsOf(marker) }] : [];
    }),
  );
  const isCut = ({ text: said }: FileNote) => said.toLowerCase() === CUT;
  return {
    notes: marked.filter((note) => !isCut(note)),
    cuts: [...clips.slice(1).map((c) => c.shown.from), ...marked.filter(isCut).map((note) => note.from)],
    range: {
      from: clips.reduce((least, c) => Math.min(least, c.shown.from), Infinity),
      to: clips.reduce((most, c) => Math.max(most, c.shown.to), 0),
    },
  };
}

/** What a marker of a cut is called, by us too. */
const CUT = 'cut';

const mediaRange = ({ media_reference: media }: Node) => (isNode(media) ? media.available_range : null);

/** Where a clip's material begins to count, in seconds: its time code. */
function startOf(clip: Node): number {
  const range = mediaRange(clip);
  return (isNode(range) && secondsAt(range.start_time)) || 0;
}

function secondsAt(time: unknown): number | null {
  if (!isNode(time)) return null;
  const { value, rate } = time;
  return typeof value === 'number' && typeof rate === 'number' && rate > 0 && Number.isFinite(value)
    ? value / rate
    : null;
}

function framesOf(range: unknown, clock: NotesClock, start: number): { from: number; to: number } | null {
  if (!isNode(range)) return null;
  const [at, length] = [secondsAt(range.start_time), secondsAt(range.duration)];
  if (at === null || length === null || length < 0) return null;
  // Clips of other rates: frames begin within half a frame of what their own count says.
  const slack = 0.25 / clock.fps;
  const from = frameAt(clock, at - start + slack);
  return { from, to: Math.max(from, frameAt(clock, at - start + length - slack)) };
}

function wordsOf(marker: Node): string {
  const words = [marker.name, marker.comment].filter(
    (w): w is string => typeof w === 'string' && w.trim() !== '',
  );
  return words.join(': ') || 'Marker';
}

/** @throws LurnError `bad-notes` where it is nested more deeply than can be followed */
function everyClip(json: Node): Node[] {
  try {
    return clipsOf(json);
  } catch (error) {
    if (error instanceof RangeError) throw bad('the timeline is nested too deeply');
    throw error;
  }
}

/** The clips of a timeline's first track that has any. */
function clipsOf(node: Node): Node[] {
  if (schema(node) === 'Clip') return [node];
  if (isNode(node.tracks)) return clipsOf(node.tracks);
  const children = nodes(node.children);
  if (schema(node) !== 'Stack') return children.flatMap(clipsOf);
  for (const child of children) {
    const clips = child.kind === 'Audio' ? [] : clipsOf(child);
    if (clips.length > 0) return clips;
  }
  return [];
}

/** Notes as delimited text, as {@link readNotes} takes it. */
export function notesAsCsv(notes: readonly FileNote[], { times }: NotesClock): string {
  const rows = notes.map(({ from, to, text }) => [from, to, times[from]?.toFixed(6) ?? '', text]);
  return [['frame', 'to', 'time_s', 'note'], ...rows].map((r) => `${writeRow(r)}\n`).join('');
}
