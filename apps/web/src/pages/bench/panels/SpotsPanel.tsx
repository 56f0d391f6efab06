import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { gradeOf, sampleAt, type Point } from '@lurn/core';
import { LIMITS, type ClipInfo, type Spot } from '@lurn/model';
import { NumberField } from '../../../components/NumberField';
import { IconButton } from '../../../components/Tip';
import { deleteSelected, pinSpot, reshape } from '../../../state/acts';
import { setBench, useBench, useBenchParts } from '../../../state/bench';
import { beginGesture, endGesture, useShot } from '../../../state/shot';
import { takeSuggestions, type Looker } from '../../../state/looking';
import { Choice } from './Choice';
import { Hint, Reading, Section } from './Section';
import { gripWords, SpotTable } from './SpotTable';

export function SpotsPanel({ looker }: { readonly looker: Looker }) {
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
          <SpotTable />
        )}
        {document.spots.length === 1 && (
          <Hint>One more, far from this one, takes out rotation and scale as well.</Hint>
        )}
      </Section>
      {spot && <SpotDetails key={spot.id} spot={spot} />}
      <Suggestions looker={looker} />
      {spot && <EyePanel spot={spot} />}
      {spot && <Following spot={spot} />}
      <Section title="Bring in">
        <button type="button" className="btn btn-sm w-full" onClick={() => setBench({ importing: true })}>
          Import spots from a file …
        </button>
      </Section>
    </>
  );
}

/** Where spots would hold: suggestions, and a map of the whole picture. */
function Suggestions({ looker }: { readonly looker: Looker }) {
  const { suggestions, tool, rectangle, showMap } = useBenchParts(
    'suggestions',
    'tool',
    'rectangle',
    'showMap',
  );
  const [count, setCount] = useState(4);
  const [busy, setBusy] = useState(false);
  const suggest = (n: number) => {
    setBusy(true);
    looker
      .suggest(n, rectangle)
      .catch((error: Error) => toast.error(error.message))
      .finally(() => setBusy(false));
  };
  return (
    <Section title="Suggest spots">
      <NumberField label="How many" value={count} min={1} max={40} onChange={setCount} />
      <div className="grid grid-cols-2 gap-1.5">
        <button
          type="button"
          className="btn btn-sm"
          disabled={busy}
          title="The best features, spread out (B)"
          onClick={() => suggest(count)}
        >
          Suggest {count}
        </button>
        <button
          type="button"
          className="btn btn-sm"
          disabled={busy}
          title="Two good features far apart"
          onClick={() => suggest(2)}
        >
          A pair
        </button>
      </div>
      <label className="flex cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={tool?.kind === 'rectangle' || rectangle !== null}
          onChange={(e) =>
            setBench({ tool: e.target.checked ? { kind: 'rectangle' } : null, rectangle: null })
          }
        />
        {rectangle
          ? 'Only within the rectangle'
          : tool?.kind === 'rectangle'
            ? 'Draw a rectangle on the picture'
            : 'Only within a rectangle'}
      </label>
      <label
        className="flex cursor-pointer items-center gap-2"
        title="Where patches of this size would hold (M)"
      >
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={showMap}
          onChange={(e) => setBench({ showMap: e.target.checked })}
        />
        Grip map over the picture
      </label>
      {suggestions.length > 0 && (
        <>
          <ul className="text-xs" aria-label="Suggestions">
            {suggestions.map((s, i) => (
              <li key={`${s.x} ${s.y}`} className="flex items-center gap-2">
                <span className="num w-4 text-right">{i + 1}</span>
                <span className="num grow">± {Math.max(0.01, s.grip.error).toFixed(2)} px</span>
                <button type="button" className="btn btn-xs" onClick={() => takeSuggestions([s])}>
                  Place
                </button>
              </li>
            ))}
          </ul>
          <div className="flex gap-1.5">
            <button
              type="button"
              className="btn btn-primary btn-sm grow"
              onClick={() => takeSuggestions(suggestions)}
            >
              Place {suggestions.length === 1 ? 'it' : `all ${suggestions.length}`}
            </button>
            <button type="button" className="btn btn-sm" onClick={() => setBench({ suggestions: [] })}>
              Drop
            </button>
          </div>
        </>
      )}
    </Section>
  );
}

const CHANNEL_NAMES = { luma: 'Luma', red: 'Red', green: 'Green', blue: 'Blue', saturation: 'Saturation' };

/** The picture as the tracker sees it. What is delivered never changes. */
function EyePanel({ spot }: { readonly spot: Spot }) {
  const eyeView = useBench((s) => s.eyeView);
  const { eye } = spot;
  const set = (change: Partial<Spot['eye']>) => reshape(spot.id, { eye: { ...eye, ...change } });
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
      <label className="flex cursor-pointer items-center gap-2" title="Show what the tracker sees (Y)">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={eyeView}
          onChange={(e) => setBench({ eyeView: e.target.checked })}
        />
        Show what the tracker sees
      </label>
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

/** What the patch may do, and what happens when it cannot be found. */
function Following({ spot }: { readonly spot: Spot }) {
  return (
    <Section title={`How ${spot.name} is followed`}>
      <Choice
        label="The patch may"
        value={spot.allow}
        options={{ shift: 'shift only', similarity: 'turn and grow', affine: 'also shear' }}
        onChange={(allow) => reshape(spot.id, { allow })}
      />
      <Choice
        label="Template"
        value={spot.refresh}
        options={{ auto: 'when it falls', never: 'never refreshed', always: 'every frame' }}
        onChange={(refresh) => reshape(spot.id, { refresh })}
      />
      <Choice
        label="When not found"
        value={spot.lowMatch}
        options={{ coast: 'coast', stop: 'stop', carryOn: 'carry on' }}
        onChange={(lowMatch) => reshape(spot.id, { lowMatch })}
      />
      <NumberField
        label="Found from confidence"
        value={spot.minConfidence}
        min={0}
        max={1}
        step={0.05}
        decimals={2}
        onDragStart={beginGesture}
        onDragEnd={endGesture}
        onChange={(minConfidence) => reshape(spot.id, { minConfidence })}
      />
      <label className="flex items-center gap-2">
        <span className="grow" title="Spots with the same word here predict and check each other">
          Moves with
        </span>
        <input
          key={spot.group}
          className="input input-xs w-36"
          aria-label="Group that the spot moves with"
          placeholder="all others"
          defaultValue={spot.group}
          maxLength={LIMITS.nameLength}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
          onBlur={(e) =>
            e.target.value.trim() !== spot.group && reshape(spot.id, { group: e.target.value.trim() })
          }
        />
      </label>
    </Section>
  );
}

function SpotDetails({ spot }: { readonly spot: Spot }) {
  const track = useShot((s) => s.state.tracks[spot.id]);
  const { frame, info } = useBenchParts('frame', 'info');
  const sample = track ? sampleAt(track, frame) : null;
  const grip = useBench((s) => s.grips[spot.id]);
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
        <Hint>The patch is what is matched. The reach is how far it may move by the next frame.</Hint>
      </Section>
    </>
  );
}

/** How far a patch reaches beyond the picture, in pixels. */
function beyond({ patch: [hw, hh] }: Spot, { x, y }: Point, { width, height }: ClipInfo): number {
  return Math.max(0, hw - x, x + hw - width, hh - y, y + hh - height);
}
