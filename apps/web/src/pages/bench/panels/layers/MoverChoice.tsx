import { useMemo } from 'react';
import { moverOutline } from '../../../../lib/movers';
import { useBench } from '../../../../state/bench';
import { useScene } from '../../../../state/scene';

/** The things that move by themselves and are seen on the frame that is shown, of which one is chosen to do something with. */
export function MoverChoice({
  label,
  title,
  run,
}: {
  readonly label: string;
  readonly title: string;
  readonly run: (id: string) => void;
}) {
  const scene = useScene();
  const own = useBench((s) => s.steady?.mover ?? null);
  const shown = useBench((s) => s.shown);
  const movers = useMemo(
    () =>
      // The first are the surroundings: nothing reaches round them.
      scene?.movers.filter((m, i) => i > 0 && !m.overlay && m.id !== own && moverOutline(scene, shown, i)) ??
      [],
    [scene, own, shown],
  );
  if (movers.length === 0) return null;
  return (
    <select
      className="select select-sm w-full"
      aria-label={`${label} a mover`}
      title={title}
      value=""
      onChange={(e) => run(e.target.value)}
    >
      <option value="" disabled>
        {label} …
      </option>
      {movers.map(({ id, name }) => (
        <option key={id} value={id}>
          {label} {name}
        </option>
      ))}
    </select>
  );
}
