import { Trash2 } from 'lucide-react';
import { changeMatte, removeMatte, type Layer, type LayerMatte } from '@lurn/model';
import { setBench, useBenchParts, type BenchState, type LayerDrawn } from '../../../../state/bench';
import { putColourMatte, putMoverMatte, putPassingMatte } from '../../../../state/layer-mattes';
import { edit } from '../../../../state/shot';
import { Choice } from '../Choice';
import { MatteFields } from './kinds/MatteFields';
import { BorderMattes } from '../soft/BorderMattes';
import { MoverChoice } from './MoverChoice';
import { Hint } from '../Section';

/** What a layer is limited to, and what stays in front of it. */
export function LayerMattes({ layer }: { readonly layer: Layer }) {
  const { tool, masking } = useBenchParts('tool', 'masking');
  const drawing = tool.id === 'area' ? tool.kind : null;
  const draw = (kind: LayerDrawn) =>
    setBench({ tool: drawing === kind ? { id: 'mark' } : { id: 'area', kind } });
  const button = (text: string, title: string, run: () => void, pressed?: boolean) => (
    <button
      type="button"
      className={`btn btn-xs ${pressed ? 'btn-primary' : ''}`}
      aria-pressed={pressed}
      title={title}
      onClick={run}
    >
      {text}
    </button>
  );
  return (
    <>
      <div className="grid grid-cols-2 gap-1.5">
        {button(
          'Stays in front …',
          'Draw round what passes in front of it',
          () => draw('in-front'),
          drawing === 'in-front',
        )}
        {button(
          'Only inside …',
          'Draw round where alone it is seen',
          () => draw('inside'),
          drawing === 'inside',
        )}
        {button(
          'What passes',
          'What was not there on the frame that the layer was made on stays in front',
          putPassingMatte,
        )}
        <BorderMattes />
        {button('Colour in front', 'What is of a colour stays in front', () => putColourMatte(true))}
        {button('Only on a colour', 'It is seen on one colour alone', () => putColourMatte(false))}
      </div>
      {masking ? (
        <Making {...masking} />
      ) : (
        <MoverChoice
          label="In front:"
          title="Something that moves stays in front: its masks are made, a frame each"
          run={(mover) => void putMoverMatte(mover)}
        />
      )}
      {layer.mattes.length === 0 ? (
        <Hint>A hand, a pole, a passer-by: what is drawn or keyed here is kept in front.</Hint>
      ) : (
        <ul aria-label="Mattes" className="space-y-3">
          {layer.mattes.map((matte) => (
            <Matte key={matte.id} layer={layer} matte={matte} />
          ))}
        </ul>
      )}
    </>
  );
}

/** How far masks have been made. */
function Making({ name, done, total, stop }: NonNullable<BenchState['masking']>) {
  return (
    <div className="space-y-1.5" role="status">
      <p>
        Making the masks of {name}: <span className="num">{done}</span> of{' '}
        <span className="num">{total}</span> frames
      </p>
      <progress
        className="progress progress-primary h-1.5 w-full"
        aria-label={name}
        value={done}
        max={total}
      />
      <button type="button" className="btn btn-xs" onClick={stop}>
        Stop making them
      </button>
    </div>
  );
}

function Matte({ layer, matte }: { readonly layer: Layer; readonly matte: LayerMatte }) {
  const set = (part: Readonly<Record<string, unknown>>) =>
    edit((s) => changeMatte(s, layer.id, matte.id, part));
  return (
    <li className="space-y-1.5">
      <div className="flex items-center">
        <span className="grow font-medium">{matte.name}</span>
        <button
          type="button"
          className="btn btn-ghost btn-xs btn-square"
          aria-label={`Delete ${matte.name}`}
          onClick={() => edit((s) => removeMatte(s, layer.id, matte.id))}
        >
          <Trash2 size={12} aria-hidden="true" />
        </button>
      </div>
      <Choice
        label="The layer is"
        value={matte.outside ? 'out' : 'in'}
        options={{ out: 'behind it', in: 'only inside' }}
        onChange={(v) => set({ outside: v === 'out' })}
      />
      <MatteFields layer={layer} matte={matte} set={set} />
    </li>
  );
}
