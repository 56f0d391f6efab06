import { resolve } from 'node:path';
import { LurnError } from '@lurn/core';
import { sceneOf } from '@lurn/core/compose';
import { motionFrame, writeMotion, type NamedTrack } from '@lurn/core/formats';
import { mostZoom, notesOn, planFor, type GoalSettings, type ShotRequest, type Size } from '@lurn/core/plan';
import { candidatesOf } from '@lurn/core/scene';
import { formatFor, render, type IndexedClip } from '@lurn/engine';
import { NEW_EDGES, NEW_FRAMING, NEW_GOAL, plainLook } from '@lurn/model';
import type { SteadyArguments } from './arguments/index.js';
import { checkOutputs, writeOut } from './files.js';
import { openClip, openMarks, openTracks } from './inputs.js';
import { candidate, moverNamed, openScene } from './scene.js';
import { trackSoftMarks, type TrackedSoft } from './soft/soft.js';
import { trackSurfaceMarks, type TrackedSurface } from './surfaces.js';
import { progressLine, type Surroundings } from './surroundings.js';
import { trackMarks } from './track.js';

export async function steadyCommand(args: SteadyArguments, io: Surroundings): Promise<object> {
  await checkOutputs(
    { clip: args.clip, 'file of marks': args.marks, 'file of tracks': args.tracks },
    { '--motion': args.motion, '--out': args.out },
  );
  const { clip, scene } = args.auto
    ? await openScene(args.clip, io)
    : { clip: await openClip(args.clip, io.signal), scene: null };
  const mover = scene && args.hold !== null ? scene.movers[moverNamed(scene, args.hold)] : null;
  const { info, times } = clip;
  const last = info.frames - 1;
  if (args.ref > last)
    throw new LurnError('bad-range', `--ref ${args.ref} is past the clip's last frame, ${last}.`);
  const range = { from: args.from ?? 0, to: args.to ?? last };
  if (range.to > last || range.from > range.to) {
    throw new LurnError(
      'bad-range',
      `--from ${range.from} --to ${range.to} is not a range of frames 0 to ${last}.`,
    );
  }
  const { tracks, surface, soft } = args.auto ? NOTHING : await marksFor(args, clip, range, io);
  const goal = goalOf(args);
  const request = {
    size: info,
    frames: info.frames,
    pixelAspect: info.pixelAspect,
    fps: info.fps,
    spots: tracks.map(({ name, track }) => ({ id: name, name, mover: '', track })),
    surfaces: surface ? [{ ...surface, perspective: args.perspective }] : [],
    soft: soft && { ...soft, id: soft.name, flatten: args.perspective, size: sizeOf(info) },
    held: '',
    sceneMover: mover?.id ?? null,
    rowByRow: args.rowByRow,
    ref: args.ref,
    ...range,
    goal,
    framing: { ...NEW_FRAMING, mode: args.fitZoom ? 'fit' : 'none', delivery: null },
  } satisfies ShotRequest;
  const plan = planFor(request, scene);
  if (!plan) throw new LurnError('no-samples', 'There is no sample to solve the motion from.');
  if (args.fitZoom && !Number.isFinite(plan.fit.zoom)) {
    throw new LurnError(
      'no-fit',
      `No zoom hides the edges: on frame ${plan.fit.frame} the picture has left the frame.`,
    );
  }
  const notes = notesOn(plan, goal, range.from, range.to);
  if (!args.json) [...notes, ...plan.odd.map((o) => o.sentence)].forEach((n) => io.err(`lurn: note: ${n}\n`));
  const zoom = mostZoom(plan, range.from, range.to);
  if (args.motion) {
    const frames = plan.corrections.map((_, frame) => motionFrame(plan, frame));
    const head = { width: info.width, height: info.height, frames: info.frames, fps: info.fps };
    const told = scene
      ? { held: (mover ?? scene.movers[0]).name, cuts: [...scene.tracks.cuts] }
      : { ...((surface ?? soft) && { held: (surface ?? soft)!.name }) };
    await writeOut(args.motion, writeMotion(head, args.ref, zoom, frames, told));
  }
  if (args.out) {
    const look = plainLook({ ...NEW_EDGES, mode: args.edges });
    await render({
      source: resolve(args.clip),
      info,
      times,
      file: resolve(args.out),
      ...range,
      delivery: plan.delivery,
      scene: (frame) => sceneOf(plan, look, frame, range.from, range.to),
      format: formatFor(args.format ?? 'h264-mp4', args.edges),
      crf: args.crf,
      compare: args.compare,
      work: `${resolve(args.out)} parts`,
      order: JSON.stringify([request, args.edges, args.format, args.crf, args.compare, args.hold]),
      signal: io.signal,
      onProgress: progressLine(io, 'Rendering'),
    });
  }
  return {
    out: args.out,
    motion: args.motion,
    zoom,
    fit_zoom: Number.isFinite(plan.fit.zoom) ? plan.fit.zoom : null,
    fit_zoom_frame: plan.fit.frame,
    edge_frames: plan.edgeFrames.length,
    shake_before_px: plan.measure.before,
    shake_after_px: plan.measure.after,
    held: scene ? (mover ?? scene.movers[0]).name : ((surface ?? soft)?.name ?? null),
    candidates: scene
      ? candidatesOf(scene).map((m, _, all) => ({ name: m.name, ...candidate(scene, m, all) }))
      : [],
    cuts: scene ? [...scene.tracks.cuts] : [],
    readout_ms: scene?.readout ? (1000 * scene.readout.share) / info.fps : null,
    odd_spots: plan.odd.map((o) => o.sentence),
    notes,
  };
}

/** What the motion is told from. */
interface Told {
  readonly tracks: readonly NamedTrack[];
  /** The surface that is held; null where spots tell. */
  readonly surface: TrackedSurface | null;
  /** The soft one that is. */
  readonly soft: TrackedSoft | null;
}

const NOTHING: Told = { tracks: [], surface: null, soft: null };
const sizeOf = ({ width, height }: Size) => ({ width, height });

async function marksFor(
  args: SteadyArguments,
  clip: IndexedClip,
  range: { from: number; to: number },
  io: Surroundings,
): Promise<Told> {
  if (args.tracks) return { ...NOTHING, tracks: await openTracks(args.tracks, clip) };
  const marks = await openMarks(args.marks!, clip);
  const held = args.hold ?? (marks.spots.length === 0 ? [...marks.surfaces, ...marks.soft][0].name : null);
  if (held === null) return { ...NOTHING, ...(await trackMarks(args.clip, clip, marks, range, io)) };
  const named = marks.surfaces.filter((s) => s.name === held);
  const cloth = marks.soft.filter((s) => s.name === held);
  if (named.length === 0 && cloth.length > 0) {
    const { soft } = await trackSoftMarks(args.clip, clip, cloth, marks.areas, range, io);
    return { ...NOTHING, soft: soft[0] };
  }
  if (named.length === 0) {
    const names = [...marks.surfaces, ...marks.soft].map((s) => `"${s.name}"`).join(', ') || 'none';
    throw new LurnError('no-surface', `There is no surface "${held}" in ${args.marks}. It has ${names}.`);
  }
  const { surfaces } = await trackSurfaceMarks(args.clip, clip, named, marks.areas, range, io);
  return { ...NOTHING, surface: surfaces[0] };
}

function goalOf({ goal, use, smooth, maxZoom }: SteadyArguments): GoalSettings {
  const smoothing = { x: smooth, y: smooth, rotation: smooth, scale: smooth };
  return {
    ...NEW_GOAL,
    goal,
    amounts: use,
    calm: maxZoom === null ? { ...NEW_GOAL.calm, smoothing } : { method: 'optimal', smoothing, maxZoom },
  };
}
