import { useState } from 'react';
import { forgetTarget, keepTarget, keptTargets, type DataTarget } from '../../../../state/data-out';

/** Formats and choices kept by the editor's own name for the program that wants them. */
export function DataTargets({
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
