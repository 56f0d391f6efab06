import { LurnError } from '../errors.js';
import type { Fade } from '../scene/fades.js';
import type { SceneMover } from '../scene/movers.js';
import { trackCount, type SceneTracks } from '../scene/scene-tracks.js';
import type { AnalysedScene } from '../solve/analysed.js';
import type { Motion, Support } from '../solve/motion.js';
import type { Readout } from '../solve/readout.js';
import { asciiBytes, asciiJson, asciiText } from './ascii.js';
import { LONGEST_VARINT, signed, VarintReader, VarintWriter, zigzag } from './varints.js';

/**
 * What is known of a clip's pictures as a whole, in few bytes: how it lies in the clip's folder and goes to the page.
 *
 *     version 1 | length of the head, head as JSON | motion of each mover that has one | tracks
 *
 * Numbers are differences from the one before, in whole multiples of their column's last decimal.
 */

const VERSION = 1;
const SUPPORT: readonly Support[] = ['none', 'position', 'guessed', 'full'];
const PARTS = { x: 1e4, y: 1e4, rotation: 1e8, logScale: 1e8 } as const;
const RESIDUAL = 1e3;
/** Hundredths of a pixel, and of trust. */
const [PLACE, TRUST] = [100, 100];

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
}

const bad = (why: string) =>
  new LurnError('bad-scene', `What is known of the whole picture cannot be read: ${why}.`);

export function packScene({
  tracks,
  size,
  movers,
  moverOf,
  motions,
  readout,
  fades,
}: AnalysedScene): Uint8Array<ArrayBuffer> {
  const { frames, start, first, x, y, confidence, cuts } = tracks;
  const count = trackCount(tracks);
  const head: Head = {
    ...{ frames, size, cuts: [...cuts], movers, tracks: count, samples: x.length },
    pivots: motions.map((m) => m && { x: m.pivot.x, y: m.pivot.y }),
    ...{ readout, fades },
  };
  const text = asciiBytes(asciiJson(head));
  const numbers = 6 * frames * motions.length + 3 * count + 3 * x.length;
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
  reader.end();
  const { size, movers, readout = null, fades = [] } = head;
  return { tracks, size, movers, moverOf, motions, readout, fades };
}

function headFrom(text: string): Head {
  try {
    const head = JSON.parse(text) as Head;
    if (Number.isInteger(head.frames) && Array.isArray(head.pivots) && Array.isArray(head.cuts)) return head;
  } catch {
    // Told below.
  }
  throw bad('its head is none');
}
