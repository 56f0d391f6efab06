import { median } from 'd3-array';
import { apply, invert, multiply, type Point } from '../geometry/matrix.js';
import { decomposeSimilarity, type SimilarityParts } from '../geometry/similarity.js';
import type { ScenePointTrack } from '../measure/shake-left.js';
import { sampleIndex, trackEnd } from '../scene/scene-tracks.js';
import { rowsOf, straightScene, type AnalysedScene } from '../solve/analysed.js';
import { openScene, placedAreas, type RidingArea } from '../solve/areas.js';
import type { Perspective } from '../solve/perspective.js';
import { motionMatrix, type Motion } from '../solve/motion.js';
import type { Rows } from '../solve/readout.js';
import { regrouped, type Regroup } from '../solve/regroup.js';
import { softMotionOf, type SolveSoft } from '../solve/soft/soft-motion.js';
import { bridgedPlaces } from '../soft/soft-warps.js';
import { surfaceMotionOf, surfaceWitnesses, type SolveSurface } from '../solve/surface-motion.js';
import { solveMotion, type SolveInput, type SolveSpot } from '../solve/solve-motion.js';
import { countSamples, emptyMeasured, STATES } from '../track/measured.js';
import { sampleAt, type Track } from '../track/track.js';
import { approach } from './goals.js';
import { moverMotion } from './mover-motion.js';
import { perspectiveBySpots, moverOfSpots } from './spots-on-mover.js';

/** The motion of what is held, and what it is measured by where no spot tells. */
export interface HeldMotion {
  readonly motion: Motion;
  /** Tracks of the scene on what is held, when there are no spots. */
  readonly witnesses: readonly ScenePointTrack[];
  /** The id of the scene's mover that it is; null where that is not known. */
  readonly mover: string | null;
  /** How the rows of the pictures lie, where they are put straight; null else. */
  readonly rows: Rows | null;
  /** The soft surface that is laid flat; null where none is. */
  readonly bend?: SolveSoft | null;
  /** Perspective of what is held beyond a similarity, where fitting it pays; null or missing else. */
  readonly perspective?: Pick<Perspective, 'with' | 'without'> | null;
  /** The motions of movers that layers ride on, by their ids, as far as they are known. */
  readonly riders?: Readonly<Record<string, Motion>>;
}

/** A mover that a layer rides on. */
export interface Rider {
  readonly id: string;
  /** The spots that tell of it; where there are none, the scene's mover of that id does. */
  readonly spots: readonly SolveSpot[];
}

/** What the motion of what is held is told from. */
export interface HeldInput extends SolveInput {
  /** What of the picture is not measured. */
  readonly areas?: readonly RidingArea[];
  /** Puts the rows of the pictures straight, where it is known how they lie. */
  readonly rowByRow?: boolean;
  /** What the editor says of which features go together. */
  readonly regroups?: readonly Regroup[];
  /** Flat surfaces that are held: they tell the motion, and spots correct it. */
  readonly surfaces?: readonly SolveSurface[];
  /** A soft surface that is held: it tells the motion alone. */
  readonly soft?: SolveSoft | null;
  readonly riders?: readonly Rider[];
}

/** Tracks of the scene that what is left is measured by, at a time. */
const WITNESSES = 24;

/**
 * The motion of what is held. Spots tell it where there are any, and on frames that they do not tell of - hidden, lost,
 * one alone - the mover of the scene that they move with. Without spots the mover tells it all.
 *
 * @param mover  the id of the scene's mover that is held; null for the surroundings, or what the spots move with
 * @returns null when neither tells of any frame
 */
export function heldMotion(
  input: HeldInput,
  asFound: AnalysedScene | null,
  mover: string | null,
): HeldMotion | null {
  const held = bySoft(input, asFound) ?? bySurfaces(input, asFound) ?? bySpotsAndScene(input, asFound, mover);
  return held && { ...held, riders: ridersOf(input, asFound) };
}

/** The motions of movers that layers ride on. Nothing is told of what nobody has measured. */
export function ridersOf(
  { riders = [], regroups = [], ...input }: HeldInput,
  asFound: AnalysedScene | null,
): Record<string, Motion> {
  if (riders.length === 0) return {};
  const scene = asFound && regrouped(asFound, regroups);
  const out: Record<string, Motion> = {};
  for (const { id, spots } of riders) {
    const told = spots.length > 0 ? solveMotion({ ...input, spots }) : null;
    const mover = scene ? scene.movers.findIndex((m) => m.id === id) : -1;
    const motion = told ?? (scene && mover >= 0 ? moverMotion(scene, mover, input.ref)?.motion : null);
    if (motion) out[id] = motion;
  }
  return out;
}

/** The motion of a soft surface, where one is held. */
function bySoft(
  { soft, frames, ref, pixelAspect }: HeldInput,
  scene: AnalysedScene | null,
): HeldMotion | null {
  const motion = soft ? softMotionOf(soft, frames, ref, pixelAspect) : null;
  if (!soft || !motion) return null;
  const cuts = scene ? [...scene.tracks.cuts] : [];
  return {
    motion: cuts.length > 0 ? { ...motion, cuts } : motion,
    witnesses: soft.flatten ? [] : vertexWitnesses(soft, ref),
    mover: null,
    rows: null,
    bend: soft.flatten ? soft : null,
  };
}

/** Some vertices of a soft surface, as spots that rest where they are on the reference frame. */
function vertexWitnesses(soft: SolveSoft, ref: number): ScenePointTrack[] {
  const rest = bridgedPlaces(soft, ref) ?? [];
  const { track } = soft;
  const every = Math.max(1, Math.ceil(track.width / WITNESSES));
  return rest.flatMap((at, v) => {
    if (v % every > 0) return [];
    const { start, state } = track;
    const out = emptyMeasured('spot', start, state.length);
    for (let i = 0; i < state.length; i++) {
      const k = i * track.width + v;
      out.state[i] = track.values.states[k];
      out.confidence[i] = track.values.confidences[k];
      out.values.x[i] = track.values.x[k];
      out.values.y[i] = track.values.y[k];
    }
    return [{ rest: at, track: out }];
  });
}

/** The motion of surfaces, where some are held. */
function bySurfaces({ surfaces = [], ...input }: HeldInput, scene: AnalysedScene | null): HeldMotion | null {
  const motion = surfaces.length > 0 ? surfaceMotionOf({ ...input, surfaces }) : null;
  if (!motion) return null;
  const cuts = scene ? [...scene.tracks.cuts] : [];
  const witnesses = surfaces.flatMap((s) => surfaceWitnesses(s, motion));
  return { motion: cuts.length > 0 ? { ...motion, cuts } : motion, witnesses, mover: null, rows: null };
}

function bySpotsAndScene(
  input: HeldInput,
  asFound: AnalysedScene | null,
  mover: string | null,
): HeldMotion | null {
  const { areas = [], rowByRow = false, regroups = [] } = input;
  const whole = asFound && regrouped(asFound, regroups);
  const rows = whole && rowByRow ? rowsOf(whole) : null;
  const open = whole && openScene(whole, placedAreas(areas, whole));
  const scene = open && rows ? straightScene(open, rows) : open;
  const told = rows ? input.spots.map((s) => ({ ...s, track: straightTrack(s.track, rows) })) : input.spots;
  // One sample alone says where something is, not how it moves.
  const spots = scene ? told.filter(({ track }) => countSamples(track, 2) > 1) : told;
  const solved = solveMotion({ ...input, spots });
  const given = scene && mover !== null ? scene.movers.findIndex((m) => m.id === mover) : -1;
  if (!scene || scene.movers.length === 0 || (mover !== null && given < 0))
    return solved && { motion: solved, witnesses: [], mover: null, rows };
  if (solved) {
    const own = given >= 0 ? given : moverOfSpots(solved, spots, scene, rows !== null);
    const by = own === null ? null : moverMotion(scene, own, input.ref, rows !== null);
    const about = { witnesses: [], mover: own === null ? null : scene.movers[own].id, rows };
    const corrected = by && perspectiveBySpots(solved, spots, by.motion);
    if (by && corrected) return { motion: corrected, ...about, perspective: by.perspective };
    const cuts = [...scene.tracks.cuts];
    const filled = by ? filledFrom(solved, spots, by.similar) : solved;
    return { motion: cuts.length > 0 ? { ...filled, cuts } : filled, ...about };
  }
  const held = given >= 0 ? given : surroundingsOf(scene);
  const found = moverMotion(scene, held, input.ref, rows !== null);
  if (!found) return null;
  const { motion, perspective } = found;
  return {
    motion,
    witnesses: witnessesOf(scene, held, motion),
    mover: scene.movers[held].id,
    rows,
    perspective,
  };
}

/** A spot's samples as they would be had every picture been taken at once. */
function straightTrack(track: Track, rows: Rows): Track {
  const [x, y] = [track.values.x.slice(), track.values.y.slice()];
  for (let i = 0; i < track.state.length; i++) {
    if (!track.state[i]) continue;
    const p = rows.straight(track.start + i, { x: x[i], y: y[i] });
    [x[i], y[i]] = [p.x, p.y];
  }
  return { ...track, values: { ...track.values, x, y } };
}

/** The first mover of which enough may be measured, as its place in the list: movers stand in order of how much they are surroundings. */
function surroundingsOf({ motions, movers }: AnalysedScene): number {
  return Math.max(
    0,
    motions.findIndex((motion, m) => motion !== null && !movers[m].overlay),
  );
}

/** The motion with the frames that the spots do not tell of filled in from another, joined on to at both ends. */
function filledFrom(
  motion: Motion<'similarity'>,
  spots: readonly SolveSpot[],
  by: Motion<'similarity'>,
): Motion<'similarity'> {
  const { pivot, pixelAspect, support } = motion;
  const parts = [...motion.parts];
  const filled = new Uint8Array(support.length);
  const told = support.map((s) => s === 'full');
  if (!told.includes(true)) {
    // One spot at a time tells where it is; how the thing turns and grows the other tells.
    support.forEach((s, f) => {
      if (s !== 'position' || by.support[f] !== 'full') return;
      const { rotation, logScale } = by.parts[f];
      parts[f] = metBy({ ...parts[f], rotation, logScale }, f);
      told[f] = true;
      filled[f] = 1;
    });
  }
  const known = { ...motion, parts: [...parts] };
  for (let f = 0; f < support.length; f++) {
    if (told[f]) continue;
    let end = f;
    while (end < support.length && !told[end]) end++;
    if (f > 0 || end < support.length) carry(f, end - 1);
    f = end;
  }
  return { ...motion, parts, filled };

  /** Frames a to b, between those that are told. */
  function carry(a: number, b: number): void {
    const ends = [a - 1, b + 1].filter((e) => e >= 0 && e < support.length);
    const ways = ends.map((e) => {
      const join = multiply(invert(motionMatrix(by, e)), motionMatrix(known, e));
      return (f: number): SimilarityParts => {
        const p = decomposeSimilarity(multiply(motionMatrix(by, f), join), pivot, pixelAspect);
        const near = known.parts[e].rotation;
        return {
          ...p,
          rotation: near + Math.atan2(Math.sin(p.rotation - near), Math.cos(p.rotation - near)),
        };
      };
    });
    for (let f = a; f <= b; f++) {
      if (by.support[f] !== 'full') continue;
      const t = (f - a + 1) / (b - a + 2);
      const share = { x: t, y: t, rotation: t, scale: t };
      const carried = ways.length === 2 ? approach(ways[0](f), ways[1](f), share) : ways[0](f);
      parts[f] = support[f] === 'position' ? metBy(carried, f) : carried;
      filled[f] = 1;
    }
  }

  /** Moved so that the one spot that is seen is met. */
  function metBy(carried: SimilarityParts, f: number): SimilarityParts {
    for (const { id, track } of spots) {
      const rest = motion.byId[id]?.rest;
      const sample = rest && sampleAt(track, f);
      if (!sample || !(sample.state === 'tracked' || sample.state === 'pinned')) continue;
      const m = motionMatrix({ ...motion, parts: { [f]: carried } as never }, f);
      const at = apply(m, rest.x, rest.y);
      return { ...carried, x: carried.x + sample.x - at.x, y: carried.y + sample.y - at.y };
    }
    return carried;
  }
}

/** The longest of a mover's tracks, so many at a time, each with where it rests. */
function witnessesOf({ tracks, moverOf }: AnalysedScene, mover: number, motion: Motion): ScenePointTrack[] {
  const own: number[] = [];
  for (let k = 0; k < moverOf.length; k++) if (moverOf[k] === mover) own.push(k);
  const length = (k: number) => trackEnd(tracks, k) - tracks.start[k];
  own.sort((a, b) => length(b) - length(a));
  const there = new Int32Array(tracks.frames);
  const out: ScenePointTrack[] = [];
  for (const k of own) {
    const [from, end] = [tracks.start[k], trackEnd(tracks, k)];
    let wanted = 0;
    for (let f = from; f < end; f++) if (there[f] < WITNESSES) wanted++;
    if (wanted < length(k) / 2 || end - from < 3) continue;
    for (let f = from; f < end; f++) there[f]++;
    const track = emptyMeasured('spot', from, end - from);
    const places: Point[] = [];
    for (let f = from; f < end; f++) {
      const at = sampleIndex(tracks, k, f);
      if (at < 0) continue;
      track.state[f - from] = STATES.indexOf('tracked');
      track.confidence[f - from] = tracks.confidence[at];
      track.values.x[f - from] = tracks.x[at];
      track.values.y[f - from] = tracks.y[at];
      places.push(apply(invert(motionMatrix(motion, f)), tracks.x[at], tracks.y[at]));
    }
    out.push({ rest: { x: median(places, (p) => p.x)!, y: median(places, (p) => p.y)! }, track });
  }
  return out;
}
