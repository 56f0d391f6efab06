import { resolve } from 'node:path';
import { LurnError } from '@lurn/core';
import { dataOfMeshes, OUR_CHOICES, plainData, type NamedMesh } from '@lurn/core/formats';
import type { Area, Point } from '@lurn/core/geometry';
import {
  closedBy,
  EMPTY_SOFT_TRACK,
  laidFlat,
  makeMesh,
  softAt,
  softSample,
  withSoftSamples,
  type FrameSource,
  type SoftToTrack,
  type SoftVertex,
} from '@lurn/core/track';
import { FileFrames, type IndexedClip } from '@lurn/engine';
import type { Marks } from '@lurn/model';

type SoftEntry = Marks['soft'][number];
import { Following } from '../following.js';
import type { Surroundings } from '../surroundings.js';

/** MESH.json. */
export function writeMeshes(meshes: readonly NamedMesh[], times: ArrayLike<number>): string {
  const data = dataOfMeshes(meshes, times, { width: null, height: null, frames: null, fps: null });
  return `${JSON.stringify(plainData(data, OUR_CHOICES))}\n`;
}

/** A soft surface as it was tracked. */
export interface TrackedSoft extends NamedMesh {
  readonly levels: number;
  /** Where its vertices are laid flat to; left out where it lies flat as on a frame. */
  readonly laid?: readonly Point[];
}

/** Makes the mesh of every soft surface and tracks it from its own frame to both ends of the range. */
export async function trackSoftMarks(
  path: string,
  clip: IndexedClip,
  entries: readonly SoftEntry[],
  areas: readonly Area[],
  { from, to }: { readonly from: number; readonly to: number },
  io: Surroundings,
): Promise<{ soft: TrackedSoft[]; stops: object[] }> {
  const soft: TrackedSoft[] = [];
  const stops: object[] = [];
  if (entries.length === 0) return { soft, stops };
  const file = new FileFrames(resolve(path), clip.info, false);
  const source = closedBy(file, areas);
  try {
    for (const entry of entries) {
      const { one, mesh } = await begun(source, entry, io);
      const laid = entry.laid && laidFlat(mesh, entry.laid);
      const following = new Following('soft', source, [[one.id, one.track]], io);
      const track = () => following.tracks.get(one.id)!;
      for (const end of [to, from]) {
        if (end === to ? end <= entry.frame : end >= entry.frame) continue;
        await following.run({ things: [{ ...one, track: track() }], from: entry.frame, to: end });
      }
      stops.push(...following.stops);
      soft.push({
        ...{ name: entry.name, frame: entry.frame, mesh, track: track(), levels: entry.levels },
        ...(laid && { laid }),
      });
    }
  } finally {
    file.close();
  }
  return { soft, stops };
}

/** A soft surface with its mesh, on its own frame, and its pins. */
async function begun(
  source: FrameSource,
  { name, frame, outline, spacing, fit, settings, pins }: SoftEntry,
  io: Surroundings,
): Promise<{ one: SoftToTrack; mesh: NamedMesh['mesh'] }> {
  const mesh = makeMesh({ outline, spacing, fit }, await source.plane(frame, 'luma', io.signal));
  const n = mesh.vertices.length;
  const drawn = mesh.vertices.map((p): SoftVertex => ({ ...p, confidence: 1, state: 'pinned' }));
  let track = withSoftSamples(EMPTY_SOFT_TRACK, [softSample(frame, drawn)]);
  for (const { frame: at, vertex, x, y } of pins) {
    if (vertex >= n)
      throw new LurnError(
        'bad-spots',
        `The marks file cannot be used: "${name}" has ${n} vertices, and a pin names ${vertex}.`,
      );
    const vertices = [...(softAt(track, at)?.vertices ?? mesh.vertices.map(() => null))];
    vertices[vertex] = { x, y, confidence: 1, state: 'pinned' };
    track = withSoftSamples(track, [softSample(at, vertices)]);
  }
  const shape = outline.map((p) => [p.x, p.y] as const);
  const shapes = [{ kind: 'focus' as const, smooth: false, keys: [{ frame, shape }] }];
  return { mesh, one: { id: name, name, frame, vertices: mesh.vertices, shapes, settings, track } };
}
