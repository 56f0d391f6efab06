import { Trash2 } from 'lucide-react';
import type { AreaKind } from '@lurn/core/geometry';
import { changeArea, type DrawnArea } from '@lurn/model';
import { Check } from '../../../components/Check';
import { NameField } from '../../../components/NameField';
import { Segments } from '../../../components/Segments';
import { capital, plural } from '../../../lib/format';
import { cornersOn, deleteArea, removeAreaKey, rideOn } from '../../../state/areas';
import { goTo, setBench, useBenchParts } from '../../../state/bench';
import { useKeyTip } from '../../../state/keymap';
import { edit, useShot } from '../../../state/shot';
import { drawSoft } from '../../../state/soft/soft';
import { Choice } from './Choice';
import { Hint, Section } from './Section';

const KINDS = { ignore: 'Not measured', focus: 'Measured alone' } as const satisfies Record<AreaKind, string>;

/** What of the picture is measured: areas that are drawn on it. */
export function Areas() {
  const tip = useKeyTip();
  const { tool, area: selected } = useBenchParts('tool', 'area');
  const areas = useShot((s) => s.state.document.areas);
  const chosen = areas.find((a) => a.id === selected);
  const drawing = tool.id === 'area' ? tool.kind : null;
  const draw = (kind: AreaKind) =>
    setBench({ tool: drawing === kind ? { id: 'mark' } : { id: 'area', kind } });
  return (
    <Section title="Areas">
      <div className="grid grid-cols-2 gap-1.5">
        <button
          type="button"
          className={`btn btn-sm ${drawing === 'ignore' ? 'btn-primary' : ''}`}
          aria-pressed={drawing === 'ignore'}
          title={tip('Draw round what should never be measured', 'ignore-area')}
          onClick={() => draw('ignore')}
        >
          Ignore …
        </button>
        <button
          type="button"
          className={`btn btn-sm ${drawing === 'focus' ? 'btn-primary' : ''}`}
          aria-pressed={drawing === 'focus'}
          title={tip('Draw round the only part that should be measured', 'focus-area')}
          onClick={() => draw('focus')}
        >
          Focus on …
        </button>
      </div>
      {areas.length === 0 ? (
        <Hint>Draw round a passer-by, a reflection or falling snow: its inside is never measured.</Hint>
      ) : (
        <ul aria-label="Areas">
          {areas.map(({ id, name, kind, keys }) => (
            <li key={id}>
              <button
                type="button"
                aria-pressed={id === selected}
                className={`flex w-full items-center gap-2 rounded-sm px-1 py-0.5 text-left ${id === selected ? 'bg-base-300' : ''}`}
                onClick={() => setBench({ area: id === selected ? null : id, selected: [] })}
              >
                <span className="grow truncate">{name}</span>
                <span className="quiet text-xs">
                  {KINDS[kind].toLowerCase()}, <span className="num">{plural(keys.length, 'key')}</span>
                </span>
              </button>
            </li>
          ))}
        </ul>
      )}
      {chosen && <Details key={chosen.id} area={chosen} />}
    </Section>
  );
}

function Details({ area }: { readonly area: DrawnArea }) {
  const { id, name, kind, smooth, rides, keys } = area;
  const { clip, frame } = useBenchParts('clip', 'frame');
  const found = clip.made?.scene?.movers ?? [];
  const options = Object.fromEntries([
    ['', 'nothing: it stays'],
    ...found.map((m) => [m.id, capital(m.name)] as const),
  ]);
  const before = [...keys].reverse().find((key) => key.frame < frame);
  const after = keys.find((key) => key.frame > frame);
  const here = keys.some((key) => key.frame === frame);
  return (
    <div className="space-y-2">
      <NameField
        label="Name"
        of="Name of the area"
        name={name}
        onName={(text) => edit((s) => changeArea(s, id, { name: text }))}
      />
      <Segments
        label="What its inside is"
        value={kind}
        options={KINDS}
        onChange={(k) => edit((s) => changeArea(s, id, { kind: k }))}
      />
      <button
        type="button"
        className="btn btn-xs w-full"
        title="A soft surface of this outline, as it lies on this frame"
        onClick={() => drawSoft(cornersOn(area, frame), smooth)}
      >
        Make a mesh of it
      </button>
      <Check checked={smooth} onChange={(on) => edit((s) => changeArea(s, id, { smooth: on }))}>
        Smooth curve through its corners
      </Check>
      {found.length > 0 && (
        <Choice
          label="Rides on"
          value={rides ?? ''}
          options={options}
          onChange={(to) => rideOn(id, to || null)}
        />
      )}
      <div className="flex items-center gap-1.5" role="group" aria-label="Keys of the area">
        <button
          type="button"
          className="btn btn-xs"
          disabled={!before}
          onClick={() => before && goTo(before.frame)}
        >
          Key before
        </button>
        <button
          type="button"
          className="btn btn-xs"
          disabled={!after}
          onClick={() => after && goTo(after.frame)}
        >
          Key after
        </button>
        <button
          type="button"
          className="btn btn-xs"
          disabled={!here || keys.length < 2}
          onClick={() => removeAreaKey(id, frame)}
        >
          Remove key
        </button>
        <button
          type="button"
          className="btn btn-xs btn-square ml-auto"
          aria-label={`Delete ${name}`}
          title="Delete the area (Delete)"
          onClick={deleteArea}
        >
          <Trash2 size={13} aria-hidden="true" />
        </button>
      </div>
      <Hint>Go to another frame and drag it there: it gets a key, and moves evenly from key to key.</Hint>
    </div>
  );
}
