import { changeDocument, holdMover, moverLabel, nameMover } from '@lurn/model';
import { Check } from '../../../components/Check';
import { NameField } from '../../../components/NameField';
import { capital, percent, pixels, plural } from '../../../lib/format';
import { setBench, useBench, useBenchParts } from '../../../state/bench';
import { useKeyTip } from '../../../state/keymap';
import { regroup, useAgainstHeld, useScene } from '../../../state/scene';
import { edit, useShot } from '../../../state/shot';
import { Choice } from './Choice';
import { Hint } from './Section';

/** Which of several things is held: those that spots are on, and those that were found in the picture. */
export function Held() {
  const { document } = useShot((s) => s.state);
  const made = useBench((s) => s.clip.made?.scene ?? null);
  const scene = useScene() ?? made;
  const { held } = document;
  // The surroundings are what is held where nothing else is said.
  const movers = document.movers.filter((m) => m.id !== scene?.movers[0]?.id);
  const found =
    scene?.movers.filter(
      (m, i) => i > 0 && !m.overlay && m.share > 0 && !movers.some((o) => o.id === m.id),
    ) ?? [];
  if (movers.length + found.length < 2) return scene && <PointAtIt />;
  const most = scene
    ? `${document.movers.find((m) => m.id === scene.movers[0].id)?.name || scene.movers[0].name}, spots`
    : 'what most spots tell';
  const options = Object.fromEntries([
    ['', most],
    ...movers.map((m) => [m.id, moverLabel(document, m.id)]),
    ...found.map((m) => [
      m.id,
      `${m.name}${m.place ? ', of the place' : ''}, ${percent(m.share, 0)} of the picture`,
    ]),
  ]);
  const hold = (id: string) => {
    const mover = found.find((m) => m.id === id);
    edit((s) => holdMover(s, id || null, mover));
  };
  return (
    <>
      <Choice label="What is held" value={held ?? ''} options={options} onChange={hold} />
      {scene && <NameOfHeld key={held} id={held ?? scene.movers[0].id} />}
      {scene && <PointAtIt />}
    </>
  );
}

/** What moves as one, shown on the picture and pointed at there. */
function PointAtIt() {
  const tip = useKeyTip();
  const { tint, tool } = useBenchParts('tint', 'tool');
  const pointing = tool.id === 'hold';
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
      <button
        type="button"
        className="btn btn-xs"
        aria-pressed={pointing}
        title={tip('Press on the picture on what should be held', 'hold')}
        onClick={() => setBench({ tool: { id: pointing ? 'mark' : 'hold' } })}
      >
        Point at it
      </button>
      <Check
        title={tip('What moves as one, in colour', 'tint')}
        checked={tint}
        onChange={(on) => setBench({ tint: on })}
      >
        Tint movers
      </Check>
      <Regrouping />
    </div>
  );
}

/** What is held gets a name of its own. */
function NameOfHeld({ id }: { readonly id: string }) {
  const scene = useScene();
  const named = useShot((s) => s.state.document.movers.find((m) => m.id === id)?.name);
  const name = named || scene?.movers.find((m) => m.id === id)?.name || '';
  return (
    <NameField
      label="Its name"
      of="Name of what is held"
      name={name}
      onName={(text) => edit((s) => nameMover(s, id, text))}
    />
  );
}

/** Puts features on other movers than were found: drawn round, and told what they go with. */
function Regrouping() {
  const scene = useScene();
  const tip = useKeyTip();
  const { tool, drawn } = useBenchParts('tool', 'drawn');
  const { movers, regroups } = useShot((s) => s.state.document);
  if (!scene) return null;
  const drawing = tool.id === 'area' && tool.kind === 'regroup';
  const nameOf = (id: string, name: string) => capital(movers.find((m) => m.id === id)?.name || name);
  return (
    <>
      <button
        type="button"
        className="btn btn-xs"
        aria-pressed={drawing}
        title={tip('Draw round features that move together, and say what they go with', 'regroup')}
        onClick={() =>
          setBench({ tool: drawing ? { id: 'mark' } : { id: 'area', kind: 'regroup' }, tint: true })
        }
      >
        Regroup …
      </button>
      {drawn && (
        <div
          className="flex w-full flex-wrap items-center gap-1.5"
          role="group"
          aria-label="What is inside goes with"
        >
          <span className="w-full text-xs">What is inside goes with:</span>
          {scene.movers
            .filter((m) => m.share > 0 && !m.overlay)
            .map(({ id, name }) => (
              <button key={id} type="button" className="btn btn-xs" onClick={() => regroup(id)}>
                {nameOf(id, name)}
              </button>
            ))}
          <button type="button" className="btn btn-xs" onClick={() => regroup(null)}>
            Nothing else
          </button>
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => setBench({ drawing: [], drawn: false })}
          >
            Leave it
          </button>
        </div>
      )}
      {regroups.length > 0 && !drawn && (
        <div className="flex w-full items-center gap-2">
          <Hint>{plural(regroups.length, 'regrouping')} of what was found.</Hint>
          <button
            type="button"
            className="btn btn-xs ml-auto"
            onClick={() => edit((s) => changeDocument(s, { regroups: [] }))}
          >
            As it was found
          </button>
        </div>
      )}
    </>
  );
}

/** How the other movers still move in the steadied picture: that is parallax or their own doing, not the tool's fault. */
export function AgainstIt() {
  const { movers } = useShot((s) => s.state.document);
  const against = useAgainstHeld();
  if (against.length === 0) return null;
  return (
    <ul className="text-xs" aria-label="Against what is held">
      {against.slice(0, 4).map(({ id, name, rms }) => (
        <li key={id} className="flex">
          <span className="quiet grow">
            {capital(movers.find((m) => m.id === id)?.name || name)} still moves
          </span>
          <span className="num">{pixels(rms)}</span>
        </li>
      ))}
    </ul>
  );
}
