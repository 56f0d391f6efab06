import { Trash2 } from 'lucide-react';
import { cornersAt } from '@lurn/core/geometry';
import { countSamples, hasSample } from '@lurn/core/track';
import { changeSurface, LIMITS, surfacesOf, surfaceTrackOf, type Surface } from '@lurn/model';
import { Check } from '../../../components/Check';
import { NumberField } from '../../../components/NumberField';
import { spotColour } from '../../../lib/colours';
import { plural } from '../../../lib/format';
import { setBench, useBenchParts, type DrawnKind } from '../../../state/bench';
import { useKeyTip } from '../../../state/keymap';
import { beginGesture, edit, endGesture, useShot } from '../../../state/shot';
import { drawSoft } from '../../../state/soft/soft';
import { removeOutline, snapQuad } from '../../../state/surfaces';
import { Choice } from './Choice';
import { Flattened } from './Flattened';
import { Fold, Hint, Section } from './Section';
import { HowFollowed, SurfaceHead } from './SurfaceHead';

/** The flat surfaces: drawn here, and what is chosen of the selected one. */
export function Surfaces() {
  const tip = useKeyTip();
  const { tool, selected } = useBenchParts('tool', 'selected');
  const { document, measured } = useShot((s) => s.state);
  const surfaces = surfacesOf(document);
  const chosen = surfaces.find((s) => selected.includes(s.id));
  const drawing = (box: boolean) =>
    tool.id === 'area' && tool.kind === 'surface' && (tool.box ?? false) === box;
  return (
    <>
      <Section title="Flat surfaces">
        <div className="grid grid-cols-2 gap-1.5">
          <button
            type="button"
            className={`btn btn-sm ${drawing(false) ? 'btn-primary' : ''}`}
            aria-pressed={drawing(false)}
            title={tip('Draw round something flat: its whole texture is tracked', 'surface')}
            onClick={() => draw('surface', false, drawing(false))}
          >
            Draw round …
          </button>
          <button
            type="button"
            className={`btn btn-sm ${drawing(true) ? 'btn-primary' : ''}`}
            aria-pressed={drawing(true)}
            title="Drag a rectangle over something flat"
            onClick={() => draw('surface', true, drawing(true))}
          >
            Rectangle …
          </button>
        </div>
        {surfaces.length === 0 ? (
          <Hint>
            A door, a sign, a screen: where spots fail, its whole texture tells where it is and how it leans.
          </Hint>
        ) : (
          <ul aria-label="Flat surfaces">
            {surfaces.map(({ id, name, colour, frame }) => {
              const n = countSamples(surfaceTrackOf({ measured }, id));
              return (
                <li key={id}>
                  <button
                    type="button"
                    aria-pressed={id === chosen?.id}
                    className={`flex w-full items-center gap-2 rounded-sm px-1 py-0.5 text-left ${id === chosen?.id ? 'bg-base-300' : ''}`}
                    onClick={() => setBench({ selected: id === chosen?.id ? [] : [id], area: null })}
                  >
                    <span className="size-2 shrink-0" style={{ background: spotColour(colour) }} />
                    <span className="grow truncate">{name}</span>
                    <span className="quiet num text-xs">
                      {n > 0 ? plural(n, 'frame') : `drawn on frame ${frame}`}
                    </span>
                  </button>
                </li>
              );
            })}
          </ul>
        )}
      </Section>
      {chosen && <Details key={chosen.id} surface={chosen} />}
    </>
  );
}

const draw = (kind: DrawnKind, box: boolean, stop: boolean) =>
  setBench({ tool: stop ? { id: 'mark' } : { id: 'area', kind, box } });

function Details({ surface }: { readonly surface: Surface }) {
  const tip = useKeyTip();
  const { id, name, frame: own, grid, shapes, perspective } = surface;
  const { tool, frame, gridCheck, misfits } = useBenchParts('tool', 'frame', 'gridCheck', 'misfits');
  const known = useShot((s) => frame === own || hasSample(surfaceTrackOf(s.state, id), frame));
  const drawing = (kind: DrawnKind) => tool.id === 'area' && tool.kind === kind;
  const change = (part: Parameters<typeof changeSurface<Surface>>[2]) =>
    edit((s) => changeSurface(s, id, part));
  const cells = (k: 0 | 1, label: string) => (
    <NumberField
      label={label}
      value={grid[k]}
      min={LIMITS.grid[0]}
      max={LIMITS.grid[1]}
      step={1}
      decimals={0}
      onDragStart={beginGesture}
      onDragEnd={endGesture}
      onChange={(v) => change({ grid: k === 0 ? [v, grid[1]] : [grid[0], v] })}
    />
  );
  return (
    <Section title={name}>
      <SurfaceHead surface={surface} of="surface" onName={(text) => change({ name: text })} />
      <Check checked={perspective} onChange={(on) => change({ perspective: on })}>
        Steady how it leans, too
      </Check>
      <div className="grid grid-cols-2 gap-1.5">
        <button
          type="button"
          className={`btn btn-xs ${drawing('more') ? 'btn-primary' : ''}`}
          aria-pressed={drawing('more')}
          disabled={!known}
          title="Draw round what belongs to it as well"
          onClick={() => draw('more', false, drawing('more'))}
        >
          Add a part …
        </button>
        <button
          type="button"
          className={`btn btn-xs ${drawing('less') ? 'btn-primary' : ''}`}
          aria-pressed={drawing('less')}
          disabled={!known}
          title="Draw round what does not belong to it: a reflection, a lamp"
          onClick={() => draw('less', false, drawing('less'))}
        >
          Leave out …
        </button>
      </div>
      {frame === own && (
        <button
          type="button"
          className="btn btn-xs w-full"
          title="A soft surface of the same outline, where it bends after all"
          onClick={() => drawSoft(cornersAt(shapes[0], own), shapes[0].smooth)}
        >
          Make a mesh of it
        </button>
      )}
      {shapes.length > 1 && (
        <ul className="text-xs" aria-label="Outlines">
          {shapes.map(({ kind }, i) => (
            <li key={i} className="flex items-center">
              <span className="quiet grow">{kind === 'focus' ? 'belongs to it' : 'left out'}</span>
              <button
                type="button"
                className="btn btn-ghost btn-xs btn-square"
                aria-label={`Remove outline ${i + 1}`}
                onClick={() => removeOutline(id, i)}
              >
                <Trash2 size={11} aria-hidden="true" />
              </button>
            </li>
          ))}
        </ul>
      )}
      <div className="flex items-center gap-2">
        <span className="grow" title="Where a rectangle lies on it: drag the four rings">
          Quad
        </span>
        <button type="button" className="btn btn-xs" onClick={() => snapQuad(id)}>
          Snap to the outline
        </button>
      </div>
      <Check
        title={tip('Lay the grid over the picture: does it stick?', 'grid')}
        checked={gridCheck}
        onChange={(on) => setBench({ gridCheck: on })}
      >
        Grid check
      </Check>
      {gridCheck && (
        <>
          {cells(0, 'Cells across')}
          {cells(1, 'Cells down')}
        </>
      )}
      <Check
        title={tip('Show how each part of it fits on this frame', 'misfits')}
        checked={misfits}
        onChange={(on) => setBench({ misfits: on })}
      >
        Show how each part fits
      </Check>
      {misfits && (
        <Hint>
          Green sticks, yellow and struck through swims by over half a pixel, orange and dashed is left out,
          dark is not seen.
        </Hint>
      )}
      <Fold title="Laid flat">
        <Flattened surface={surface} />
      </Fold>
      <Fold title="How it is followed">
        <Choice
          label="It may"
          value={surface.allow}
          options={{
            shift: 'shift only',
            similarity: 'turn and grow',
            sheared: 'turn, grow and shear',
            affine: 'also stretch',
            perspective: 'lean in perspective',
          }}
          onChange={(allow) => change({ allow })}
        />
        <HowFollowed surface={surface} onChange={change} />
        <NumberField
          label="Found from confidence"
          value={surface.minConfidence}
          min={0}
          max={1}
          step={0.05}
          decimals={2}
          onDragStart={beginGesture}
          onDragEnd={endGesture}
          onChange={(minConfidence) => change({ minConfidence })}
        />
        <InFront surface={surface} />
      </Fold>
    </Section>
  );
}

/** Which other surfaces pass in front of one: where they are it is not measured. */
function InFront({ surface }: { readonly surface: Surface }) {
  const others = useShot((s) => surfacesOf(s.state.document)).filter((s) => s.id !== surface.id);
  if (others.length === 0) return null;
  const { id, behind } = surface;
  return (
    <fieldset>
      <legend className="quiet text-xs">Passes in front of it:</legend>
      {others.map((o) => (
        <label key={o.id} className="flex cursor-pointer items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={behind.includes(o.id)}
            onChange={(e) => {
              const next = e.target.checked ? [...behind, o.id] : behind.filter((b) => b !== o.id);
              edit((s) => changeSurface(s, id, { behind: next }));
            }}
          />
          {o.name}
        </label>
      ))}
    </fieldset>
  );
}
