import { deleteArea } from './areas';
import { toast } from 'sonner';
import type { Point } from '@lurn/core/geometry';
import {
  EMPTY_TRACK,
  defaultSettings,
  hasSample,
  sampleAt,
  withoutSamples,
  withSamples,
} from '@lurn/core/track';
import {
  addTracker,
  changeDocument,
  changeSpot,
  NEW_SPOT,
  nextColour,
  nextName,
  removeTrackers,
  setRange,
  setMeasured,
  type Spot,
  spotsOf,
  trackOf,
} from '@lurn/model';
import { nudgeSubject } from './aims';
import { bench, goTo, setBench } from './bench';
import { deleteLayer, nudgeLayer } from './layers';
import { deleteVertices, moveVertex } from './soft/mesh-points';
import { placesShown, selectedSoft } from './soft/mesh-shown';
import { beginGesture, edit, endGesture, shotDocument, shotState } from './shot';
import { showsAt } from './stations';

/** What the editor does to spots and frames; each is one step of undo unless a gesture is under way. */

/** Places a new spot on the present frame, pinned there, and selects it. @returns its id */
export function placeSpot(at: Point): string {
  const { frame, info } = bench();
  const document = shotDocument();
  const { patch, reach, minConfidence } = defaultSettings(info.height);
  const like = spotsOf(document).find((s) => bench().selected.includes(s.id));
  const spot: Spot = {
    id: crypto.randomUUID(),
    name: nextName(document),
    colour: nextColour(document),
    patch,
    reach,
    minConfidence,
    ...NEW_SPOT,
    mover: like?.mover ?? document.held ?? document.movers[0].id,
    ...(like && { eye: like.eye }),
  };
  const place = inside(at);
  const track = withSamples(EMPTY_TRACK, [{ frame, ...place, confidence: 1, state: 'pinned' }]);
  edit((state) => addTracker(state, spot, track));
  setBench({ selected: [spot.id] });
  return spot.id;
}

/** Moves a spot on a frame by hand: its sample there becomes a pin. */
export function pinSpot(id: string, at: Point, frame = bench().frame): void {
  const sample = { frame, ...inside(at), confidence: 1, state: 'pinned' as const };
  edit((state) => setMeasured(state, { [id]: withSamples(trackOf(state, id), [sample]) }));
}

export function nudge(dx: number, dy: number): void {
  const { frame, selected, station } = bench();
  const { goals, layers } = showsAt(station);
  if (goals && nudgeSubject(10 * dx, 10 * dy)) return;
  if (layers && nudgeLayer(dx, dy)) return;
  if (nudgePoints(dx, dy)) return;
  for (const id of selected) {
    const sample = sampleAt(trackOf(shotState(), id), frame);
    if (sample) pinSpot(id, { x: sample.x + dx, y: sample.y + dy });
  }
}

/** Nudges the chosen points of a mesh. @returns false where none is chosen */
function nudgePoints(dx: number, dy: number): boolean {
  const { frame, points } = bench();
  const soft = selectedSoft();
  if (!soft || points.length === 0) return false;
  beginGesture();
  for (const index of points) {
    const from = placesShown(soft, frame)?.[index];
    const refused = from && moveVertex(soft.id, index, frame, { x: from.x + dx, y: from.y + dy });
    if (refused) toast.warning(refused, { id: 'mesh' });
  }
  endGesture();
  setBench({ points });
  return true;
}

/** Changes what a spot is told to do. */
export function editSpot(id: string, change: Partial<Omit<Spot, 'id' | 'kind'>>): void {
  edit((state) => changeSpot(state, id, change));
}

export function deleteSelected(): void {
  const { selected, station } = bench();
  const { layers, places } = showsAt(station);
  if (layers && deleteLayer()) return;
  if (places && deleteVertices()) return;
  if (selected.length === 0) {
    deleteArea();
    return;
  }
  edit((state) => removeTrackers(state, selected));
  setBench({ selected: [], points: [] });
}

/** Deletes samples of what is selected, or of all when nothing is. */
export function deleteSamples(from: number, to: number): void {
  const { selected } = bench();
  const ids = selected.length > 0 ? selected : shotDocument().trackers.map((t) => t.id);
  edit((state) =>
    setMeasured(
      state,
      Object.fromEntries(
        ids.flatMap((id) => {
          const measured = state.measured[id];
          return measured ? [[id, withoutSamples(measured, from, to)]] : [];
        }),
      ),
    ),
  );
}

export function selectNeighbour(step: 1 | -1): void {
  const spots = shotDocument().trackers;
  if (spots.length === 0) return;
  const at = spots.findIndex((s) => s.id === bench().selected[0]);
  const next = at < 0 ? (step > 0 ? 0 : spots.length - 1) : (at + step + spots.length) % spots.length;
  setBench({ selected: [spots[next].id] });
}

export function setEdge(edge: 'from' | 'to'): void {
  edit((state) => setRange(state, edge, bench().frame));
}

export function setReference(frame = bench().frame): void {
  edit((state) => changeDocument(state, { ref: frame }));
}

/** Goes to the nearest frame on which a spot or surface has a sample, and says so. */
export function goToSpot(id: string): void {
  const track = shotState().measured[id];
  const { frame } = bench();
  if (!track || track.state.length === 0 || hasSample(track, frame)) return;
  const last = track.start + track.state.length - 1;
  goTo(frame < track.start ? track.start : last);
  toast.info(`There is no sample on frame ${frame}; this is the nearest that has one.`, { id: 'nearest' });
}

function inside({ x, y }: Point): Point {
  const { width, height } = bench().info;
  return { x: Math.min(width, Math.max(0, x)), y: Math.min(height, Math.max(0, y)) };
}
