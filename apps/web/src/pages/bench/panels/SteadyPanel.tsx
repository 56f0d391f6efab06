import { notesOn } from '@lurn/core/plan';
import { changeDocument } from '@lurn/model';
import { Check } from '../../../components/Check';
import { Segments } from '../../../components/Segments';
import { Slider } from '../../../components/Slider';
import { isMeasured } from '../../../lib/measured';
import { AMOUNTS, GOALS } from '../../../lib/words';
import { pixels } from '../../../lib/format';
import { useKeyTip } from '../../../state/keymap';
import { leaveOutOddest, setAmount, setGoal, useAim } from '../../../state/aims';
import { goTo, setBench, useBench, useBenchParts } from '../../../state/bench';
import { edit, useShot } from '../../../state/shot';
import { Areas } from './Areas';
import { Candidates } from './Candidates';
import { GOAL_MEANINGS, GOAL_VIEWS } from './goal-views';
import { AgainstIt, Held } from './Held';
import type { Helpers } from '../stations/station';
import { OverTime } from './OverTime';
import { Fold, Hint, Reading, Section } from './Section';
import { ShakeLeftPanel } from './ShakeLeftPanel';
import { SolveTable } from './SolveTable';

/** What the motion is to become, how much of it, and what is left. */
export function SteadyPanel({ measurer }: Helpers) {
  const { steady } = useBenchParts('steady');
  const { goal, amounts } = useAim();
  const view = GOAL_VIEWS[goal];
  const full =
    steady?.motion.support.some((s, f) => s === 'full' || steady.motion.filled?.[f] === 1) ?? false;
  return (
    <>
      <Section title="Goal">
        <Candidates />
        <Segments label="Goal" value={goal} options={GOALS} titles={GOAL_MEANINGS} onChange={setGoal} />
        <Hint>{view.meaning}</Hint>
        <FirstGoalNote />
        <Held />
        <RowByRow />
        <view.Settings />
      </Section>
      <ShakeLeftReading />
      <Section title={view.amounts}>
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
      <Areas />
      <OverTime />
      <Fold title="What is left, by component">
        <ShakeLeftPanel measure={() => void measurer.run()} />
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

/** A camera that reads its pictures out row by row: offered with what it betters. */
function RowByRow() {
  const readout = useBench((s) => s.scene?.readout ?? null);
  const fps = useBench((s) => s.info.fps);
  const on = useShot((s) => s.state.document.rowByRow);
  if (!readout) return null;
  const { share, before, after } = readout;
  const ms = ((1000 * Math.abs(share)) / fps).toFixed(1);
  return (
    <div>
      <Check checked={on} onChange={(on) => edit((s) => changeDocument(s, { rowByRow: on }))}>
        Put rows straight
      </Check>
      <Hint>
        The camera reads a picture out in <span className="num">{ms} ms</span>, so that it shears as it
        shakes: features are off by <span className="num">{pixels(before)}</span>, with rows straight by{' '}
        <span className="num">{pixels(after)}</span>.
      </Hint>
    </div>
  );
}

/** Why a clip that nobody has touched is steadied as it is, with the other goal one press away. */
function FirstGoalNote() {
  const first = useBench((s) => s.clip.made?.scene?.first ?? null);
  const { goal, trackers, held } = useShot((s) => s.state.document);
  // It tells of the surroundings.
  const others = trackers.length > 0 || held !== null;
  if (!first || others || goal.goal !== first.goal || goal.keys.length > 0) return null;
  const other = first.goal === 'still' ? 'calm' : 'still';
  return (
    <div className="flex items-start gap-2">
      <p className="quiet grow text-xs">{first.sentence}</p>
      <button
        type="button"
        className="btn btn-xs shrink-0"
        onClick={() => edit((s) => changeDocument(s, { goal: { ...s.document.goal, goal: other } }))}
      >
        {other === 'still' ? 'Still instead' : 'Calm instead'}
      </button>
    </div>
  );
}

/** Why nothing is held. */
function Unheld() {
  const { made, looked, info } = useBench((s) => s.clip);
  const areas = useShot((s) => s.state.document.areas);
  if (made?.scene && areas.length > 0)
    return <>The areas leave nothing to measure: make them smaller, or delete one.</>;
  if (looked !== null && info)
    return (
      <>
        The whole picture is still being looked at: <span className="num">{looked}</span> of{' '}
        <span className="num">{info.frames}</span> frames.
      </>
    );
  return <>{made?.unheld ?? 'Nothing is known yet that could be held.'}</>;
}

/** The one number, and what spoils it. */
function ShakeLeftReading() {
  const tip = useKeyTip();
  const { clip, steady, planning } = useBenchParts('clip', 'steady', 'planning');
  const { goal, range, trackers, held } = useShot((s) => s.state.document);
  if (!steady) {
    return (
      <Section title="Left of the shake">
        <Hint>
          <Unheld /> Mark spots and track them; the steadied picture then stands beside the source.
        </Hint>
      </Section>
    );
  }
  const { of: spots, motion, odd } = steady;
  const surface = trackers.some((t) => t.kind === 'surface' && t.used && t.mover === held);
  const flat = steady.bend !== null;
  const together = spots.filter((s) => motion.byId[s.id]?.rest).length - odd.length;
  return (
    <Section title="Left of the shake">
      {planning && (
        <p className="text-xs" role="status">
          Working out the path …
        </p>
      )}
      {clip.shakiness !== null && <Reading label="Shake of the source" value={pixels(clip.shakiness)} />}
      <Reading label="As shot, against this goal" value={pixels(steady.measure.before)} />
      {isMeasured(steady) ? (
        <Reading label="Steadied" value={pixels(steady.measure.after)} strong />
      ) : (
        <>
          <Reading label="Steadied" value="not measured" />
          <Hint>
            One spot or two stand still by themselves: that tells nothing of the picture. Mark a third, or
            measure on the pictures below.
          </Hint>
        </>
      )}
      {odd.length > 0 && (
        <Hint>Of the {together} spots that move together. What does not move with them:</Hint>
      )}
      {flat && (
        <Hint>
          It is laid flat, with every fold: look in the steadied picture for what still swims, and mend it
          there.
        </Hint>
      )}
      {spots.length === 0 && !surface && !flat && (
        <Hint>Measured on features of the whole picture that go with what is held.</Hint>
      )}
      {steady.perspective && (
        <Hint>
          The camera turned as well: how the picture leans is taken out. Features left out of the reckoning
          are {pixels(steady.perspective.with)} off, {pixels(steady.perspective.without)} without.
        </Hint>
      )}
      {spots.length === 0 && surface && (
        <Hint>
          Measured on the quad’s own corners, which are met as they were tracked: the grid check shows whether
          it sticks, and spots on it would tell in numbers.
        </Hint>
      )}
      {odd.slice(0, 3).map((o, i) => (
        <div key={o.spot} className="flex items-start gap-2 text-xs">
          <button type="button" className="grow text-left text-warning" onClick={() => goTo(o.worst)}>
            ▲ {o.sentence}
          </button>
          {i === 0 && (
            <button
              type="button"
              className="btn btn-xs shrink-0"
              title={tip('Leave the oddest spot out', 'leave-out')}
              onClick={leaveOutOddest}
            >
              Leave it out
            </button>
          )}
        </div>
      ))}
      <AgainstIt />
      {notesOn(steady, goal, range.from, range.to).map((note) => (
        <p key={note} className="text-xs text-warning">
          ▲ {note}
        </p>
      ))}
    </Section>
  );
}
