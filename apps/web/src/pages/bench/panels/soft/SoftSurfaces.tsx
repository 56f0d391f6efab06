import { countSamples, endedOn, FEWEST_TRACKS, hasSample, softAt } from '@lurn/core/track';
import { changeSurface, LIMITS, softOf, softTrackOf, spotsOf, type SoftSurface } from '@lurn/model';
import { Check } from '../../../../components/Check';
import { NumberField } from '../../../../components/NumberField';
import { spotColour } from '../../../../lib/colours';
import { plural } from '../../../../lib/format';
import { setBench, useBenchParts } from '../../../../state/bench';
import { findFaces } from '../../../../state/faces';
import { joinedCount, joinTrackers, letGo } from '../../../../state/soft/joining';
import { useKeyTip } from '../../../../state/keymap';
import { beginGesture, edit, endGesture, useShot } from '../../../../state/shot';
import { deleteVertices, joinOrPart } from '../../../../state/soft/mesh-points';
import { layTo } from '../../../../state/soft/rectify';
import { meshOfSpots, remesh } from '../../../../state/soft/soft';
import { Choice } from '../Choice';
import { Fold, Hint, Section } from '../Section';
import { HowFollowed, SurfaceHead } from '../SurfaceHead';

/** The soft surfaces: drawn here, and what is chosen of the selected one. */
export function SoftSurfaces() {
  const tip = useKeyTip();
  const { tool, selected, facing } = useBenchParts('tool', 'selected', 'facing');
  const { document, measured } = useShot((s) => s.state);
  const all = softOf(document);
  const chosen = all.find((s) => selected.includes(s.id));
  const drawing = tool.id === 'area' && tool.kind === 'soft';
  const spots = spotsOf(document).filter((s) => measured[s.id]).length;
  return (
    <>
      <Section title="Soft surfaces">
        <button
          type="button"
          className={`btn btn-sm w-full ${drawing ? 'btn-primary' : ''}`}
          aria-pressed={drawing}
          title={tip('Draw round cloth, skin, a leaf: a mesh follows its texture', 'soft')}
          onClick={() => setBench({ tool: drawing ? { id: 'mark' } : { id: 'area', kind: 'soft' } })}
        >
          Draw round …
        </button>
        <button
          type="button"
          className={`btn btn-sm w-full ${tool.id === 'by-colour' ? 'btn-primary' : ''}`}
          aria-pressed={tool.id === 'by-colour'}
          title={tip('Press on a colour: what hangs together by it becomes a mesh', 'by-colour')}
          onClick={() => setBench({ tool: { id: tool.id === 'by-colour' ? 'mark' : 'by-colour' } })}
        >
          By its colour …
        </button>
        <button
          type="button"
          className="btn btn-sm w-full"
          title={tip('Each face on the frame that is shown becomes a mesh', 'faces')}
          onClick={() => void findFaces()}
        >
          {facing ? 'Looking for faces … stop' : 'Find faces'}
        </button>
        {spots >= FEWEST_TRACKS && (
          <button
            type="button"
            className="btn btn-sm w-full"
            title="Triangles between the spots that were tracked: the chosen ones, or all"
            onClick={meshOfSpots}
          >
            Of the spots that are tracked
          </button>
        )}
        {all.length === 0 ? (
          <Hint>
            A shirt, a flag, skin: what bends and folds is followed by a mesh, and can be laid flat.
          </Hint>
        ) : (
          <ul aria-label="Soft surfaces">
            {all.map(({ id, name, colour, frame, vertices }) => {
              const n = countSamples(softTrackOf({ measured }, id));
              return (
                <li key={id}>
                  <button
                    type="button"
                    aria-pressed={id === chosen?.id}
                    className={`flex w-full items-center gap-2 rounded-sm px-1 py-0.5 text-left ${id === chosen?.id ? 'bg-base-300' : ''}`}
                    onClick={() =>
                      setBench({ selected: id === chosen?.id ? [] : [id], area: null, points: [] })
                    }
                  >
                    <span className="size-2 shrink-0" style={{ background: spotColour(colour) }} />
                    <span className="grow truncate">{name}</span>
                    <span className="quiet num text-xs">
                      {n > 1 ? plural(n, 'frame') : `${vertices.length} points, frame ${frame}`}
                    </span>
                  </button>
                </li>
              );
            })}
          </ul>
        )}
      </Section>
      {chosen && <Details key={chosen.id} soft={chosen} />}
    </>
  );
}

function Details({ soft }: { readonly soft: SoftSurface }) {
  const tip = useKeyTip();
  const { id, name, frame: own, flatten, spacing, fit, levels, stiffness, vertices, shapes, laid } = soft;
  const { tool, frame, points, dots } = useBenchParts('tool', 'frame', 'points', 'dots');
  const track = useShot((s) => softTrackOf(s.state, id));
  const change = (part: Parameters<typeof changeSurface<SoftSurface>>[2]) =>
    edit((s) => changeSurface<SoftSurface>(s, id, part));
  const ended = hasSample(track, frame) ? endedOn(track, frame) : 0;
  const sample = softAt(track, frame);
  const coasted = sample?.vertices.filter((v) => v?.state === 'coasted').length ?? 0;
  const joined = joinedCount(soft.joined);
  const editing = tool.id === 'points';
  const cutting = tool.id === 'area' && tool.kind === 'hole';
  const away = frame !== own;
  const number = (
    label: string,
    value: number,
    [min, max]: readonly [number, number],
    set: (v: number) => void,
    { step = 1, decimals = 0, unit = '' } = {},
  ) => (
    <NumberField
      {...{ label, value, min, max, step, decimals, unit }}
      onDragStart={beginGesture}
      onDragEnd={endGesture}
      onChange={set}
    />
  );
  return (
    <Section title={name}>
      <SurfaceHead surface={soft} of="soft surface" onName={(text) => change({ name: text })} />
      <Check
        title="As it lies on the reference frame"
        checked={flatten}
        onChange={(on) => change({ flatten: on })}
      >
        Lay it flat where it is held
      </Check>
      {flatten && (
        <Choice
          label="Flat"
          value={laid ? (laid.straight ? 'straight' : 'ahead') : 'frame'}
          options={{
            frame: 'as on one frame',
            ahead: 'a page seen from ahead',
            straight: 'its outline straightened',
          }}
          onChange={(how) => layTo(id, how)}
        />
      )}
      {flatten && laid && (
        <Hint>
          {away
            ? `Its four corners are set on its own frame, ${own}.`
            : `Drag the four corners to those of ${laid.straight ? 'its outline' : 'the page'}.`}
        </Hint>
      )}
      <p className="quiet num text-xs">
        {plural(vertices.length, 'point')}
        {sample && away && `, here ${ended > 0 ? `${ended} ended, ` : ''}${coasted} coasted`}
      </p>
      <Choice
        label="Its points"
        value={fit}
        options={{ even: 'evenly', texture: 'by texture' }}
        onChange={(v) => void remesh(id, { fit: v })}
      />
      {number('Apart', spacing, LIMITS.spacing, (v) => void remesh(id, { spacing: v }), { unit: 'px' })}
      <div className="grid grid-cols-2 gap-1.5">
        <button
          type="button"
          className={`btn btn-xs ${editing ? 'btn-primary' : ''}`}
          aria-pressed={editing}
          disabled={away && !editing}
          title={tip('Put points, choose several, cut the mesh: on its own frame', 'points')}
          onClick={() => setBench({ tool: { id: editing ? 'mark' : 'points' } })}
        >
          Edit points …
        </button>
        <button
          type="button"
          className={`btn btn-xs ${cutting ? 'btn-primary' : ''}`}
          aria-pressed={cutting}
          disabled={away}
          title="Draw round what does not belong to it: an eye, a button"
          onClick={() => setBench({ tool: cutting ? { id: 'mark' } : { id: 'area', kind: 'hole' } })}
        >
          Cut a hole …
        </button>
        {points.length > 0 && (
          <button
            type="button"
            className="btn btn-xs col-span-2"
            title={tip('Take them out', 'delete')}
            onClick={deleteVertices}
          >
            Take out {plural(points.length, 'chosen point')}
          </button>
        )}
        {points.length === 2 && !away && (
          <button
            type="button"
            className="btn btn-xs col-span-2"
            title={tip('An edge between them; where there is one, it goes', 'edge')}
            onClick={joinOrPart}
          >
            Join or part the two points
          </button>
        )}
        <button
          type="button"
          className={`btn btn-xs ${joined > 0 ? '' : 'col-span-2'}`}
          title={tip(
            'Spots and corners that are chosen, or lie on it, become points that it goes with',
            'join',
          )}
          onClick={joinTrackers}
        >
          Let spots join in
        </button>
        {joined > 0 && (
          <button
            type="button"
            className="btn btn-xs"
            title="They stay as points, but it goes with its texture alone"
            onClick={letGo}
          >
            Let go of {joined}
          </button>
        )}
        {shapes.length > 1 && (
          <button
            type="button"
            className="btn btn-xs col-span-2"
            onClick={() => void remesh(id, { shapes: shapes.filter((s) => s.kind === 'focus') })}
          >
            Close {plural(shapes.length - 1, 'hole')}
          </button>
        )}
      </div>
      <Check
        title={tip('What swims is seen between the dots', 'dots')}
        checked={dots}
        onChange={(on) => setBench({ dots: on })}
      >
        Dots on it
      </Check>
      <Fold title="How it is followed">
        {number('Stiffness', stiffness, LIMITS.stiffness, (v) => change({ stiffness: v }), {
          step: 0.1,
          decimals: 2,
          unit: '×',
        })}
        {number('Subdivided', levels, LIMITS.subdivisions, (v) => change({ levels: v }), { unit: '×' })}
        <Check
          title="A model of faces is asked on every frame: it leads where texture tells little, and finds the face again"
          checked={soft.leads === 'face'}
          onChange={(on) => change({ leads: on ? 'face' : undefined })}
        >
          A face: its features lead
        </Check>
        <HowFollowed surface={soft} onChange={change} />
        <Choice
          label="Looks at"
          value={soft.eye.channel}
          options={{ luma: 'brightness', red: 'red', green: 'green', blue: 'blue', saturation: 'saturation' }}
          onChange={(channel) => change({ eye: { ...soft.eye, channel } })}
        />
      </Fold>
    </Section>
  );
}
