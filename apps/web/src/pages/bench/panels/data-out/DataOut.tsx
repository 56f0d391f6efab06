import { useMemo, useState } from 'react';
import { DATA_EXPORTS, type DataChoices, type DataKind } from '@lurn/core/formats';
import { Segments } from '../../../../components/Segments';
import { useBenchParts } from '../../../../state/bench';
import { useCuts } from '../../../../state/cuts';
import { dataNow, FIRST_TARGET, type DataTarget } from '../../../../state/data-out';
import { useScene } from '../../../../state/scene';
import { useShot } from '../../../../state/shot';
import { sceneHeldOf } from '../../stations/station';
import { Hint, Section } from '../Section';
import { DataChoicesFields } from './DataChoicesFields';
import { DataFiles } from './DataFiles';
import { DataPreview } from './DataPreview';
import { DataTargets } from './DataTargets';

const KINDS: Record<DataKind, string> = {
  motion: 'Motion',
  tracks: 'Spots',
  corners: 'Corners',
  movers: 'Movers',
  meshes: 'Meshes',
};

/** What was measured and solved, as data for other programs. */
export function DataOut() {
  const { clip, steady, info, times } = useBenchParts('clip', 'steady', 'info', 'times');
  const state = useShot((s) => s.state);
  const [asked, setAsked] = useState<DataKind>('motion');
  const [{ as, choices }, setTarget] = useState<Omit<DataTarget, 'name'>>(FIRST_TARGET);
  const marked = state.document.trackers.length > 0;
  const held = steady && !marked ? (sceneHeldOf(clip, state.document, steady.mover)?.name ?? null) : null;
  const scene = useScene();
  const cuts = useCuts();
  const there = useMemo(
    () =>
      dataNow({ state, info, times, plan: steady, heldName: held, cuts: cuts.map((c) => c.frame), scene }),
    [state, info, times, steady, held, cuts, scene],
  );
  const kinds = (Object.keys(KINDS) as DataKind[]).filter((k) => there[k]);
  const kind = kinds.includes(asked) ? asked : kinds[0];
  const data = there[kind]?.();
  if (!data)
    return (
      <Section title="Data">
        <Hint>What is tracked and solved can be handed over as numbers, once there is any.</Hint>
      </Section>
    );
  const offered = DATA_EXPORTS.filter((e) => e.of.includes(kind));
  const format = offered.find((e) => e.id === as) ?? offered[0];
  const change = (more: Partial<DataChoices>) => setTarget({ as, choices: { ...choices, ...more } });
  return (
    <Section title="Data">
      {kinds.length > 1 && (
        <Segments
          label="Data of"
          value={kind}
          options={Object.fromEntries(kinds.map((k) => [k, KINDS[k]])) as Record<DataKind, string>}
          onChange={setAsked}
        />
      )}
      <label className="flex items-center justify-between gap-2">
        <span className="quiet">Written as</span>
        <select
          className="select select-xs w-44"
          value={format.id}
          onChange={(e) => setTarget({ as: e.target.value, choices })}
        >
          {offered.map((e) => (
            <option key={e.id} value={e.id}>
              {e.name}
            </option>
          ))}
        </select>
      </label>
      <DataChoicesFields kind={kind} format={format} choices={choices} onChange={change} />
      <DataTargets now={{ as: format.id, choices }} onChoose={setTarget} />
      {!format.many && <DataPreview data={data} format={format} choices={choices} />}
      <DataFiles
        plan={steady}
        data={data}
        format={format}
        choices={choices}
        name={`${clip.name} ${KINDS[kind].toLowerCase()}`}
      />
    </Section>
  );
}
