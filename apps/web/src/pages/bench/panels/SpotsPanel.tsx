import { Trash2 } from 'lucide-react';
import { sampleAt } from '@lurn/core';
import { LIMITS, type Spot } from '@lurn/model';
import { NumberField } from '../../../components/NumberField';
import { IconButton } from '../../../components/Tip';
import { spotColour } from '../../../lib/colours';
import { deleteSelected, goToSpot, pinSpot, reshape } from '../../../state/acts';
import { setBench, useBench } from '../../../state/bench';
import { beginGesture, endGesture, useShot } from '../../../state/shot';
import { Hint, Section } from './Section';

export function SpotsPanel() {
  const { document } = useShot((s) => s.state);
  const selected = useBench((s) => s.selected);
  const spot = document.spots.find((s) => s.id === selected[0]);
  return (
    <>
      <Section title="Spots">
        {document.spots.length === 0 ? (
          <Hint>
            Press on the picture to place a spot: a corner with contrast, on something that should stand
            still. One spot holds the position; a second, far from the first, holds rotation and scale too.
            Key: N.
          </Hint>
        ) : (
          <ul className="-mx-1">
            {document.spots.map((s) => (
              <SpotRow key={s.id} spot={s} selected={selected.includes(s.id)} />
            ))}
          </ul>
        )}
        {document.spots.length === 1 && (
          <Hint>One more, far from this one, takes out rotation and scale as well.</Hint>
        )}
      </Section>
      {spot && <SpotDetails key={spot.id} spot={spot} />}
    </>
  );
}

function SpotRow({ spot, selected }: { readonly spot: Spot; readonly selected: boolean }) {
  return (
    <li className={`flex items-center gap-2 rounded-sm px-1 ${selected ? 'bg-base-300' : ''}`}>
      <button
        type="button"
        className="size-3 shrink-0"
        style={{ background: spotColour(spot.colour) }}
        aria-label={`Select ${spot.name}`}
        onClick={() => {
          setBench({ selected: [spot.id] });
          goToSpot(spot.id);
        }}
      />
      <input
        key={spot.name}
        className="input input-ghost input-xs min-w-0 grow px-1 text-[13px]"
        aria-label={`Name of ${spot.name}`}
        defaultValue={spot.name}
        maxLength={LIMITS.nameLength}
        onFocus={() => setBench({ selected: [spot.id] })}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        onBlur={(e) => {
          const name = e.target.value.trim();
          if (name && name !== spot.name) reshape(spot.id, { name });
          else e.target.value = spot.name;
        }}
      />
      <label className="flex items-center gap-1 text-xs" title="Off leaves it out of the solve (U)">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={spot.used}
          onChange={(e) => reshape(spot.id, { used: e.target.checked })}
        />
        used
      </label>
      <IconButton
        label={`Delete ${spot.name}`}
        keys="Del"
        onClick={() => {
          setBench({ selected: [spot.id] });
          deleteSelected();
        }}
      >
        <Trash2 size={13} />
      </IconButton>
    </li>
  );
}

function SpotDetails({ spot }: { readonly spot: Spot }) {
  const track = useShot((s) => s.state.tracks[spot.id]);
  const { frame, info } = useBench();
  const sample = track ? sampleAt(track, frame) : null;
  const drag = { onDragStart: beginGesture, onDragEnd: endGesture };
  const size = (kind: 'patch' | 'reach', axis: 0 | 1) => (v: number) => {
    const next: [number, number] = [...spot[kind]];
    next[axis] = v;
    reshape(spot.id, { [kind]: next });
  };
  const [patchLow, patchHigh] = LIMITS.patch;
  const [reachLow, reachHigh] = LIMITS.reach;
  return (
    <>
      <Section title={`${spot.name} on frame ${frame}`}>
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
            <Hint>
              <span className="num">{sample.confidence.toFixed(2)}</span> confidence, {sample.state}. I J K L
              nudge it by 0.1 px, with Shift by 1 px.
            </Hint>
          </>
        ) : (
          <Hint>It has no sample on this frame.</Hint>
        )}
      </Section>
      <Section title="Patch and reach">
        <NumberField
          label="Patch, half width"
          unit="px"
          value={spot.patch[0]}
          min={patchLow}
          max={patchHigh}
          {...drag}
          onChange={size('patch', 0)}
        />
        <NumberField
          label="Patch, half height"
          unit="px"
          value={spot.patch[1]}
          min={patchLow}
          max={patchHigh}
          {...drag}
          onChange={size('patch', 1)}
        />
        <NumberField
          label="Reach across"
          unit="px"
          value={spot.reach[0]}
          min={reachLow}
          max={reachHigh}
          {...drag}
          onChange={size('reach', 0)}
        />
        <NumberField
          label="Reach up and down"
          unit="px"
          value={spot.reach[1]}
          min={reachLow}
          max={reachHigh}
          {...drag}
          onChange={size('reach', 1)}
        />
        <details>
          <summary className="quiet cursor-pointer text-xs">More</summary>
          <div className="pt-2">
            <NumberField
              label="Stop below confidence"
              value={spot.minConfidence}
              min={0}
              max={1}
              step={0.05}
              decimals={2}
              {...drag}
              onChange={(minConfidence) => reshape(spot.id, { minConfidence })}
            />
          </div>
        </details>
        <Hint>The patch is what is matched. The reach is how far it may move by the next frame.</Hint>
      </Section>
    </>
  );
}
