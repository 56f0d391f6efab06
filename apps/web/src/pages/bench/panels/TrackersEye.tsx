import { LIMITS, type Spot } from '@lurn/model';
import { Check } from '../../../components/Check';
import { NumberField } from '../../../components/NumberField';
import { useKeyTip } from '../../../state/keymap';
import { editSpot } from '../../../state/edit-spots';
import { setBench, useBench } from '../../../state/bench';
import { beginGesture, endGesture } from '../../../state/shot';
import { Choice } from './Choice';
import { Hint, Section } from './Section';

const CHANNEL_NAMES = { luma: 'Luma', red: 'Red', green: 'Green', blue: 'Blue', saturation: 'Saturation' };

/** The picture as the tracker sees it. What is delivered never changes. */
export function TrackersEye({ spot }: { readonly spot: Spot }) {
  const tip = useKeyTip();
  const eyeView = useBench((s) => s.eyeView);
  const { eye } = spot;
  const set = (change: Partial<Spot['eye']>) => editSpot(spot.id, { eye: { ...eye, ...change } });
  const drag = { onDragStart: beginGesture, onDragEnd: endGesture };
  const strength = (
    key: 'soften' | 'detail' | 'localContrast',
    label: string,
    unit: string,
    step: number,
  ) => (
    <NumberField
      label={label}
      unit={unit}
      value={eye[key] * (key === 'localContrast' ? 100 : 1)}
      min={0}
      max={LIMITS[key][1] * (key === 'localContrast' ? 100 : 1)}
      step={step}
      decimals={key === 'localContrast' ? 0 : 1}
      {...drag}
      onChange={(v) => set({ [key]: key === 'localContrast' ? v / 100 : v })}
    />
  );
  return (
    <Section title={`Tracker’s eye of ${spot.name}`}>
      <Check
        title={tip('Show what the tracker sees', 'eye')}
        checked={eyeView}
        onChange={(on) => setBench({ eyeView: on })}
      >
        Show what the tracker sees
      </Check>
      <Choice
        label="Match on"
        value={eye.channel}
        options={CHANNEL_NAMES}
        onChange={(channel) => set({ channel })}
      />
      {strength('soften', 'Soften', 'px', 0.2)}
      {strength('detail', 'Raise detail', '×', 0.5)}
      {strength('localContrast', 'Even out contrast', '%', 10)}
      <Hint>
        For matching only: what is delivered never changes.
        {eye.channel !== 'luma' && ' Colour is coarser than luma in most files.'}
      </Hint>
    </Section>
  );
}
