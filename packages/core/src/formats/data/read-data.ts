import type { MotionMesh } from '../../plan/plan-to-source.js';
import { LurnError } from '../../errors.js';
import { STATES } from '../../track/measured.js';
import { readRows } from '../csv.js';
import { readMeshes } from './kinds/mesh-data.js';
import { asOurs, OUR_CHOICES, type DataChoices } from './choices.js';
import { MATRIX_PARTS, MatrixParts } from './matrix-parts.js';
import { matricesOf, PARTS, THING, type DataClip, type DataKind, type MovingData, type MovingFrame, type MovingThing } from './moving-data.js'; // prettier-ignore

const NOTHING: DataClip = { width: null, height: null, frames: null, fps: null };
const SEEN: readonly string[] = STATES.slice(1);

const bad = (why: string) => new LurnError('bad-data', `The data cannot be read: ${why}.`);

/**
 * Reads what was written as a table, as JSON or as a timeline: MOTION.json, CORNERS.csv, TRACKS.csv and what of them went
 * out again.
 *
 * @param known    what is known of the clip besides
 * @param choices  the coordinates and numbers that it is in
 * @throws LurnError `bad-data` that says where and what is due, `no-size`
 */
export function readData(text: string, known: Partial<DataClip> = {}, choices: DataChoices = OUR_CHOICES): MovingData {
  const clean = text.replace(/^\uFEFF/, '').trimStart();
  if (clean === '') throw bad('it is empty');
  const told = Object.fromEntries(Object.entries(known).filter(([, v]) => v !== null && v !== undefined));
  const read = clean.startsWith('{') ? readJson(clean) : readTable(text, choices, { ...NOTHING, ...told });
  return asOurs({ ...read, clip: { ...read.clip, ...told } }, choices);
}

function readTable(text: string, choices: DataChoices, clip: DataClip): MovingData {
  const { time, first } = choices;
  const { rows, unclosed } = readRows(text, separatorOf(text));
  if (unclosed !== null) throw bad(`line ${unclosed}: a quotation mark is not closed`);
  const head = rows[0].cells.map((c) => c.trim());
  const kind = (Object.keys(THING) as DataKind[]).find((k) => THING[k] === head[0]);
  const parts = kind && PARTS[kind];
  const column = (name: string) => head.findIndex((h) => h === name || h === `${name}_px`);
  const matrices = kind ? matricesOf(kind) : [];
  const unit = (part: (typeof MATRIX_PARTS)[number]) =>
    part === 'rotation' ? '_deg' : part === 'scale' && head.some((h) => h.endsWith('scale_pct')) ? '_pct' : '';
  const told = matrices.flatMap((m) => MATRIX_PARTS.map((p) => `${m}_${p}${unit(p)}`));
  const inParts = told.length > 0 && told.every((name) => column(name) >= 0);
  const places = (inParts ? told : parts)?.map(column) ?? [];
  if (!kind || head[1] !== 'frame' || places.includes(-1))
    throw bad(
      `line 1: the columns are "${head.join(',').slice(0, 60)}", where those of spots, surfaces or a motion are due`,
    );
  const [timeAt, residualAt, confidenceAt, stateAt] = [
    ...['time_s', 'residual', 'confidence', 'state'].map(column),
  ];
  const composed = inParts
    ? new MatrixParts({ ...choices, numbers: told.some((n) => n.endsWith('_pct')) ? 'percent' : 'ratio' }, clip)
    : null;
  const meshAt = column('mesh_columns');
  const found = new Map<string, MovingFrame[]>();
  const known = new Set<string>();
  const valuesOf = (cells: number[], line: number): number[] => {
    if (!composed) return cells;
    return matrices.flatMap((m, k) => {
      const four = cells.slice(4 * k, 4 * k + 4);
      if (!(four[3] > 0)) throw bad(`line ${line}: the scale of the ${m} is not above 0`);
      return [...composed.toMatrix(four)];
    });
  };
  for (const { line, cells } of rows.slice(1)) {
    const number = (at: number, name = head[at]): number => {
      const value = Number(cells[at]?.trim().replace(/^(-?\d+),(\d+)$/, '$1.$2'));
      if (cells[at] === undefined || cells[at].trim() === '' || !Number.isFinite(value))
        throw bad(`line ${line}: column ${name}: "${cells[at] ?? ''}" is not a number`);
      return value;
    };
    const frame = number(1);
    if (!Number.isInteger(frame) || frame < first) throw bad(`line ${line}: ${cells[1]} is no frame`);
    const state = stateAt < 0 || !cells[stateAt] ? undefined : cells[stateAt];
    if (state !== undefined && !SEEN.includes(state))
      throw bad(`line ${line}: column state: "${state}" is not one of ${SEEN.join(', ')}`);
    const frames = found.get(cells[0]) ?? [];
    const place = `${frame} ${cells[0]}`;
    if (known.has(place))
      throw bad(`line ${line}: "${cells[0]}" is told of a second time on frame ${frame}`);
    const sure = confidenceAt >= 0 && cells[confidenceAt]?.trim() ? number(confidenceAt) : undefined;
    const residual = residualAt >= 0 && cells[residualAt]?.trim() ? number(residualAt) : null;
    known.add(place);
    frames.push({
      ...{ frame, time: time === 'seconds' && timeAt >= 0 ? number(timeAt) : NaN, values: valuesOf(places.map((at) => number(at)), line) }, // prettier-ignore
      ...(sure !== undefined && { confidence: sure }),
      ...(state !== undefined && { state }),
      ...(matrices.length > 0 && { residual }),
      ...(meshAt >= 0 && cells[meshAt]?.trim() && { mesh: meshOf(number(meshAt), number(meshAt + 1), cells[meshAt + 2].trim().split(/\s+/).map(Number), `line ${line}`) }), // prettier-ignore
    });
    found.set(cells[0], frames);
  }
  if (found.size === 0) throw bad('there is no sample in it');
  const things = [...found].map(([name, frames]): MovingThing => ({ name, frames }));
  return { kind, clip: NOTHING, things, ...(kind === 'motion' && { solved: { ref: first, zoom: 1, cuts: [] } }) };
}

/** Semicolons or tabs where the first line has them: then commas are decimal signs. */
function separatorOf(text: string): string {
  const head = text.split(/\r?\n/, 1)[0];
  return [';', '\t'].find((s) => head.includes(s)) ?? ',';
}

interface AnyObject {
  readonly [key: string]: unknown;
}
const isObject = (v: unknown): v is AnyObject => typeof v === 'object' && v !== null && !Array.isArray(v);

function readJson(text: string): MovingData {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw bad(`it is no JSON (${(error as Error).message.slice(0, 80)})`);
  }
  if (!isObject(json)) throw bad('it is no JSON object');
  const own = json.OTIO_SCHEMA ? carriedBy(json) : json;
  if (!isObject(own)) throw bad('the timeline carries no data of ours (metadata "lurn" of a clip)');
  const clip = clipOf(own.clip);
  if (Array.isArray(own.spots)) return { kind: 'tracks', clip, things: own.spots.map((s) => thingOf(s, 'tracks')) };
  if (Array.isArray(own.surfaces))
    return { kind: 'corners', clip, things: own.surfaces.map((s) => thingOf(s, 'corners')) };
  if (Array.isArray(own.meshes)) return { kind: 'meshes', clip, things: readMeshes(own.meshes, clip.fps) };
  if (Array.isArray(own.movers)) return { kind: 'movers', clip, things: own.movers.map(moverOf) };
  if (Array.isArray(own.frames)) return motionOf(own, own.frames, clip);
  throw bad('it has neither spots, nor surfaces, nor meshes, nor movers, nor frames of a motion');
}

/** What a timeline's first clip carries. */
function carriedBy(node: unknown): unknown {
  if (!isObject(node)) return null;
  if (isObject(node.metadata) && node.metadata.lurn) return node.metadata.lurn;
  const inside = [node.tracks, ...(Array.isArray(node.children) ? node.children : [])];
  return inside.reduce<unknown>((found, child) => found ?? carriedBy(child), null) ?? null;
}

/** No picture is larger, no clip longer or faster. */
const MOST: Record<keyof DataClip, number> = { width: 32_768, height: 32_768, frames: 1e7, fps: 10_000 };

function clipOf(clip: unknown): DataClip {
  if (clip === undefined) return NOTHING;
  if (!isObject(clip)) throw bad('"clip" is no object');
  const told = (name: keyof DataClip) => {
    const v = clip[name];
    if (v === undefined || v === null) return null;
    if (typeof v !== 'number' || !(v > 0)) throw bad(`clip.${name} is no number above 0`);
    if (v > MOST[name]) throw bad(`clip.${name} is ${v}: at most ${MOST[name]} is taken`);
    return v;
  };
  return { width: told('width'), height: told('height'), frames: told('frames'), fps: told('fps') };
}

function numbers(value: unknown, count: number, where: string): number[] {
  const flat = Array.isArray(value) ? (value.flat() as unknown[]) : [value];
  if (flat.length !== count || flat.some((v) => typeof v !== 'number' || !Number.isFinite(v)))
    throw bad(`${where}: ${count} numbers are due`);
  return flat as number[];
}

/** @throws LurnError `bad-data` where it is no matrix that can be gone back by */
function matrixAt(value: unknown, where: string): number[] {
  const cells = numbers(value, 9, where);
  const [a, b, c, d, e, f, g, h, i] = cells;
  if (a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g) === 0)
    throw bad(`${where}: the matrix has no inverse`);
  return cells;
}

/** @throws LurnError `bad-data` where there are not as many places as its cells have corners */
function meshOf(columns: unknown, rows: unknown, to: unknown, where: string): MotionMesh {
  const count = (v: unknown): v is number => Number.isInteger(v) && (v as number) >= 1 && (v as number) <= 10_000;
  if (!count(columns) || !count(rows)) throw bad(`${where}: the mesh has no columns and rows`);
  return { columns, rows, to: numbers(to, 2 * (columns + 1) * (rows + 1), `${where}, its mesh`) };
}

function frameOf(value: unknown, where: string): AnyObject & { readonly frame: number } {
  if (!isObject(value) || !Number.isInteger(value.frame) || (value.frame as number) < 0)
    throw bad(`${where}: there is no frame number`);
  return value as AnyObject & { frame: number };
}

function thingOf(value: unknown, kind: 'tracks' | 'corners'): MovingThing {
  if (!isObject(value) || typeof value.name !== 'string' || !Array.isArray(value.frames))
    throw bad(`a ${THING[kind]} has no name or no frames`);
  const { name } = value;
  const frames = value.frames.map((entry, k): MovingFrame => {
    const f = frameOf(entry, `"${name}", entry ${k}`);
    const where = `"${name}" on frame ${f.frame}`;
    const values = kind === 'tracks' ? numbers([f.x, f.y], 2, where) : numbers(f.corners, 8, where);
    return {
      ...{ frame: f.frame, time: typeof f.time_s === 'number' ? f.time_s : NaN, values },
      ...(typeof f.confidence === 'number' && { confidence: f.confidence }),
      ...(typeof f.state === 'string' && { state: f.state }),
    };
  });
  return { name, frames };
}

/** A mover as it went out, or as MOVERS.json has it: a matrix a frame, null where it is not seen. */
function moverOf(value: unknown): MovingThing {
  if (!isObject(value) || typeof value.name !== 'string') throw bad('a mover has no name');
  const { name, frames, motion } = value;
  const list = Array.isArray(frames)
    ? frames
    : Array.isArray(motion)
      ? motion.flatMap((m: unknown, frame) => (m === null ? [] : [{ frame, motion: m }]))
      : null;
  if (!list) throw bad(`mover "${name}" has no frames`);
  return {
    name,
    frames: list.map((entry, k): MovingFrame => {
      const f = frameOf(entry, `"${name}", entry ${k}`);
      const residual = typeof f.residual_px === 'number' ? f.residual_px : null;
      return { frame: f.frame, time: NaN, values: matrixAt(f.motion, `"${name}" on frame ${f.frame}`), residual };
    }),
  };
}

function motionOf(own: AnyObject, list: readonly unknown[], clip: DataClip): MovingData {
  if (list.length === 0) throw bad('there is no frame in it');
  const frames = list.map((entry, k): MovingFrame => {
    const f = frameOf(entry, `entry ${k} of frames`);
    const where = `frame ${f.frame}`;
    const values = ['motion', 'correction', 'framing'].flatMap((m) => matrixAt(f[m], `${where}, ${m}`));
    const residual = typeof f.residual_px === 'number' ? f.residual_px : null;
    const { mesh } = f;
    if (mesh !== undefined && !isObject(mesh)) throw bad(`${where}: its mesh is no object`);
    const told = mesh && { mesh: meshOf(mesh.columns, mesh.rows, mesh.to, where) };
    return { frame: f.frame, time: clip.fps ? f.frame / clip.fps : NaN, values, residual, ...told };
  });
  const whole = (v: unknown, or: number) => (typeof v === 'number' ? v : or);
  const cuts = Array.isArray(own.cuts) ? own.cuts.filter((c): c is number => typeof c === 'number') : [];
  const name = typeof own.held === 'string' ? own.held : 'motion';
  return {
    ...{ kind: 'motion', clip, things: [{ name, frames }] },
    solved: { ref: whole(own.ref, 0), zoom: whole(own.zoom, 1), cuts },
  };
}
