import { toast } from 'sonner';
import {
  countSamples,
  withoutSamples,
  withSamples,
  withSoftSamples,
  withSurfaceSamples,
  type FramedSample,
  type Measured,
  type SoftSample,
  type SurfaceSample,
} from '@lurn/core';
import {
  changeDocument,
  setMeasured,
  softTrackOf,
  surfaceTrackOf,
  trackOf,
  type ShotState,
  type SoftSurface,
  type Surface,
  type Tracker,
} from '@lurn/model';
import { plural } from '../lib/format';
import { bench, setBench } from './bench';
import { edit, shotDocument, shotState } from './shot';

/** What trackers measured, taken over into the shot. */

/** What a batch of steps of any kind of tracker has brought. */
export interface Taken<S> {
  readonly frame: number;
  readonly done: number;
  readonly samples: readonly { readonly id: string; readonly sample: S }[];
  readonly stopped: readonly { readonly id: string; readonly since: number }[];
}

/** Where nothing else is marked or chosen, the surface that was tracked is what is held from now on. */
export function holdTracked(surfaces: readonly (Surface | SoftSurface)[]): void {
  const { held, trackers } = shotDocument();
  if (held !== null || trackers.some((t) => t.kind === 'spot')) return;
  const { measured } = shotState();
  const first = surfaces.find(({ id }) => measured[id] && countSamples(measured[id], 2) > 1);
  if (!first) return;
  edit((s) => changeDocument(s, { held: first.mover }));
  toast.info(`${first.name} is held now.`, { id: 'track' });
}

/** The playhead goes with what is measured. */
function progressed({ frame, done }: { readonly frame: number; readonly done: number }): void {
  const { tracking } = bench();
  if (tracking) setBench({ frame, tracking: { ...tracking, frame, done } });
}

/** Takes a batch of measured frames over; what stopped loses what was tracked beyond by an earlier run. */
export function takeSteps<S, T extends Measured>(
  steps: readonly Taken<S>[],
  to: number,
  known: (state: ShotState, id: string) => T,
  withFresh: (track: T, samples: S[]) => T,
): void {
  edit((state) => {
    const changed: Record<string, T> = {};
    // It may have been deleted meanwhile.
    const there = (id: string) => state.document.trackers.some((t) => t.id === id);
    const of = (id: string) => changed[id] ?? known(state, id);
    const fresh = new Map<string, S[]>();
    for (const { id, sample } of steps.flatMap((s) => s.samples))
      if (there(id)) fresh.set(id, [...(fresh.get(id) ?? []), sample]);
    for (const [id, samples] of fresh) changed[id] = withFresh(of(id), samples);
    for (const { id, since } of steps.flatMap((s) => s.stopped)) {
      const [a, b] = since <= to ? [since, to] : [to, since];
      if (there(id)) changed[id] = withoutSamples(of(id), a, b, (s) => s !== 'pinned') as T;
    }
    return setMeasured(state, changed);
  });
  progressed(steps[steps.length - 1]);
}

/** Takes what was tracked between two pins over, and tells how it went. */
export function takeBetween(
  spot: Tracker,
  a: number,
  b: number,
  samples: readonly (FramedSample | SurfaceSample | SoftSample)[],
  unseen: number,
): void {
  edit((state) => {
    if (spot.kind === 'soft')
      return setMeasured(state, {
        [spot.id]: withSoftSamples(softTrackOf(state, spot.id), samples as SoftSample[]),
      });
    if (spot.kind === 'surface') {
      const bare = withoutSamples(surfaceTrackOf(state, spot.id), a + 1, b - 1);
      return setMeasured(state, { [spot.id]: withSurfaceSamples(bare, samples as SurfaceSample[]) });
    }
    const bare = withoutSamples(trackOf(state, spot.id), a + 1, b - 1);
    return setMeasured(state, { [spot.id]: withSamples(bare, samples as FramedSample[]) });
  });
  const apart = samples.filter((s) => 'mismatch' in s && s.mismatch).length;
  const notes = [
    ...(unseen > 0 ? [`${plural(unseen, 'frame')} seen from neither side, and coasted`] : []),
    ...(apart > 0 ? [`on ${apart} the two sides disagree: see Doubts`] : []),
  ];
  toast.success(
    `"${spot.name}" tracked between frames ${a} and ${b}${notes.length ? `; ${notes.join('; ')}` : ''}.`,
    {
      id: 'track',
    },
  );
}
