import { LurnError } from '../errors.js';
import type { Fade } from '../scene/fades.js';
import type { Matrix3 } from '../geometry/matrix.js';
import type { SceneMover } from '../scene/movers.js';
import { trackCount, type SceneTracks } from '../scene/scene-tracks.js';
import type { AnalysedScene } from '../solve/analysed.js';
import { knownPerspectives } from '../solve/perspective.js';
import type { Motion, Support } from '../solve/motion.js';
import type { Readout } from '../solve/readout.js';
import { asciiBytes, asciiJson, asciiText } from './ascii.js';
import { LONGEST_VARINT, signed, VarintReader, VarintWriter, zigzag } from './varints.js';

/**
 * What is known of a clip's pictures as a whole, in few bytes: how it lies in the clip's folder and goes to the page.
 *
 *     version 1 | length of the head, head as JSON | motion of each mover that has one | tracks | perspective of movers
 *
 * Numbers are differences from the one before, in whole multiples of their column's last decimal.
 */

const VERSION = 1;
const SUPPORT: readonly Support[] = ['none', 'position', 'guessed', 'full'];
const PARTS = { x: 1e4, y: 1e4, rotation: 1e8, logScale: 1e8 } as const;
const RESIDUAL = 1e3;
/** Hundredths of a pixel, and of trust. */
const [PLACE, TRUST] = [100, 100];
/** Of a homography's first eight numbers, so that it is exact to a hundred thousandth of a pixel in any picture. */
const LEAN = [1e10, 1e10, 1e6, 1e10, 1e10, 1e6, 1e13, 1e13];

interface Head {
  readonly frames: number;
  readonly size: AnalysedScene['size'];
  readonly cuts: readonly number[];
  readonly movers: readonly SceneMover[];
  /** Pivots of the motions; null where a mover has none. */
  readonly pivots: readonly ({ readonly x: number; readonly y: number } | null)[];
  readonly tracks: number;
  readonly samples: number;
  /** This and what follows is missing in files from before it was looked for. */
  readonly readout?: Readout | null;
  readonly fades?: readonly Fade[];
  /** Of the movers of which it has been worked out: what is off with it and without; nothing where it does not pay. */
  readonly perspectives?: readonly (
    | readonly [mover: number, along: number, without: number]
    | readonly [number]
  )[];
}

const bad = (why: string) =>
  new LurnError('bad-scene', `What is known of the whole picture cannot be read: ${why}.`);

export function packScene(scene: AnalysedScene): Uint8Array<ArrayBuffer> {
  const { tracks, size, movers, moverOf, motions, readout, fades } = scene;
  const { frames, start, first, x, y, confidence, cuts } = tracks;
  const count = trackCount(tracks);
  const perspectives = [...knownPerspectives(scene)];
  const head: Head = {
    ...{ frames, size, cuts: [...cuts], movers, tracks: count, samples: x.length },
    pivots: motions.map((m) => m && { x: m.pivot.x, y: m.pivot.y }),
    ...{ readout, fades },
    perspectives: perspectives.map(([mover, l]) => (l ? [mover, l.with, l.without] : [mover])),
  };
  const text = asciiBytes(asciiJson(head));
  const numbers =
    6 * frames * motions.length + 3 * count + 3 * x.length + LEAN.length * frames * perspectives.length;
  const writer = new VarintWriter(text.length + LONGEST_VARINT * (numbers + 2));
  writer.whole(VERSION);
  writer.whole(text.length);
  writer.raw(text);
  const column = (length: number, of: (i: number) => number) => {
    let last = 0;
    for (let i = 0; i < length; i++) {
      const value = Math.round(of(i));
      writer.whole(zigzag(value - last));
      last = value;
    }
  };
  for (const motion of motions) {
    if (!motion) continue;
    for (const [key, unit] of Object.entries(PARTS))
      column(frames, (f) => unit * motion.parts[f][key as keyof typeof PARTS]);
    for (const support of motion.support) writer.whole(SUPPORT.indexOf(support));
    for (const r of motion.residual) writer.whole(Number.isNaN(r) ? 0 : 1 + Math.round(RESIDUAL * r));
  }
  for (let k = 0; k < count; k++) {
    writer.whole(zigzag(start[k] - (k > 0 ? start[k - 1] : 0)));
    const [from, length] = [first[k], first[k + 1] - first[k]];
    writer.whole(length);
    writer.whole(moverOf[k] + 1);
    column(length, (i) => PLACE * x[from + i]);
    column(length, (i) => PLACE * y[from + i]);
    for (let i = from; i < from + length; i++)
      writer.whole(confidence[i] > 0 ? Math.max(1, Math.round(TRUST * confidence[i])) : 0);
  }
  for (const [, perspective] of perspectives)
    if (perspective)
      LEAN.forEach((unit, k) =>
        column(frames, (f) => (unit * perspective.matrices[f][k]) / perspective.matrices[f][8]),
      );
  return writer.written();
}

/** @throws LurnError `bad-scene` */
export function unpackScene(bytes: Uint8Array): AnalysedScene {
  const reader = new VarintReader(bytes, bad);
  if (reader.whole() !== VERSION) throw bad('it is of another version');
  const head = headFrom(asciiText(reader.raw(reader.whole())));
  const { frames } = head;
  if (head.samples > bytes.length || head.tracks > bytes.length) throw bad('they end too early');
  const column = (length: number, put: (i: number, value: number) => void) => {
    let value = 0;
    for (let i = 0; i < length; i++) put(i, (value += signed(reader.whole())));
  };
  const motions = head.pivots.map((pivot): Motion<'similarity'> | null => {
    if (!pivot) return null;
    const columns = Object.entries(PARTS).map(([, unit]) => {
      const values = new Float64Array(frames);
      column(frames, (f, value) => (values[f] = value / unit));
      return values;
    });
    const [x, y, rotation, logScale] = columns;
    const support = Array.from({ length: frames }, () => SUPPORT[reader.whole()] ?? 'none');
    const residual = Float64Array.from({ length: frames }, () => {
      const code = reader.whole();
      return code === 0 ? NaN : (code - 1) / RESIDUAL;
    });
    const parts = Array.from({ length: frames }, (_, f) => ({
      ...{ x: x[f], y: y[f], rotation: rotation[f], logScale: logScale[f] },
    }));
    const { pixelAspect } = head.size;
    return { model: 'similarity', ref: 0, pivot, pixelAspect, parts, support, byId: {}, residual };
  });
  const tracks = {
    ...{ frames, cuts: Int32Array.from(head.cuts), start: new Int32Array(head.tracks) },
    first: new Int32Array(head.tracks + 1),
    ...{ x: new Float32Array(head.samples), y: new Float32Array(head.samples) },
    confidence: new Float32Array(head.samples),
  } satisfies SceneTracks;
  const moverOf = new Int16Array(head.tracks);
  for (let k = 0, start = 0; k < head.tracks; k++) {
    tracks.start[k] = start += signed(reader.whole());
    const length = reader.whole();
    const from = tracks.first[k];
    if (from + length > head.samples) throw bad('there are more samples than it says');
    tracks.first[k + 1] = from + length;
    moverOf[k] = reader.whole() - 1;
    column(length, (i, value) => (tracks.x[from + i] = value / PLACE));
    column(length, (i, value) => (tracks.y[from + i] = value / PLACE));
    for (let i = 0; i < length; i++) tracks.confidence[from + i] = reader.whole() / TRUST;
  }
  const { size, movers, readout = null, fades = [], perspectives = [] } = head;
  const scene = { tracks, size, movers, moverOf, motions, readout, fades };
  const known = knownPerspectives(scene);
  for (const [mover, along, without] of perspectives) {
    if (along === undefined || without === undefined) {
      known.set(mover, null);
      continue;
    }
    const matrices = Array.from({ length: frames }, () => [0, 0, 0, 0, 0, 0, 0, 0, 1]);
    LEAN.forEach((unit, k) => column(frames, (f, value) => (matrices[f][k] = value / unit)));
    known.set(mover, { matrices: matrices as unknown as Matrix3[], with: along, without });
  }
  reader.end();
  return scene;
}

const isNumbers = (...values: unknown[]) => values.every((v) => typeof v === 'number' && Number.isFinite(v));
const isPoint = (p: { x?: unknown; y?: unknown } | null) => p === null || isNumbers(p?.x, p?.y);

function headFrom(text: string): Head {
  try {
    const head = JSON.parse(text) as Head;
    const { size, pivots, cuts, movers, perspectives = [] } = head;
    const counted = [head.frames, head.tracks, head.samples].every((n) => Number.isInteger(n) && n >= 0);
    const sized = isNumbers(size.width, size.height, size.pixelAspect);
    if (counted && sized && pivots.every(isPoint) && isNumbers(...cuts) && Array.isArray(movers))
      if (perspectives.every((l) => isNumbers(...l))) return head;
  } catch {
    // Told below.
  }
  throw bad('its head is none');
}
