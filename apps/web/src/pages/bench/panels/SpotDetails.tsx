import { Trash2 } from 'lucide-react';
import type { Point } from '@lurn/core/geometry';
import { gradeOf, sampleAt } from '@lurn/core/track';
import { LIMITS, trackOf, type ClipInfo, type Spot } from '@lurn/model';
import { NumberField } from '../../../components/NumberField';
import { IconButton } from '../../../components/Tip';
import { useKeyTip } from '../../../state/keymap';
import { deleteSelected, editSpot, pinSpot } from '../../../state/edit-spots';
import { setBench, useBench, useBenchParts } from '../../../state/bench';
import { beginGesture, endGesture, useShot } from '../../../state/shot';
import { Hint, Reading, Section } from './Section';
import { gripWords } from './SpotTable';

/** What can be sized of a spot, by half-sizes across and down. */
const SIZES = [
  ['Patch, half width', 'patch', 0],
  ['Patch, half height', 'patch', 1],
  ['Reach across', 'reach', 0],
  ['Reach up and down', 'reach', 1],
] as const;

/** Name, place, shape and sizes of the selected spot, on the frame that is shown. */
export function SpotDetails({ spot }: { readonly spot: Spot }) {
  const tip = useKeyTip();
  const track = useShot((s) => trackOf(s.state, spot.id));
  const { frame, info } = useBenchParts('frame', 'info');
  const sample = sampleAt(track, frame);
  const grip = useBench((s) => s.grips[spot.id]);
  const drag = { onDragStart: beginGesture, onDragEnd: endGesture };
  return (
    <>
      <Section title={`${spot.name} on frame ${frame}`}>
        <div className="flex items-center gap-2">
          <input
            key={spot.name}
            className="input input-xs min-w-0 grow"
            aria-label={`Name of ${spot.name}`}
            defaultValue={spot.name}
            maxLength={LIMITS.nameLength}
            onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
            onBlur={(e) => {
              const name = e.target.value.trim();
              if (name && name !== spot.name) editSpot(spot.id, { name });
              else e.target.value = spot.name;
            }}
          />
          <label
            className="flex items-center gap-1 text-xs"
            title={tip('Off leaves it out of the solve', 'use')}
          >
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={spot.used}
              onChange={(e) => editSpot(spot.id, { used: e.target.checked })}
            />
            used
          </label>
          <IconButton
            label={`Delete ${spot.name}`}
            action="delete"
            onClick={() => {
              setBench({ selected: [spot.id] });
              deleteSelected();
            }}
          >
            <Trash2 size={13} />
          </IconButton>
        </div>
        {grip && (
          <>
            <Reading
              label="Grip"
              value={grip.error < 10 ? `± ${Math.max(0.01, grip.error).toFixed(2)} px` : 'none'}
              strong
            />
            <p
              className={`text-xs leading-snug ${gradeOf(grip) === 'firm' && !grip.lookalike ? 'quiet' : 'text-warning'}`}
            >
              {gradeOf(grip) === 'firm' && !grip.lookalike ? '' : '▲ '}
              {gripWords(grip)}
            </p>
          </>
        )}
        {sample && beyond(spot, sample, info) > 0 && (
          <p className="text-xs leading-snug text-warning">
            ▲ The patch reaches {beyond(spot, sample, info).toFixed(0)} px beyond the picture: only what lies
            inside is matched.
          </p>
        )}
        {sample ? (
          <>
            <NumberField
              label="Across"
              unit="px"
              value={sample.x}
              min={0}
              max={info.width}
              decimals={2}
              step={1}
              {...drag}
              onChange={(x) => pinSpot(spot.id, { x, y: sample.y })}
            />
            <NumberField
              label="Down"
              unit="px"
              value={sample.y}
              min={0}
              max={info.height}
              decimals={2}
              step={1}
              {...drag}
              onChange={(y) => pinSpot(spot.id, { x: sample.x, y })}
            />
            {sample.turn !== undefined && sample.scale !== undefined && (
              <Reading
                label="Turned, grown"
                value={`${((sample.turn * 180) / Math.PI).toFixed(2)}°, ${(sample.scale * 100).toFixed(1)} %`}
              />
            )}
            <Hint>
              <span className="num">{sample.confidence.toFixed(2)}</span> confidence, {sample.state}. Alt and
              the arrow keys nudge it by 0.1 px, with Shift by 1 px.
            </Hint>
          </>
        ) : (
          <Hint>It has no sample on this frame.</Hint>
        )}
      </Section>
      <Section title="Patch and reach">
        {SIZES.map(([label, kind, axis]) => (
          <NumberField
            key={label}
            label={label}
            unit="px"
            value={spot[kind][axis]}
            min={LIMITS[kind][0]}
            max={LIMITS[kind][1]}
            {...drag}
            onChange={(v) => {
              const [across, down] = spot[kind];
              editSpot(spot.id, { [kind]: axis === 0 ? [v, down] : [across, v] });
            }}
          />
        ))}
        <Hint>The patch is what is matched. The reach is how far it may move by the next frame.</Hint>
      </Section>
    </>
  );
}

/** How far a patch reaches beyond the picture, in pixels. */
function beyond({ patch: [hw, hh] }: Spot, { x, y }: Point, { width, height }: ClipInfo): number {
  return Math.max(0, hw - x, x + hw - width, hh - y, y + hh - height);
}
