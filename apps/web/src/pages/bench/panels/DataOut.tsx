import { useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import {
  DATA_CHOICES,
  DATA_EXPORTS,
  handOver,
  matricesOf,
  type DataChoices,
  type DataExport,
  type DataKind,
  type MovingData,
  type Plan,
  withWarps,
} from '@lurn/core';
import { Segments } from '../../../components/Segments';
import { NumberField } from '../../../components/NumberField';
import { messageOf } from '../../../lib/api';
import { keepFile } from '../../../lib/keep-file';
import { useBenchParts } from '../../../state/bench';
import {
  asTable,
  asValuesOverTime,
  dataNow,
  FIRST_TARGET,
  forgetTarget,
  keepTarget,
  keptTargets,
  type DataTarget,
} from '../../../state/data-out';
import { useCuts } from '../../../state/cuts';
import { useScene } from '../../../state/scene';
import { useShot } from '../../../state/shot';
import { Comlink } from '../../../workers/comlink';
import type { DataApi } from '../../../workers/data.worker';
import { sceneHeldOf } from '../stations/station';
import { Hint, Section } from './Section';

const KINDS: Record<DataKind, string> = {
  motion: 'Motion',
  tracks: 'Spots',
  corners: 'Corners',
  movers: 'Movers',
};
const LABELS = {
  origin: [
    'Counted from',
    { 'top-left': 'the top left', 'bottom-left': 'the bottom left', centre: 'the middle' },
  ],
  y: ['y grows', { down: 'downwards', up: 'upwards' }],
  unit: ['Places in', { px: 'pixels', share: 'shares of the picture' }],
  numbers: [
    'Motion as',
    { matrix: 'matrices', ratio: 'position, rotation, scale', percent: 'the same, scale in %' },
  ],
  time: ['Time in', { seconds: 'seconds', timecode: 'time code' }],
} as const;
/** Lines that are shown of what would be written, and letters of each. */
const [LINES, LETTERS] = [6, 400];

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
      <Choices kind={kind} format={format} choices={choices} onChange={change} />
      <Targets now={{ as: format.id, choices }} onChoose={setTarget} />
      {!format.many && <Preview data={data} format={format} choices={choices} />}
      <Out
        plan={steady}
        data={data}
        format={format}
        choices={choices}
        name={`${clip.name} ${KINDS[kind].toLowerCase()}`}
      />
    </Section>
  );
}

/** What the format leaves open. */
function Choices({
  kind,
  format,
  choices,
  onChange,
}: {
  readonly kind: DataKind;
  readonly format: DataExport;
  readonly choices: DataChoices;
  readonly onChange: (more: Partial<DataChoices>) => void;
}) {
  const open = (['numbers', 'origin', 'y', 'unit', 'time'] as const).filter(
    (name) => format.heeds.includes(name) && (name !== 'numbers' || matricesOf(kind).length > 0),
  );
  return (
    <>
      {open.map((name) => (
        <label key={name} className="flex items-center justify-between gap-2">
          <span className="quiet">{LABELS[name][0]}</span>
          <select
            className="select select-xs w-44"
            value={choices[name]}
            onChange={(e) => onChange({ [name]: e.target.value })}
          >
            {DATA_CHOICES[name].map((value) => (
              <option key={value} value={value}>
                {(LABELS[name][1] as Record<string, string>)[value]}
              </option>
            ))}
          </select>
        </label>
      ))}
      {format.heeds.includes('first') && (
        <NumberField
          label="First frame is"
          value={choices.first}
          min={0}
          max={1_000_000}
          onChange={(first) => onChange({ first })}
        />
      )}
    </>
  );
}

/** Formats and choices kept by the editor's own name for the program that wants them. */
function Targets({
  now,
  onChoose,
}: {
  readonly now: Omit<DataTarget, 'name'>;
  readonly onChoose: (target: Omit<DataTarget, 'name'>) => void;
}) {
  const [list, setList] = useState(keptTargets);
  const [name, setName] = useState('');
  const known = list.find((t) => t.name === name.trim());
  return (
    <div className="flex items-center gap-1.5">
      <input
        className="input input-xs min-w-0 flex-1"
        aria-label="Name of this target"
        placeholder={list.length > 0 ? 'choose or name a target' : 'name a target, to keep this'}
        list="data-targets"
        maxLength={60}
        value={name}
        onChange={(e) => {
          setName(e.target.value);
          const chosen = list.find((t) => t.name === e.target.value);
          if (chosen) onChoose({ as: chosen.as, choices: chosen.choices });
        }}
      />
      <datalist id="data-targets">
        {list.map((t) => (
          <option key={t.name} value={t.name} />
        ))}
      </datalist>
      <button
        type="button"
        className="btn btn-xs"
        disabled={name.trim() === ''}
        title="Keeps the format and its choices under this name, in this browser"
        onClick={() => setList(keepTarget({ name: name.trim(), ...now }))}
      >
        Keep
      </button>
      {known && (
        <button
          type="button"
          className="btn btn-xs"
          onClick={() => {
            setList(forgetTarget(known.name));
            setName('');
          }}
        >
          Forget
        </button>
      )}
    </div>
  );
}

interface OutProps {
  readonly data: MovingData;
  readonly format: DataExport;
  readonly choices: DataChoices;
}

function Preview({ data, format, choices }: OutProps) {
  const text = useMemo(() => {
    // The first frames tell how it looks.
    const few = {
      ...data,
      things: data.things.slice(0, 1).map((t) => ({ ...t, frames: t.frames.slice(0, 4) })),
    };
    try {
      const [file] = handOver(few, format, choices);
      const lines = (file.content as string).split('\n').slice(0, LINES);
      return lines.map((l) => (l.length > LETTERS ? `${l.slice(0, LETTERS)} …` : l)).join('\n');
    } catch (error) {
      return messageOf(error);
    }
  }, [data, format, choices]);
  return (
    <pre
      className="num rule max-h-28 overflow-auto border p-1.5 text-[11px] leading-snug"
      aria-label="First lines"
      tabIndex={0}
    >
      {text}
    </pre>
  );
}

function Out({
  data,
  format,
  choices,
  name,
  plan,
}: OutProps & { readonly name: string; readonly plan: Plan | null }) {
  const [done, setDone] = useState<number | null>(null);
  const thread = useRef<Worker | null>(null);
  const stop = () => {
    thread.current?.terminate();
    thread.current = null;
    setDone(null);
  };
  useEffect(() => () => thread.current?.terminate(), []);
  const total = 2 * (data.things[0]?.frames.length ?? 0);
  const save = async () => {
    const own = (thread.current = new Worker(new URL('../../../workers/data.worker.ts', import.meta.url), {
      type: 'module',
    }));
    setDone(0);
    try {
      const whole = format.many && plan && data.kind === 'motion' ? withWarps(data, plan) : data;
      const api = Comlink.wrap<DataApi>(own);
      const blob = await api.write(whole, format.id, choices, Comlink.proxy((n: number) => thread.current === own && setDone(n))); // prettier-ignore
      if (thread.current === own) keepFile(`${name}.${format.extension}`, blob);
    } catch (error) {
      toast.error(messageOf(error), { id: 'data' });
    } finally {
      if (thread.current === own) stop();
    }
  };
  const copy = (text: string, what: string) =>
    navigator.clipboard
      .writeText(text)
      .then(() => toast.success(`${what}, with tabs between.`))
      .catch(() => toast.error('The browser does not let the page copy. Save the file instead.'));
  if (done !== null)
    return (
      <div className="flex items-center gap-2" role="status">
        <progress className="progress flex-1" value={done} max={total} aria-label="Writing data" />
        <span className="num text-xs">{format.many ? `${done} of ${total}` : ''}</span>
        <button type="button" className="btn btn-xs" onClick={stop}>
          Stop
        </button>
      </div>
    );
  return (
    <>
      <button type="button" className="btn btn-sm w-full" onClick={() => void save()}>
        Save {format.name}
      </button>
      <div className="grid grid-cols-2 gap-1.5">
        <button
          type="button"
          className="btn btn-sm"
          title="A row a frame, to paste into a spreadsheet"
          onClick={() => void copy(asTable(data, choices), 'Copied as a table')}
        >
          Copy as a table
        </button>
        <button
          type="button"
          className="btn btn-sm"
          title="A row for each number, its values over time"
          onClick={() => void copy(asValuesOverTime(data, choices), 'Copied, a row for each number')}
        >
          Copy over time
        </button>
      </div>
      {format.many && (
        <Hint>
          Two maps a frame: in <code>steady/</code> what makes the steadied picture, in <code>back/</code>{' '}
          what gives the motion back.
        </Hint>
      )}
    </>
  );
}
