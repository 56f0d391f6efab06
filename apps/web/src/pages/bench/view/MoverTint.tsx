import { useMemo } from 'react';
import { apply, type Matrix3 } from '@lurn/core/geometry';
import { spotColour } from '../../../lib/colours';
import { capital } from '../../../lib/format';
import { moverAreas } from '../../../lib/movers';
import { useBench } from '../../../state/bench';
import { masksHere } from '../../../state/mover-masks';
import { heldPlace, useScene } from '../../../state/scene';
import { useShot } from '../../../state/shot';

/** The picture tinted by what moves as one; what is held is hatched besides, and every one bears its name. */
export function MoverTint({ toPane }: { readonly toPane: Matrix3 }) {
  const scene = useScene();
  const shown = useBench((s) => s.shown);
  const mover = useBench((s) => s.steady?.mover ?? null);
  const { held, movers } = useShot((s) => s.state.document);
  const masks = useBench((s) => masksHere(s, scene));
  const areas = useMemo(() => (scene ? moverAreas(scene, shown, masks) : []), [scene, shown, masks]);
  if (!scene) return null;
  const [a, b, c, d, e, f] = toPane;
  const own = heldPlace(scene, held ?? mover);
  return (
    <g pointerEvents="none" data-testid="mover-tint">
      <defs>
        <pattern
          id="held-hatch"
          width={8}
          height={8}
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <line x1={0} y1={0} x2={0} y2={8} stroke="#f3efe4" strokeWidth={1.6} opacity={0.55} />
        </pattern>
      </defs>
      <g transform={`matrix(${a} ${d} ${b} ${e} ${c} ${f})`}>
        {areas.map(({ mover, path }) => (
          <path key={mover} d={path} fill={spotColour(mover)} fillRule="evenodd" opacity={0.38} />
        ))}
      </g>
      {areas
        .filter(({ mover }) => mover === own)
        .map(({ mover, path }) => (
          <g key={mover} transform={`matrix(${a} ${d} ${b} ${e} ${c} ${f})`}>
            <path d={path} fill="url(#held-hatch)" fillRule="evenodd" opacity={0.7} />
          </g>
        ))}
      {areas.map(({ mover, middle }) => {
        const at = apply(toPane, middle.x, middle.y);
        const { id, name, share } = scene.movers[mover];
        const named = movers.find((m) => m.id === id)?.name || name;
        const text = `${capital(named)}${mover === own ? ', held' : ''} · ${(100 * share).toFixed(0)} %`;
        return (
          <g key={mover} transform={`translate(${at.x} ${at.y})`}>
            <rect
              x={-text.length * 3.5 - 6}
              y={-10}
              width={text.length * 7 + 12}
              height={20}
              rx={3}
              fill="#000"
              opacity={0.72}
            />
            <text textAnchor="middle" y={4} fontSize={12} fill="#f3efe4">
              {text}
            </text>
          </g>
        );
      })}
    </g>
  );
}
