import { Trash2 } from 'lucide-react';
import type { Easing } from '@lurn/core/plan';
import { removeGoalKey, setGoalKey } from '@lurn/model';
import { IconButton } from '../../../components/Tip';
import { GOALS } from '../../../lib/words';
import { useKeyTip } from '../../../state/keymap';
import { toggleGoalKey } from '../../../state/aims';
import { goTo, useBench } from '../../../state/bench';
import { edit, useShot } from '../../../state/shot';
import { Hint, Section } from './Section';

const EASINGS: Record<Easing, string> = {
  smooth: 'eases over',
  linear: 'goes straight',
  hold: 'holds, then jumps',
};

/** Keyframes of goal and amounts. */
export function OverTime() {
  const tip = useKeyTip();
  const frame = useBench((s) => s.frame);
  const { keys } = useShot((s) => s.state.document.goal);
  const here = keys.some((k) => k.frame === frame);
  return (
    <Section title="Over time">
      <button
        type="button"
        className="btn btn-sm w-full"
        title={tip('Keyframe here, or away with it', 'goal-key')}
        onClick={toggleGoalKey}
      >
        {here ? 'Remove the keyframe here' : 'Keyframe here'}
      </button>
      {keys.length === 0 ? (
        <Hint>Goal and amounts hold throughout. With keyframes they change: hold, then let go.</Hint>
      ) : (
        <ul className="text-xs" aria-label="Keyframes">
          {keys.map((key, i) => (
            <li
              key={key.frame}
              className={`flex items-center gap-1 ${key.frame === frame ? 'bg-base-300' : ''}`}
            >
              <button type="button" className="num w-10 px-1 text-right" onClick={() => goTo(key.frame)}>
                {key.frame}
              </button>
              <span className="w-10">{GOALS[key.goal]}</span>
              {i < keys.length - 1 ? (
                <select
                  className="select select-xs grow"
                  aria-label={`After frame ${key.frame}`}
                  value={key.easing}
                  onChange={(e) => {
                    const easing = e.target.value as Easing;
                    edit((s) => setGoalKey(s, { ...key, easing }));
                    e.target.blur();
                  }}
                >
                  {Object.entries(EASINGS).map(([value, text]) => (
                    <option key={value} value={value}>
                      {text}
                    </option>
                  ))}
                </select>
              ) : (
                <span className="quiet grow px-2">to the end</span>
              )}
              <IconButton
                label={`Remove the keyframe on frame ${key.frame}`}
                onClick={() => edit((s) => removeGoalKey(s, key.frame))}
              >
                <Trash2 size={12} />
              </IconButton>
            </li>
          ))}
        </ul>
      )}
    </Section>
  );
}
