import type { Point } from '@lurn/core/geometry';
import {
  carriedOver,
  cutAlong,
  softAt,
  softSample,
  turnedOver,
  withMeshEdge,
  withoutMeshEdge,
  withoutVertices,
  withSoftSamples,
  withVertex,
  type SoftVertex,
} from '@lurn/core/track';
import { LIMITS, meshOf, setMeasured, softById, softTrackOf, type SoftSurface } from '@lurn/model';
import { toast } from 'sonner';
import { bench, setBench } from '../bench';
import { edit, shotDocument, shotState } from '../shot';
import { meshed, take } from './soft';
import { selectedSoft, placesShown } from './mesh-shown';

/** What the editor does to single points of a mesh, and to its edges; each is one step of undo unless a gesture is under way. */

/** What of a vertex's neighbours moves with it: less the farther they are, in pixels. */
function shareAt(distance: number, brush: number): number {
  if (brush <= 0) return distance === 0 ? 1 : 0;
  const t = distance / brush;
  return t >= 1 ? 0 : (1 - t * t) ** 2;
}

/**
 * Moves a vertex, and by a soft brush those about it. On its own frame the mesh itself changes; on another they are
 * pinned. What would turn a face over is refused.
 *
 * @returns why it was refused; null where it was not
 */
export function moveVertex(id: string, index: number, frame: number, to: Point): string | null {
  const soft = softById(shotDocument(), id);
  const places = soft && placesShown(soft, frame);
  if (!soft || !places) return 'It is not known on this frame.';
  const { meshBrush } = bench();
  const from = places[index];
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  const shares = places.map((p) => shareAt(Math.hypot(p.x - from.x, p.y - from.y), meshBrush));
  const moved = places.map((p, i) => ({ x: p.x + shares[i] * dx, y: p.y + shares[i] * dy }));
  const mesh = meshOf(soft);
  if (turnedOver(mesh, places, moved).length > 0)
    return 'There it would turn a part of the mesh over. Move its neighbours first, or take it out.';
  if (frame === soft.frame) {
    // The point is on another place of the cloth now: elsewhere it is where that went.
    take(soft, { mesh: { ...mesh, vertices: moved }, track: carriedOver(meshed(soft), moved) });
    return null;
  }
  const sample = softAt(softTrackOf(shotState(), id), frame);
  const vertices = places.map((_, i): SoftVertex | null =>
    shares[i] > 0 ? { ...moved[i], confidence: 1, state: 'pinned' } : (sample?.vertices[i] ?? null),
  );
  edit((s) =>
    setMeasured(s, {
      [id]: withSoftSamples(softTrackOf(s, id), [softSample(frame, vertices, sample?.held)]),
    }),
  );
  return null;
}

/** Lets go of the pins of chosen vertices on a frame: they are as tracked as the others there. */
export function unpin(id: string, frame: number, chosen: readonly number[]): void {
  edit((s) => {
    const track = softTrackOf(s, id);
    const sample = softAt(track, frame);
    if (!sample) return s;
    const vertices = sample.vertices.map((v, i) =>
      v?.state === 'pinned' && (chosen.length === 0 || chosen.includes(i))
        ? { ...v, state: 'tracked' as const }
        : v,
    );
    return setMeasured(s, { [id]: withSoftSamples(track, [softSample(frame, vertices, sample.held)]) });
  });
}

/** Ends chosen vertices from a frame on, or up to one: they are not shown there, and go with their neighbours. */
export function endVertices(id: string, chosen: readonly number[], from: number, to: number): void {
  if (chosen.length === 0) return;
  edit((s) => {
    let track = softTrackOf(s, id);
    const samples = [];
    for (let f = from; f <= to; f++) {
      const sample = softAt(track, f);
      if (!sample) continue;
      const vertices = sample.vertices.map((v, i) => (chosen.includes(i) ? null : v));
      samples.push(softSample(f, vertices, sample.held));
    }
    track = withSoftSamples(track, samples);
    return setMeasured(s, { [id]: track });
  });
}

/** One more point where it is pressed, on its own frame. */
export function addVertex(at: Point): void {
  const soft = onOwnFrame();
  if (!soft) return;
  const more = withVertex(meshed(soft), at);
  if (more && more.mesh.vertices.length <= LIMITS.vertices) take(soft, more);
}

/** Takes the chosen points out of the mesh. @returns false where none is chosen */
export function deleteVertices(): boolean {
  const { points } = bench();
  const soft = selectedSoft();
  if (!soft || points.length === 0) return false;
  const less = withoutVertices(meshed(soft), new Set(points));
  if (less.mesh.vertices.length < 4) toast.warning('A mesh has four points at the least.', { id: 'mesh' });
  else take(soft, less);
  return true;
}

/** Puts an edge between the two chosen points, or takes it away where there is one: two triangles become one quad. */
export function joinOrPart(): void {
  const { points } = bench();
  const soft = onOwnFrame();
  if (!soft) return;
  if (points.length !== 2) {
    toast.warning('Choose two points of the mesh: an edge is put between them, or taken away.', {
      id: 'mesh',
    });
    return;
  }
  const [a, b] = points;
  const from = meshed(soft);
  const next = withoutMeshEdge(from, a, b) ?? withMeshEdge(from, a, b);
  if (next) {
    take(soft, next);
    // They stay chosen: the same key takes it back.
    if (next.mesh.vertices.length === from.mesh.vertices.length) setBench({ points });
  } else
    toast.warning('No edge can go there: its way is not free, or the faces beside it make no quad.', {
      id: 'mesh',
    });
}

/** Cuts the mesh along a line, on its own frame. */
export function cutMesh(a: Point, b: Point): void {
  const soft = onOwnFrame();
  if (!soft) return;
  const cut = cutAlong(meshed(soft), a, b);
  if (cut.mesh.faces.length === 0) toast.warning('Nothing of the mesh would be left.', { id: 'mesh' });
  else take(soft, cut);
}

function onOwnFrame(): SoftSurface | undefined {
  const soft = selectedSoft();
  if (!soft) toast.warning('Select a soft surface first.', { id: 'mesh' });
  else if (bench().frame !== soft.frame) {
    toast.warning(`The mesh is changed on its own frame, ${soft.frame}.`, { id: 'mesh' });
    return undefined;
  }
  return soft;
}

/** The points that lie in a box on a frame become the chosen ones. */
export function choosePoints(
  frame: number,
  [x0, y0, x1, y1]: readonly [number, number, number, number],
): void {
  const soft = selectedSoft();
  const places = soft && placesShown(soft, frame);
  if (!places) return;
  const inside = (p: Point) => p.x >= x0 && p.x <= x1 && p.y >= y0 && p.y <= y1;
  setBench({ points: places.flatMap((p, i) => (inside(p) ? [i] : [])) });
}
