import { toast } from 'sonner';
import { LurnError } from '@lurn/core';
import type { Doubt, DoubtGroup } from '@lurn/core/doubt';
import type { ImportedSpot } from '@lurn/core/formats';
import type { Point } from '@lurn/core/geometry';
import {
  bridge,
  bridgeMesh,
  defaultSettings,
  EMPTY_TRACK,
  gapOfMesh,
  hasSample,
  joinOn,
  patchPlace,
  sampleAt,
  softAt,
  tame,
  measuredEnd,
  withoutSamples,
  withSamples,
} from '@lurn/core/track';
import {
  acceptDoubts,
  addTracker,
  NEW_SPOT,
  nextColour,
  removeJoin,
  setJoin,
  setMeasured,
  softTrackOf,
  spotById,
  spotsOf,
  trackOf,
  type Spot,
} from '@lurn/model';
import { pinSpot } from './edit-spots';
import { bench, goTo, setBench, setDoubts, type Span } from './bench';
import { selectedSoft } from './soft/mesh-shown';
import { edit, shotDocument, shotState } from './shot';

/** What the editor does about doubtful places; each is one step of undo. */

export const selectedSpots = (): Spot[] =>
  spotsOf(shotDocument()).filter((s) => bench().selected.includes(s.id));

/** Goes to a doubt of the list: its spot selected, its worst frame shown, its span chosen. */
export function lookAt(doubt: Doubt | undefined): void {
  if (!doubt) return;
  setBench({
    doubtAt: doubt,
    // A doubt about the picture has no spot: about its edges it is seen to in Frame, about what is held in Steady.
    ...(doubt.spot
      ? { selected: [doubt.spot], station: 'repair' as const }
      : { station: doubt.reason === 'edge-shows' ? ('frame' as const) : ('steady' as const) }),
    playing: false,
    span: { from: doubt.from, to: doubt.to },
  });
  goTo(doubt.worst);
}

export function nextDoubt(step: 1 | -1): void {
  const { doubts, doubtAt } = bench();
  if (doubts.length === 0) {
    toast.info('There is no doubt: every sample can be trusted as far as the program can tell.', {
      id: 'doubt',
    });
    return;
  }
  const at = doubtAt ? doubts.indexOf(doubtAt) : -1;
  const next = at < 0 ? (step > 0 ? 0 : doubts.length - 1) : (at + step + doubts.length) % doubts.length;
  lookAt(doubts[next]);
}

/** "It is fine": the doubt leaves the list, and the next comes up. */
export function itIsFine(): void {
  const { doubts, doubtAt } = bench();
  if (!doubtAt) {
    toast.info('Go to a doubt first.', { id: 'doubt' });
    return;
  }
  accept([doubtAt], doubts.indexOf(doubtAt));
}

/** "All of it is fine": every doubt of one cause leaves the list. */
export function allIsFine({ doubts }: DoubtGroup): void {
  accept(doubts, bench().doubts.indexOf(doubts[0]));
}

function accept(doubts: readonly Doubt[], at: number): void {
  edit((state) => acceptDoubts(state, doubts));
  const others = (list: readonly Doubt[]) => list.filter((d) => !doubts.includes(d));
  setDoubts({ spotDoubts: others(bench().spotDoubts), edgeDoubts: others(bench().edgeDoubts) });
  const rest = bench().doubts;
  if (rest.length > 0) lookAt(rest[Math.min(Math.max(0, at), rest.length - 1)]);
  else setBench({ span: null });
}

/** The frames that a repair is about: those chosen on the ribbons, else those of the doubt that is looked at. */
export function repairSpan(): Span | null {
  const { span, doubtAt } = bench();
  return span ?? (doubtAt ? { from: doubtAt.from, to: doubtAt.to } : null);
}

/** Bridges the gaps of the chosen span, or the one gap that the playhead is in. */
export function bridgeGap(): void {
  const { frame, points } = bench();
  const spots = selectedSpots();
  const soft = selectedSoft();
  if (spots.length === 0 && !soft) {
    toast.warning('Select the spot or soft surface whose gap is to be bridged.', { id: 'repair' });
    return;
  }
  const tell = (name: string, error: unknown) =>
    toast.warning(`"${name}": ${(error as LurnError).message}`, { id: 'repair' });
  edit((state) => {
    const changed = { ...state.measured };
    if (soft) {
      const track = softTrackOf(state, soft.id);
      // Where nothing of it is known, no point of it can be meant more than another.
      const only = points.length > 0 && softAt(track, frame) ? new Set(points) : undefined;
      const { from, to } = repairSpan() ?? gapOfMesh(track, frame, only);
      try {
        changed[soft.id] = bridgeMesh(track, from, to, only);
      } catch (error) {
        tell(soft.name, error);
      }
    }
    for (const spot of spots) {
      const track = trackOf(state, spot.id);
      const span = repairSpan() ?? gapRound(track, frame);
      try {
        // What is doubtful goes first: a bridge spans from one trusted sample to the next.
        const bare = repairSpan() ? withoutSamples(track, span.from, span.to, (s) => s !== 'pinned') : track;
        changed[spot.id] = bridge(bare, span.from, span.to);
      } catch (error) {
        tell(spot.name, error);
      }
    }
    return setMeasured(state, changed);
  });
}

function gapRound(track: typeof EMPTY_TRACK, frame: number): Span {
  let [from, to] = [frame, frame];
  const firm = (f: number) => {
    const s = sampleAt(track, f);
    return s !== null && (s.state === 'tracked' || s.state === 'pinned');
  };
  while (from > track.start && !firm(from)) from--;
  while (to < measuredEnd(track) && !firm(to)) to++;
  return { from, to };
}

/** Begins carrying on elsewhere: the next press on the picture says where the patch goes. */
export function beginCarryOn(): void {
  const { frame, tool } = bench();
  if (tool.id === 'carry-on') {
    setBench({ tool: { id: 'mark' } });
    return;
  }
  const [spot] = selectedSpots();
  if (!spot || !hasSample(trackOf(shotState(), spot.id), frame)) {
    toast.warning('Select a spot and go to a frame where it has a sample: from there its path carries on.', {
      id: 'repair',
    });
    return;
  }
  setBench({ tool: { id: 'carry-on', spot: spot.id }, station: 'repair' });
}

/** Puts the patch on another feature from this frame on; the path stays where it is. */
export function carryOnAt(id: string, place: Point): void {
  const { frame } = bench();
  const { document, measured } = shotState();
  const sample = sampleAt(trackOf({ measured }, id), frame);
  const spot = spotById(document, id);
  if (!sample || !spot) return;
  const others = spotsOf(document).filter(
    (s) => s.id !== id && s.mover === spot.mover && hasSample(trackOf({ measured }, s.id), frame),
  );
  const companion = others[0]?.id ?? null;
  edit((state) => {
    const pinnedHere = withSamples(trackOf(state, id), [
      { ...sample, frame, confidence: 1, state: 'pinned' },
    ]);
    const bare = withoutSamples(pinnedHere, frame + 1, Number.MAX_SAFE_INTEGER);
    const join = { frame, dx: place.x - sample.x, dy: place.y - sample.y, companion };
    return setMeasured(setJoin(state, id, join), { [id]: bare });
  });
  setBench({ tool: { id: 'mark' } });
  toast.info(
    `"${spot.name}" carries on from frame ${frame}${companion ? `, turning with "${others[0].name}"` : ''}. Track on (T) to follow the new feature.`,
    { id: 'repair' },
  );
}

/** Moves a join to another frame; what lay between has to be tracked anew. */
export function moveJoin(id: string, from: number, to: number): void {
  edit((state) => {
    const spot = spotById(state.document, id);
    const join = spot?.joins.find((j) => j.frame === from);
    const track = trackOf(state, id);
    const at = sampleAt(track, to);
    if (!join || !at || from === to) return state;
    const pinnedThere = withSamples(track, [{ ...at, frame: to, confidence: 1, state: 'pinned' }]);
    const released = sampleAt(track, from)!;
    const freed = withSamples(pinnedThere, [{ ...released, frame: from, confidence: 0.9, state: 'tracked' }]);
    return setMeasured(setJoin(removeJoin(state, id, from), id, { ...join, frame: to }), { [id]: freed });
  });
}

export function undoJoin(id: string, frame: number): void {
  edit((state) => removeJoin(state, id, frame));
}

/** Where a spot's patch is on a frame, which is not where its path is once it has carried on elsewhere. */
export function patchAt(spot: Spot, frame: number): Point | null {
  const { measured } = shotState();
  const path = sampleAt(trackOf({ measured }, spot.id), frame);
  if (!path) return null;
  const join = joinOn(spot.joins, frame);
  const companion = join?.companion ? trackOf({ measured }, join.companion) : undefined;
  const place = (f: number) => (companion ? sampleAt(companion, f) : null);
  return patchPlace(
    join,
    path,
    join && sampleAt(trackOf({ measured }, spot.id), join.frame),
    frame,
    companion && place,
  );
}

/** Moves a patch by hand: the path's sample there becomes a pin that keeps the offset. */
export function pinPatch(spot: Spot, place: Point): void {
  const { frame } = bench();
  const patch = patchAt(spot, frame);
  const path = sampleAt(trackOf(shotState(), spot.id), frame);
  if (!patch || !path || spot.joins.length === 0) pinSpot(spot.id, place);
  else pinSpot(spot.id, { x: path.x + place.x - patch.x, y: path.y + place.y - patch.y });
}

/** Shows what taming the pins of the span by an amount would do; applied by {@link applyTaming}. */
export function previewTaming(amount: number): void {
  const [spot] = selectedSpots();
  if (!spot) return;
  const { from, to } = repairSpan() ?? shotDocument().range;
  const track = trackOf(shotState(), spot.id);
  const tamed = tame(track, from, to, amount);
  setBench({
    preview: amount > 0 && tamed !== track ? { spot: spot.id, track: tamed } : null,
    curvesOf: spot.id,
  });
}

export function applyTaming(): void {
  const { preview } = bench();
  if (preview) edit((state) => setMeasured(state, { [preview.spot]: preview.track }));
  setBench({ preview: null });
}

/** Takes imported tracks over: new spots, or new samples of the spots that have their names. One step of undo. */
export function takeImported(imported: readonly ImportedSpot[], replace: boolean): void {
  const { info } = bench();
  edit((before) => {
    let state = before;
    for (const { name, track } of imported) {
      const twin = replace ? spotsOf(state.document).find((s) => s.name === name) : undefined;
      if (twin) {
        state = setMeasured(state, { [twin.id]: track });
        continue;
      }
      const { patch, reach, minConfidence } = defaultSettings(info.height);
      const taken = new Set(spotsOf(state.document).map((s) => s.name));
      let free = name.slice(0, 56);
      for (let i = 2; taken.has(free); i++) free = `${name.slice(0, 52)} ${i}`;
      const spot: Spot = {
        ...NEW_SPOT,
        id: crypto.randomUUID(),
        mover: state.document.movers[0].id,
        name: free,
        colour: nextColour(state.document),
        ...{ patch, reach, minConfidence },
      };
      state = addTracker(state, spot, track);
    }
    return state;
  });
}
