import { useState } from 'react';
import { changeGoal, LIMITS } from '@lurn/model';
import { Check } from '../../../components/Check';
import { NumberField } from '../../../components/NumberField';
import { Slider } from '../../../components/Slider';
import { AMOUNTS } from '../../../lib/words';
import { useKeyTip } from '../../../state/keymap';
import { setReference } from '../../../state/edit-spots';
import { setCalm, setLock, setSmoothing } from '../../../state/aims';
import { bench, goTo, useBenchParts } from '../../../state/bench';
import { beginGesture, edit, endGesture, useShot } from '../../../state/shot';
import { Choice } from './Choice';
import { Hint } from './Section';

const drag = { onDragStart: beginGesture, onDragEnd: endGesture };

export function StillSettings() {
  const tip = useKeyTip();
  const { info } = useBenchParts('info');
  const { ref, goal } = useShot((s) => s.state.document);
  return (
    <>
      <Choice
        label="Stands as"
        value={goal.pose}
        options={{ frame: 'reference frame', average: 'average pose' }}
        onChange={(pose) => edit((s) => changeGoal(s, { pose }))}
      />
      {goal.pose === 'frame' && (
        <>
          <NumberField
            label="Reference frame"
            value={ref}
            min={0}
            max={info.frames - 1}
            {...drag}
            onChange={(v) => setReference(v)}
          />
          <div className="flex gap-1.5">
            <button
              type="button"
              className="btn btn-xs"
              title={tip('Reference frame here', 'ref')}
              onClick={() => setReference(bench().frame)}
            >
              This frame
            </button>
            <button
              type="button"
              className="btn btn-xs"
              title={tip('To the reference frame', 'to-ref')}
              onClick={() => goTo(ref)}
            >
              Go to it
            </button>
          </div>
        </>
      )}
    </>
  );
}

/** Seconds that the slider reaches; the field takes more. */
const SLIDER_SECONDS = 8;

export function CalmSettings() {
  const { calm } = useShot((s) => s.state.document.goal);
  const { smoothing } = calm;
  const apart = new Set(Object.values(smoothing)).size > 1;
  const [each, setEach] = useState(apart);
  const slider = {
    unit: 's',
    min: 0,
    max: SLIDER_SECONDS,
    most: LIMITS.smoothing[1],
    step: 0.05,
    decimals: 2,
  };
  return (
    <>
      <Choice
        label="Method"
        value={calm.method}
        options={{ gaussian: 'smooth course', optimal: 'camera-like path' }}
        onChange={(method) => setCalm({ method })}
      />
      {(each ? AMOUNTS : ([['x', 'Smoothing']] as const)).map(([part, name]) => (
        <Slider
          key={part}
          {...slider}
          label={name}
          value={smoothing[part]}
          fine
          onChange={(v) => setSmoothing(v, each ? part : undefined)}
        />
      ))}
      <Check
        checked={each}
        onChange={(on) => {
          setEach(on);
          if (!on && apart) setSmoothing(smoothing.x);
        }}
      >
        Each component on its own
      </Check>
      {calm.method === 'optimal' && (
        <Slider
          label="Zoom at most"
          unit="%"
          value={calm.maxZoom * 100}
          min={100}
          max={150}
          most={LIMITS.maxZoom[1] * 100}
          step={0.5}
          decimals={1}
          onChange={(v) => setCalm({ maxZoom: v / 100 })}
        />
      )}
      <Hint>
        {calm.method === 'gaussian'
          ? 'Moves shorter than this go, longer ones stay.'
          : 'Still, then steady, then easing over, as on a dolly, near the smoothed course; no frame needs more zoom than this.'}
      </Hint>
    </>
  );
}

export function LockSettings() {
  const { lock, calm } = useShot((s) => s.state.document.goal);
  const seconds = { unit: 's', min: LIMITS.ease[0], max: LIMITS.ease[1], step: 0.1, decimals: 1, ...drag };
  return (
    <>
      <Choice
        label="Held"
        value={lock.place}
        options={{ reference: 'where it is now', middle: 'in the middle', given: 'where I put it' }}
        onChange={(place) => setLock({ place })}
      />
      <Hint>
        {lock.place === 'reference'
          ? 'Its place on the reference frame. Or drag the ring in the steadied picture.'
          : 'Drag the ring in the steadied picture to put it elsewhere.'}
      </Hint>
      <Slider
        label="Tolerance"
        unit="px"
        value={lock.tolerance}
        min={0}
        max={200}
        most={LIMITS.tolerance[1]}
        fine
        onChange={(tolerance) => setLock({ tolerance })}
      />
      <Hint>
        {lock.tolerance > 0
          ? 'Within the tolerance it floats along its own smoothed course.'
          : 'Nailed to its place; with a tolerance it may float a little.'}
      </Hint>
      {lock.tolerance > 0 && (
        <Slider
          label="Smoothing"
          unit="s"
          value={calm.smoothing.x}
          min={0}
          max={SLIDER_SECONDS}
          most={LIMITS.smoothing[1]}
          step={0.05}
          decimals={2}
          fine
          onChange={(v) => setSmoothing(v)}
        />
      )}
      <NumberField
        label="Eases in"
        value={lock.easeIn}
        {...seconds}
        onChange={(easeIn) => setLock({ easeIn })}
      />
      <NumberField
        label="Eases out"
        value={lock.easeOut}
        {...seconds}
        onChange={(easeOut) => setLock({ easeOut })}
      />
    </>
  );
}
