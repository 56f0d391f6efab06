import { apply } from '../geometry/matrix.js';
import { measuredEnd } from '../track/measured.js';
import { sampleAt, type Track } from '../track/track.js';
import { motionMatrix, type Motion } from './motion.js';

/** A spot that the solved motion does not explain. */
export interface OddSpot {
  /** The spot's id. */
  readonly spot: string;
  /** Root mean square distance from where the motion puts it, in pixels. */
  readonly rms: number;
  /** The frame on which it is farthest off. */
  readonly worst: number;
  readonly why: 'nearer' | 'farther' | 'slipped' | 'on its own';
  readonly sentence: string;
}

/** A spot as sentences tell of it. */
export interface NamedSpot {
  readonly id: string;
  readonly name: string;
  /** The name of what it is on; empty where that has none. */
  readonly mover: string;
}

interface ExplainedSpot extends NamedSpot {
  readonly track: Track;
}

/** A spot is odd from so many pixels on ... */
const LEAST_RMS = 0.75;
/** ... when it is so many times worse than the middling one. */
const ODD_RATIO = 4;
/** Three spots can always be told apart in three ways; from four on there is a majority. */
const LEAST_SPOTS = 4;
/** Share of a residual's energy that a cause has to explain. */
const EXPLAINS = 0.6;

/** Names the spots that move otherwise than the rest, and says how: parallax, a slip, or a course of their own. */
export function explainResiduals(motion: Motion, spots: readonly ExplainedSpot[]): OddSpot[] {
  const linked = spots.filter((s) => motion.byId[s.id]?.rest);
  if (linked.length < LEAST_SPOTS) return [];
  const levels = new Map(linked.map((s) => [s.id, rmsOf(motion.byId[s.id].residuals)]));
  const sorted = [...levels.values()].sort((a, b) => a - b);
  const usual = sorted[(sorted.length - 1) >> 1];
  const odd = linked.filter((s) => levels.get(s.id)! > Math.max(LEAST_RMS, ODD_RATIO * usual));
  const against = nameOfAll(linked.filter((s) => !odd.includes(s)));
  return odd
    .map((s) => tell(motion, s, levels.get(s.id)!, nameOf(s, spots), against))
    .sort((a, b) => b.rms - a.rms);
}

function rmsOf(values: Float32Array): number {
  let sum = 0;
  let n = 0;
  for (const v of values) {
    if (v !== v) continue;
    sum += v * v;
    n++;
  }
  return n > 0 ? Math.sqrt(sum / n) : 0;
}

function nameOf({ name, mover }: NamedSpot, spots: readonly NamedSpot[]): string {
  return mover && spots.filter((s) => s.mover === mover).length === 1 ? mover : name;
}

function nameOfAll(spots: readonly NamedSpot[]): string {
  const mover = spots[0]?.mover;
  if (mover && spots.every((s) => s.mover === mover)) return mover;
  return spots.length <= 3 ? spots.map((s) => s.name).join(', ') : 'the other spots';
}

function tell(motion: Motion, spot: ExplainedSpot, rms: number, name: string, against: string): OddSpot {
  const off = offsets(motion, spot);
  const worst = off.reduce((a, b) => (Math.hypot(b.x, b.y) > Math.hypot(a.x, a.y) ? b : a)).frame;
  const by = `${rms.toFixed(1)} px`;
  const told = (why: OddSpot['why'], sentence: string): OddSpot => ({
    spot: spot.id,
    rms,
    worst,
    why,
    sentence,
  });
  const slip = slipOf(off);
  if (slip && slip.explains > EXPLAINS)
    return told(
      'slipped',
      `${name} slips by ${slip.size.toFixed(1)} px at frame ${slip.frame}: track it again from there.`,
    );
  const near = nearness(motion, off);
  if (near.explains > EXPLAINS) {
    const why = near.slope > 0 ? 'nearer' : 'farther';
    return told(
      why,
      `${name} still moves ${by} against ${against}: it is ${why}${why === 'nearer' ? '' : ' away'}.`,
    );
  }
  return told('on its own', `${name} still moves ${by} against ${against}: it moves on its own.`);
}

interface Offset {
  readonly frame: number;
  readonly x: number;
  readonly y: number;
}

/** Where samples lie against where the motion puts them. */
function offsets(motion: Motion, { id, track }: ExplainedSpot): Offset[] {
  const rest = motion.byId[id].rest!;
  const out: Offset[] = [];
  const end = Math.min(measuredEnd(track), motion.parts.length);
  for (let frame = Math.max(0, track.start); frame < end; frame++) {
    const sample = sampleAt(track, frame);
    if (!sample) continue;
    const p = apply(motionMatrix(motion, frame), rest.x, rest.y);
    out.push({ frame, x: sample.x - p.x, y: sample.y - p.y });
  }
  return out;
}

/** The one moment at which the offset changes for good: the split with the least squared error about two means. */
function slipOf(off: readonly Offset[]): { frame: number; size: number; explains: number } | null {
  const n = off.length;
  if (n < 8) return null;
  const total = { x: 0, y: 0 };
  let energy = 0;
  for (const o of off) {
    total.x += o.x;
    total.y += o.y;
    energy += o.x * o.x + o.y * o.y;
  }
  const base = energy - (total.x ** 2 + total.y ** 2) / n;
  let best = { gain: 0, at: 0, size: 0 };
  const left = { x: 0, y: 0 };
  for (let k = 1; k < n; k++) {
    left.x += off[k - 1].x;
    left.y += off[k - 1].y;
    if (k < 3 || n - k < 3) continue;
    const dx = left.x / k - (total.x - left.x) / (n - k);
    const dy = left.y / k - (total.y - left.y) / (n - k);
    const gain = ((dx * dx + dy * dy) * k * (n - k)) / n;
    if (gain > best.gain) best = { gain, at: k, size: Math.hypot(dx, dy) };
  }
  if (best.at === 0 || base <= 0) return null;
  // A slip happens between two frames: what lies on either side of it is apart by about its whole size.
  const [a, b] = [off[best.at - 1], off[best.at]];
  const sudden = Math.hypot(b.x - a.x, b.y - a.y) > 0.5 * best.size;
  return sudden ? { frame: b.frame, size: best.size, explains: best.gain / base } : null;
}

/** How much of the offset follows the camera's moves: more than they (nearer) or less (farther). */
function nearness(motion: Motion, off: readonly Offset[]): { slope: number; explains: number } {
  const n = off.length;
  const mean = (value: (o: Offset) => number) => off.reduce((s, o) => s + value(o), 0) / n;
  const moved = (o: Offset) => motion.parts[o.frame];
  const [mx, my] = [mean((o) => moved(o).x), mean((o) => moved(o).y)];
  const [ox, oy] = [mean((o) => o.x), mean((o) => o.y)];
  let both = 0;
  let camera = 0;
  let own = 0;
  for (const o of off) {
    const [cx, cy] = [moved(o).x - mx, moved(o).y - my];
    const [dx, dy] = [o.x - ox, o.y - oy];
    both += cx * dx + cy * dy;
    camera += cx * cx + cy * cy;
    own += dx * dx + dy * dy;
  }
  if (camera === 0 || own === 0) return { slope: 0, explains: 0 };
  return { slope: both / camera, explains: (both * both) / (camera * own) };
}
