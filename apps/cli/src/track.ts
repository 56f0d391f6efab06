import { resolve } from 'node:path';
import { LurnError } from '@lurn/core';
import { writeCorners, writeTracks, type NamedTrack } from '@lurn/core/formats';
import {
  closedBy,
  countSamples,
  EMPTY_TRACK,
  trackerKind,
  withSamples,
  type Measured,
  type SpotToTrack,
} from '@lurn/core/track';
import { FileFrames, type IndexedClip } from '@lurn/engine';
import type { Marks } from '@lurn/model';
import type { TrackArguments } from './arguments/index.js';
import { checkOutputs, writeOut } from './files.js';
import { Following } from './following.js';
import { openClip, openMarks } from './inputs.js';
import { trackSoftMarks, writeMeshes } from './soft/soft.js';
import { trackSurfaceMarks } from './surfaces.js';
import type { Surroundings } from './surroundings.js';

export async function trackCommand(args: TrackArguments, io: Surroundings): Promise<object> {
  await checkOutputs(
    { clip: args.clip, 'file of marks': args.marks },
    { '--out': args.out, '--corners': args.corners, '--mesh': args.mesh },
  );
  const clip = await openClip(args.clip, io.signal);
  const marks = await openMarks(args.marks, clip);
  const range = rangeOf(args, clip);
  const { tracks, stops } = await trackMarks(args.clip, clip, marks, range, io);
  const planes = await trackSurfaceMarks(args.clip, clip, marks.surfaces, marks.areas, range, io);
  const meshes = await trackSoftMarks(args.clip, clip, marks.soft, marks.areas, range, io);
  const csv = writeTracks(tracks, clip.times, args.shape);
  const corners = writeCorners(planes.surfaces, clip.times);
  if (args.out) await writeOut(args.out, csv);
  else if (!args.json && tracks.length > 0) io.out(csv);
  if (args.corners) await writeOut(args.corners, corners);
  else if (!args.json && tracks.length === 0 && planes.surfaces.length > 0) io.out(corners);
  const mesh = writeMeshes(meshes.soft, clip.times);
  if (args.mesh) await writeOut(args.mesh, mesh);
  else if (!args.json && tracks.length + planes.surfaces.length === 0) io.out(mesh);
  const samples = ({ name, track }: { name: string; track: Measured }) => ({
    name,
    samples: countSamples(track),
  });
  return {
    out: args.out,
    corners: args.corners,
    mesh: args.mesh,
    frames: clip.info.frames,
    spots: tracks.map(samples),
    surfaces: planes.surfaces.map(samples),
    soft: meshes.soft.map((s) => ({ ...samples(s), vertices: s.mesh.vertices.length })),
    stopped: [...stops, ...planes.stops, ...meshes.stops],
  };
}

/** The frames that are asked for. @throws LurnError `bad-range` */
export function rangeOf(
  asked: { readonly from: number | null; readonly to: number | null },
  { info }: IndexedClip,
): { from: number; to: number } {
  const last = info.frames - 1;
  const from = asked.from ?? 0;
  const to = asked.to ?? last;
  for (const [name, frame] of [
    ['--from', from],
    ['--to', to],
  ] as const) {
    if (frame > last)
      throw new LurnError('bad-range', `${name} ${frame} is past the clip's last frame, ${last}.`);
  }
  if (from > to) throw new LurnError('bad-range', `--from ${from} comes after --to ${to}.`);
  return { from, to };
}

/** Tracks every spot from its own frame to both ends of the range. */
export async function trackMarks(
  path: string,
  clip: IndexedClip,
  { spots: entries, areas }: Marks,
  { from, to }: { readonly from: number; readonly to: number },
  io: Surroundings,
): Promise<{ tracks: NamedTrack[]; stops: object[] }> {
  const known = entries.map(
    (e) =>
      [
        e.name,
        withSamples(
          EMPTY_TRACK,
          [e, ...e.pins].map(({ frame, x, y }) => ({ frame, x, y, confidence: 1, state: 'pinned' as const })),
        ),
      ] as const,
  );
  const colour = entries.some((e) => e.settings.eye.channel !== 'luma');
  const file = new FileFrames(resolve(path), clip.info, colour);
  const source = closedBy(file, areas);
  const following = new Following('spot', source, known, io);
  const { tracks, stops } = following;
  const spotOf = (e: Marks['spots'][number]): SpotToTrack => {
    const { name, settings } = e;
    return { id: name, name, mover: '', joins: [], settings, track: tracks.get(name)! };
  };
  try {
    // Outwards from the first and last pin of each spot; between its pins from both sides.
    const runs = entries.flatMap((e) => {
      const pins = [e.frame, ...e.pins.map((p) => p.frame)].sort((a, b) => a - b);
      return [
        { entry: e, from: pins[pins.length - 1], to },
        { entry: e, from: pins[0], to: from },
      ];
    });
    const starts = new Map<string, typeof runs>();
    for (const run of runs.filter((r) => (r.to === to ? r.to > r.from : r.to < r.from))) {
      const key = `${run.from} ${run.to}`;
      starts.set(key, [...(starts.get(key) ?? []), run]);
    }
    for (const group of starts.values()) {
      const things = group.map((r) => spotOf(r.entry));
      await following.run({ things, from: group[0].from, to: group[0].to });
    }
    for (const e of entries) {
      const pins = [e.frame, ...e.pins.map((p) => p.frame)].sort((a, b) => a - b);
      for (let i = 1; i < pins.length; i++) {
        if (pins[i] - pins[i - 1] < 2) continue;
        const { samples } = await trackerKind('spot').between(
          source,
          spotOf(e),
          pins[i - 1],
          pins[i],
          [],
          io.signal,
        );
        tracks.set(e.name, withSamples(tracks.get(e.name)!, samples));
      }
    }
  } finally {
    file.close();
  }
  return { tracks: entries.map((e) => ({ name: e.name, track: tracks.get(e.name)! })), stops };
}
