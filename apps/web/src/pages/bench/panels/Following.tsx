import { LIMITS, moverName, setMover, type Spot } from '@lurn/model';
import { NumberField } from '../../../components/NumberField';
import { editSpot } from '../../../state/edit-spots';
import { beginGesture, edit, endGesture, useShot } from '../../../state/shot';
import { Choice } from './Choice';
import { Section } from './Section';

/** What the patch may do, and what happens when it cannot be found. */
export function Following({ spot }: { readonly spot: Spot }) {
  return (
    <Section title={`How ${spot.name} is followed`}>
      <Choice
        label="The patch may"
        value={spot.allow}
        options={{ shift: 'shift only', similarity: 'turn and grow', affine: 'also shear' }}
        onChange={(allow) => editSpot(spot.id, { allow })}
      />
      <Choice
        label="Template"
        value={spot.refresh}
        options={{ auto: 'when it falls', never: 'never refreshed', always: 'every frame' }}
        onChange={(refresh) => editSpot(spot.id, { refresh })}
      />
      <Choice
        label="When not found"
        value={spot.lowMatch}
        options={{ coast: 'coast', stop: 'stop', carryOn: 'carry on' }}
        onChange={(lowMatch) => editSpot(spot.id, { lowMatch })}
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
        onChange={(minConfidence) => editSpot(spot.id, { minConfidence })}
      />
      <MovesWith spot={spot} />
    </Section>
  );
}

/** Names the thing that a spot is on; one that no other has makes a thing of its own. */
function MovesWith({ spot }: { readonly spot: Spot }) {
  const name = useShot((s) => moverName(s.state.document, spot.mover));
  const names = useShot((s) => s.state.document.movers);
  const take = (value: string) =>
    value.trim() !== name && edit((state) => setMover(state, spot.id, value.trim()));
  return (
    <label className="flex items-center gap-2">
      <span className="grow" title="Spots with the same word here predict and check each other">
        Moves with
      </span>
      <input
        key={name}
        className="input input-xs w-36"
        aria-label="What the spot moves with"
        placeholder="all others"
        list="movers"
        defaultValue={name}
        maxLength={LIMITS.nameLength}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        onBlur={(e) => take(e.target.value)}
      />
      <datalist id="movers">
        {names
          .filter((m) => m.name !== '')
          .map((m) => (
            <option key={m.id} value={m.name} />
          ))}
      </datalist>
    </label>
  );
}
