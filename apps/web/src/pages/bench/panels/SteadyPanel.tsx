import { notesOn } from '@lurn/core';
import { solvedSpots } from '@lurn/model';
import { Segments } from '../../../components/Segments';
import { Slider } from '../../../components/Slider';
import { AMOUNTS, GOALS } from '../../../lib/words';
import { pixels } from '../../../lib/format';
import { leaveOutOddest, setAmount, setGoal, useAim } from '../../../state/aims';
import { goTo, setBench, useBenchParts } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import { CalmSettings, LockSettings, StillSettings } from './GoalSettings';
import { LeftPanel } from './LeftPanel';
import { OverTime } from './OverTime';
import { Fold, Hint, Reading, Section } from './Section';
import { SolveTable } from './SolveTable';

const MEANING = {
  still: 'What is held stands as on a tripod.',
  calm: 'The shake goes, the moves that were meant stay.',
  lock: 'The subject stays in its place, and the world moves round it.',
} as const;

/** What the motion is to become, how much of it, and what is left. */
export function SteadyPanel({ measure }: { readonly measure: () => void }) {
  const { steady } = useBenchParts('steady');
  const { goal, amounts } = useAim();
  const full = steady?.motion.support.some((s) => s === 'full') ?? false;
  return (
    <>
      <Section title="Goal">
        <Segments label="Goal" value={goal} options={GOALS} titles={MEANING} onChange={setGoal} />
        <Hint>{MEANING[goal]}</Hint>
        {goal === 'still' && <StillSettings />}
        {goal === 'calm' && <CalmSettings />}
        {goal === 'lock' && <LockSettings />}
      </Section>
      <LeftReading />
      <Section title={goal === 'lock' ? 'How firmly it is held' : 'Take out'}>
        {AMOUNTS.map(([part, name]) => {
          const needsTwo = steady !== null && !full && (part === 'rotation' || part === 'scale');
          return (
            <Slider
              key={part}
              label={name}
              unit="%"
              value={amounts[part] * 100}
              min={0}
              max={100}
              disabled={needsTwo}
              onChange={(v) => setAmount(part, v / 100)}
            />
          );
        })}
      </Section>
      <OverTime />
      <Fold title="What is left, by component">
        <LeftPanel measure={measure} />
      </Fold>
      <Fold title="Spots in the solve">
        <SolveTable />
      </Fold>
      <div className="px-3 py-3">
        <button
          type="button"
          className="btn btn-sm w-full"
          disabled={!steady}
          onClick={() => setBench({ numbers: true })}
        >
          Motion and correction in numbers …
        </button>
      </div>
    </>
  );
}

/** The one number, and what spoils it. */
function LeftReading() {
  const { steady, planning } = useBenchParts('steady', 'planning');
  const state = useShot((s) => s.state);
  const { range } = state.document;
  if (!steady) {
    return (
      <Section title="Left of the shake">
        <Hint>
          Nothing has been tracked yet. Mark spots and track them; the steadied picture then stands beside the
          source.
        </Hint>
      </Section>
    );
  }
  const spots = solvedSpots(state);
  const together = spots.filter((_, i) => steady.motion.rest[i] !== null).length - steady.odd.length;
  return (
    <Section title="Left of the shake">
      {planning && (
        <p className="text-xs" role="status">
          Working out the path …
        </p>
      )}
      <Reading label="As shot" value={pixels(steady.measure.before)} />
      <Reading label="Steadied" value={pixels(steady.measure.after)} strong />
      {steady.odd.length > 0 && (
        <Hint>Of the {together} spots that move together. What does not move with them:</Hint>
      )}
      {spots.length < 3 && (
        <Hint>One or two spots are always met exactly; a third would tell how well it holds.</Hint>
      )}
      {steady.odd.slice(0, 3).map((o, i) => (
        <div key={o.spot} className="flex items-start gap-2 text-xs">
          <button type="button" className="grow text-left text-warning" onClick={() => goTo(o.worst)}>
            ▲ {o.sentence}
          </button>
          {i === 0 && (
            <button
              type="button"
              className="btn btn-xs shrink-0"
              title="Leave the oddest spot out (Shift U)"
              onClick={leaveOutOddest}
            >
              Leave it out
            </button>
          )}
        </div>
      ))}
      {notesOn(
        steady,
        spots.map((s) => s.name),
        state.document.goal,
        range.from,
        range.to,
      ).map((note) => (
        <p key={note} className="text-xs text-warning">
          ▲ {note}
        </p>
      ))}
    </Section>
  );
}
