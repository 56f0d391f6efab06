import { toast } from 'sonner';
import {
  countSamples,
  foldSteps,
  trackerKind,
  withoutSamples,
  type MeasuredKind,
  type MeasuredStep,
  type SampleOf,
} from '@lurn/core/track';
import { changeDocument, measuredOf, rulesOf, setMeasured, type Tracker } from '@lurn/model';
import { plural } from '../lib/format';
import { bench, setBench } from './bench';
import { edit, shotDocument, shotState } from './shot';

/** What trackers measured, taken over into the shot. */

/** Where nothing else is marked or chosen, the surface that was tracked is what is held from now on. */
export function holdTracked(tracked: readonly Tracker[]): void {
  const { held, trackers } = shotDocument();
  if (held !== null || trackers.some((t) => !rulesOf(t).ownMover)) return;
  const { measured } = shotState();
  const first = tracked.find(({ id }) => measured[id] && countSamples(measured[id], 2) > 1);
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
export function takeSteps<K extends MeasuredKind>(
  kind: K,
  steps: readonly (MeasuredStep<K> & { readonly frame: number; readonly done: number })[],
  to: number,
): void {
  edit((state) => {
    // It may have been deleted meanwhile.
    const known = (id: string) =>
      state.document.trackers.some((t) => t.id === id) ? measuredOf(state, kind, id) : null;
    return setMeasured(state, Object.fromEntries(foldSteps(trackerKind(kind), known, steps, to)));
  });
  progressed(steps[steps.length - 1]);
}

/** Takes what was tracked between two pins over, and tells how it went. */
export function takeBetween<K extends MeasuredKind>(
  { id, kind, name }: { readonly id: string; readonly kind: K; readonly name: string },
  a: number,
  b: number,
  samples: readonly SampleOf<K>[],
  unseen: number,
): void {
  edit((state) => {
    const bare = withoutSamples(measuredOf(state, kind, id), a + 1, b - 1);
    return setMeasured(state, { [id]: trackerKind(kind).withSamples(bare, samples) });
  });
  const apart = samples.filter((s) => 'mismatch' in s && s.mismatch).length;
  const notes = [
    ...(unseen > 0 ? [`${plural(unseen, 'frame')} seen from neither side, and coasted`] : []),
    ...(apart > 0 ? [`on ${apart} the two sides disagree: see Doubts`] : []),
  ];
  toast.success(
    `"${name}" tracked between frames ${a} and ${b}${notes.length ? `; ${notes.join('; ')}` : ''}.`,
    {
      id: 'track',
    },
  );
}
