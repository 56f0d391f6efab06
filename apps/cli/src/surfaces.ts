import { resolve } from 'node:path';
import type { NamedSurface } from '@lurn/core/formats';
import type { Area } from '@lurn/core/geometry';
import { closedBy, withSurfaceSamples } from '@lurn/core/track';
import { FileFrames, type IndexedClip } from '@lurn/engine';
import type { Marks } from '@lurn/model';
import { Following } from './following.js';
import type { Surroundings } from './surroundings.js';

/** A surface as it was tracked. */
export interface TrackedSurface extends NamedSurface {
  readonly id: string;
}

/** Tracks every surface from its own frame to both ends of the range. */
export async function trackSurfaceMarks(
  path: string,
  clip: IndexedClip,
  entries: Marks['surfaces'],
  areas: readonly Area[],
  { from, to }: { readonly from: number; readonly to: number },
  io: Surroundings,
): Promise<{ surfaces: TrackedSurface[]; stops: object[] }> {
  const file = new FileFrames(resolve(path), clip.info, false);
  const known = entries.map(
    (e) =>
      [
        e.id,
        withSurfaceSamples(e.track, [{ frame: e.frame, corners: e.base, confidence: 1, state: 'pinned' }]),
      ] as const,
  );
  const following = new Following('surface', closedBy(file, areas), known, io);
  const { tracks, stops } = following;
  try {
    for (const frame of new Set(entries.map((e) => e.frame))) {
      for (const end of [to, from]) {
        if (end === to ? end <= frame : end >= frame) continue;
        const things = entries
          .filter((e) => e.frame === frame)
          .map((e) => ({ ...e, track: tracks.get(e.id)! }));
        await following.run({ things, from: frame, to: end });
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
