import { resolve } from 'node:path';
import {
  closedBy,
  trackSurfaces,
  withoutSamples,
  withSurfaceSamples,
  type Area,
  type NamedSurface,
  type SurfaceTrack,
} from '@lurn/core';
import { FileFrames, type IndexedClip } from '@lurn/engine';
import type { SurfaceEntry } from '@lurn/model';
import { progressLine, type Surroundings } from './surroundings.js';

/** A surface as it was tracked. */
export interface TrackedSurface extends NamedSurface {
  readonly id: string;
}

/** Tracks every surface from its own frame to both ends of the range. */
export async function trackSurfaceMarks(
  path: string,
  clip: IndexedClip,
  entries: readonly SurfaceEntry[],
  areas: readonly Area[],
  { from, to }: { readonly from: number; readonly to: number },
  io: Surroundings,
): Promise<{ surfaces: TrackedSurface[]; stops: object[] }> {
  const tracks = new Map<string, SurfaceTrack>(
    entries.map((e) => [
      e.id,
      withSurfaceSamples(e.track, [{ frame: e.frame, corners: e.base, confidence: 1, state: 'pinned' }]),
    ]),
  );
  const stops: object[] = [];
  const file = new FileFrames(resolve(path), clip.info, false);
  const source = closedBy(file, areas);
  const progress = progressLine(io, 'Tracking');
  try {
    for (const frame of new Set(entries.map((e) => e.frame))) {
      for (const end of [to, from]) {
        if (end === to ? end <= frame : end >= frame) continue;
        const surfaces = entries
          .filter((e) => e.frame === frame)
          .map((e) => ({ ...e, track: tracks.get(e.id)! }));
        for await (const step of trackSurfaces(source, { surfaces, from: frame, to: end }, io.signal)) {
          for (const { id, sample } of step.samples)
            tracks.set(id, withSurfaceSamples(tracks.get(id)!, [sample]));
          for (const { id, frame: at, since, reason, message } of step.stopped) {
            const [a, b] = [Math.min(since, at), Math.max(since, at)];
            tracks.set(
              id,
              withoutSamples(tracks.get(id)!, a, b, (state) => state !== 'pinned'),
            );
            stops.push({ surface: id, frame: since, reason, message });
            io.err(`lurn: note: ${message}\n`);
          }
          progress(step.done, step.total);
        }
      }
    }
  } finally {
    file.close();
  }
  const surfaces = entries.map(({ id, name, base, quad }) => ({
    ...{ id, name, base, quad },
    track: tracks.get(id)!,
  }));
  return { surfaces, stops };
}
