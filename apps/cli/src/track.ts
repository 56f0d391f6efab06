import { writeFile } from 'node:fs/promises';
import {
  countSamples,
  EMPTY_TRACK,
  LurnError,
  trackSpots,
  withSamples,
  writeTracks,
  type NamedTrack,
  type SpotEntry,
  type SpotToTrack,
  type Track,
} from '@lurn/core';
import { FileLuma, type IndexedClip } from '@lurn/engine';
import type { TrackArguments } from './arguments.js';
import { openClip, openSpots } from './inputs.js';
import { progressLine, type Surroundings } from './run.js';

export async function trackCommand(args: TrackArguments, io: Surroundings): Promise<object> {
  const clip = await openClip(args.clip, io.signal);
  const entries = await openSpots(args.spots, clip);
  const { tracks, stops } = await trackEntries(args.clip, clip, entries, args, io);
  const csv = writeTracks(tracks, clip.times);
  if (args.out) await writeOut(args.out, csv);
  else if (!args.json) io.out(csv);
  return {
    out: args.out,
    frames: clip.info.frames,
    spots: tracks.map(({ name, track }) => ({ name, samples: countSamples(track) })),
    stopped: stops,
  };
}

/** Tracks every spot from its own frame to both ends of the range. */
export async function trackEntries(
  path: string,
  clip: IndexedClip,
  entries: readonly SpotEntry[],
  range: { readonly from: number | null; readonly to: number | null },
  io: Surroundings,
): Promise<{ tracks: NamedTrack[]; stops: object[] }> {
  const last = clip.info.frames - 1;
  const from = range.from ?? 0;
  const to = range.to ?? last;
  for (const [name, frame] of [
    ['--from', from],
    ['--to', to],
  ] as const) {
    if (frame > last)
      throw new LurnError('bad-range', `${name} ${frame} is past the clip's last frame, ${last}.`);
  }
  if (from > to) throw new LurnError('bad-range', `--from ${from} comes after --to ${to}.`);
  const tracks = new Map<string, Track>(
    entries.map((e) => [
      e.name,
      withSamples(EMPTY_TRACK, [{ frame: e.frame, x: e.x, y: e.y, confidence: 1, state: 'pinned' }]),
    ]),
  );
  const stops: object[] = [];
  const source = new FileLuma(path, clip.info);
  const progress = progressLine(io, 'Tracking');
  try {
    for (const frame of new Set(entries.map((e) => e.frame))) {
      const spots: SpotToTrack[] = entries
        .filter((e) => e.frame === frame)
        .map((e) => ({ id: e.name, name: e.name, settings: e.settings, track: tracks.get(e.name)! }));
      for (const end of [to, from]) {
        if (end === frame || (end === to) !== end > frame) continue;
        for await (const step of trackSpots(source, { spots, from: frame, to: end }, io.signal)) {
          for (const { id, sample } of step.samples) tracks.set(id, withSamples(tracks.get(id)!, [sample]));
          for (const { id, frame: at, reason, message } of step.stopped)
            stops.push({ spot: id, frame: at, reason, message });
          progress(step.done, step.total);
        }
      }
    }
  } finally {
    source.close();
  }
  return { tracks: entries.map((e) => ({ name: e.name, track: tracks.get(e.name)! })), stops };
}

export async function writeOut(path: string, text: string): Promise<void> {
  await writeFile(path, text).catch((error: Error) => {
    throw new LurnError('cannot-write', `${path} cannot be written: ${error.message}.`);
  });
}
