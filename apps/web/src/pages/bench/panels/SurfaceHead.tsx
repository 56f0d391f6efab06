import { Trash2 } from 'lucide-react';
import { changeDocument, type AnySurface } from '@lurn/model';
import { NameField } from '../../../components/NameField';
import { deleteSelected } from '../../../state/edit-spots';
import { goTo, setBench, useBenchParts } from '../../../state/bench';
import { useKeyTip } from '../../../state/keymap';
import { edit, useShot } from '../../../state/shot';
import { LOOKS } from '../../../lib/words';
import { Choice } from './Choice';

/** What every surface has, flat or soft: its name, whether it is held, its own frame, and the way to be rid of it. */
export function SurfaceHead({
  surface: { name, mover, frame: own },
  of,
  onName,
}: {
  readonly surface: AnySurface;
  /** What it is called to who cannot see it. */
  readonly of: string;
  readonly onName: (name: string) => void;
}) {
  const tip = useKeyTip();
  const { frame } = useBenchParts('frame');
  const held = useShot((s) => s.state.document.held === mover);
  return (
    <>
      <NameField label="Name" of={`Name of the ${of}`} name={name} onName={onName} />
      <div className="flex items-center gap-2">
        <label className="flex grow cursor-pointer items-center gap-2" title="Goals and framing are about it">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={held}
            onChange={(e) => edit((s) => changeDocument(s, { held: e.target.checked ? mover : null }))}
          />
          Hold it
        </label>
        <button type="button" className="btn btn-xs" disabled={frame === own} onClick={() => goTo(own)}>
          Its own frame <span className="num">{own}</span>
        </button>
        <button
          type="button"
          className="btn btn-xs btn-square"
          aria-label={`Delete ${name}`}
          title={tip(`Delete the ${of}`, 'delete')}
          onClick={() => {
            // The whole of it, not the points that are chosen.
            setBench({ points: [] });
            deleteSelected();
          }}
        >
          <Trash2 size={13} aria-hidden="true" />
        </button>
      </div>
    </>
  );
}

/** How every surface is followed: by what it looks like, and what becomes of it where it is not found. */
export function HowFollowed({
  surface: { refresh, lowMatch },
  onChange,
}: {
  readonly surface: AnySurface;
  readonly onChange: (change: Partial<Pick<AnySurface, 'refresh' | 'lowMatch'>>) => void;
}) {
  return (
    <>
      <Choice
        label="Its looks"
        value={refresh}
        options={LOOKS}
        onChange={(next) => onChange({ refresh: next })}
      />
      <Choice
        label="When not found"
        value={lowMatch}
        options={{ coast: 'coast', stop: 'stop', carryOn: 'carry on' }}
        onChange={(next) => onChange({ lowMatch: next })}
      />
    </>
  );
}
