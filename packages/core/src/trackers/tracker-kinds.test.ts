import fc from 'fast-check';
import { rectangle } from '../geometry/homography.js';
import { MEASURED_COLUMNS, type Measured, type MeasuredKind, type SampleState } from '../track/measured.js';
import { softSample } from '../soft/soft-track.js';
import { foldSteps, type SampleOf } from './tracker-kind.js';
import { trackerKind } from './tracker-kinds.js';

/** What holds for every kind of tracker alike. */

const MADE: { readonly [K in MeasuredKind]: (frame: number, x: number, state: SampleState) => SampleOf<K> } =
  {
    spot: (frame, x, state) => ({ frame, x, y: 20, confidence: 0.5, state }),
    surface: (frame, x, state) => ({ frame, corners: rectangle(x, 10, x + 40, 30), confidence: 0.5, state }),
    soft: (frame, x, state) => softSample(frame, [{ x, y: 3, confidence: 0.5, state }, null, { x: x + 9, y: 5, confidence: 0.5, state }]), // prettier-ignore
  };
const KINDS = Object.keys(MEASURED_COLUMNS) as MeasuredKind[];

describe.each(KINDS)('a tracker of kind %s', (name) => {
  const kind = trackerKind(name) as ReturnType<typeof trackerKind<'spot'>>;
  const made = MADE[name] as (typeof MADE)['spot'];
  const with_ = (frames: readonly number[], state: SampleState = 'tracked') =>
    kind.withSamples(kind.empty, frames.map((f) => made(f, f, state))); // prettier-ignore
  const framesOf = (track: Measured<'spot'>) =>
    Array.from({ length: 40 }, (_, f) => f).filter((f) => kind.at(track, f));

  it('gives samples back as they were put in, in whatever order they come', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(39), { minLength: 1, maxLength: 12 }), (frames) => {
        const track = with_(frames);
        expect(framesOf(track)).toEqual([...frames].sort((a, b) => a - b));
        for (const f of frames) expect(kind.at(track, f)).toMatchObject(made(f, f, 'tracked'));
      }),
      { numRuns: 30 },
    );
  });

  it('loses what an earlier run had from where it stopped to the end of this one, but for pins', () => {
    const known = new Map([['a', kind.withSamples(with_([0, 1, 2, 3, 4, 6, 12]), [made(5, 5, 'pinned')])]]);
    const step = { samples: [{ id: 'a', sample: made(3, 30, 'tracked') }, { id: 'gone', sample: made(3, 1, 'tracked') }], stopped: [{ id: 'a', frame: 4, since: 4, reason: '', message: '' }] }; // prettier-ignore
    const changed = foldSteps(kind, (id) => known.get(id) ?? null, [step], 9);
    expect([...changed.keys()]).toEqual(['a']);
    expect(framesOf(changed.get('a')!)).toEqual([0, 1, 2, 3, 5, 12]);
    expect(kind.at(changed.get('a')!, 3)).toMatchObject(made(3, 30, 'tracked'));
    const back = foldSteps(kind, () => known.get('a')!, [{ ...step, samples: [] }], 1);
    expect(framesOf(back.get('a')!)).toEqual([0, 5, 6, 12]);
  });
});
