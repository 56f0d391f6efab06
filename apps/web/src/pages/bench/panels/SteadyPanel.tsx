import { changeDocument, type ShotDocument } from '@lurn/model';
import { NumberField } from '../../../components/NumberField';
import { pixels, plural } from '../../../lib/format';
import { setReference } from '../../../state/acts';
import { goTo, useBench } from '../../../state/bench';
import { beginGesture, edit, endGesture, useShot } from '../../../state/shot';
import { Hint, Reading, Section } from './Section';

const PARTS = [
  ['x', 'Across'],
  ['y', 'Up-down'],
  ['rotation', 'Rotation'],
  ['scale', 'Scale'],
] as const;

export function SteadyPanel() {
  const { steady, frame, info } = useBench();
  const { use, ref, range, spots } = useShot((s) => s.state.document);
  const toggle = (part: keyof ShotDocument['use'], on: boolean) =>
    edit((state) => changeDocument(state, { use: { ...state.document.use, [part]: on } }));
  const full = steady?.motion.support.some((s) => s === 'full') ?? false;
  const held = steady
    ? steady.motion.support.slice(range.from, range.to + 1).filter((s) => s === 'none').length
    : 0;
  const unlinked = steady ? spots.filter((s) => s.used).filter((_, i) => steady.motion.rest[i] === null) : [];
  return (
    <>
      <Section title="Still: what is held stands as on a tripod">
        {steady ? (
          <>
            <Reading label="Shake as shot" value={pixels(steady.measure.before)} />
            <Reading label="Left of it" value={pixels(steady.measure.after)} strong />
            <Hint>
              How far the spots are from their mean places, root mean square, frames{' '}
              <span className="num">{range.from}</span> to <span className="num">{range.to}</span>.
              {spots.filter((s) => s.used).length < 3 &&
                ' One or two spots are always met exactly; a third would tell how well it holds.'}
            </Hint>
          </>
        ) : (
          <Hint>
            Nothing has been tracked yet. Mark spots and track them; the steadied picture then stands beside
            the source.
          </Hint>
        )}
      </Section>
      <Section title="Take out">
        {PARTS.map(([part, name]) => {
          const needsTwo = part === 'rotation' || part === 'scale';
          return (
            <label key={part} className="flex cursor-pointer items-center justify-between">
              <span>
                {name}
                {needsTwo && steady && !full && <span className="quiet text-xs"> – needs a second spot</span>}
              </span>
              <input
                type="checkbox"
                className="toggle toggle-sm toggle-primary"
                checked={use[part]}
                onChange={(e) => toggle(part, e.target.checked)}
              />
            </label>
          );
        })}
      </Section>
      <Section title="Reference frame">
        <NumberField
          label="Stays as it was shot"
          value={ref}
          min={0}
          max={info.frames - 1}
          onDragStart={beginGesture}
          onDragEnd={endGesture}
          onChange={(v) => setReference(v)}
        />
        <div className="flex gap-1.5">
          <button
            type="button"
            className="btn btn-xs"
            title="Reference frame here (R)"
            onClick={() => setReference(frame)}
          >
            This frame
          </button>
          <button
            type="button"
            className="btn btn-xs"
            title="To the reference frame (W)"
            onClick={() => goTo(ref)}
          >
            Go to it
          </button>
        </div>
      </Section>
      {steady && (held > 0 || unlinked.length > 0) && (
        <Section title="Take note">
          {held > 0 && (
            <p className="text-xs">
              {plural(held, 'frame')} of the range without any sample: the nearest correction is held there.
            </p>
          )}
          {unlinked.length > 0 && (
            <p className="text-xs">
              {unlinked.map((s) => s.name).join(', ')}: never seen together with the other spots, so not used.
            </p>
          )}
        </Section>
      )}
    </>
  );
}
