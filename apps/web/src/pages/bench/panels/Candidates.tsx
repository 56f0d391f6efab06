import { useEffect, useMemo } from 'react';
import { mostZoom } from '@lurn/core/plan';
import { candidatesOf, reasonsFor } from '@lurn/core/scene';
import type { AnalysedScene } from '@lurn/core/solve';
import { holdMover } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { filmBackground } from '../../../lib/film';
import { capital, percent } from '../../../lib/format';
import { moverAreas } from '../../../lib/movers';
import { setBench, useBenchParts } from '../../../state/bench';
import { heldPlace, useScene } from '../../../state/scene';
import { edit, useShot } from '../../../state/shot';

/** Pictures of what may be held are so wide in pixels. */
const WIDE = 92;

/** The two or three things that a person would hold, each as a small picture: hovering steadies it, a press holds it. */
export function Candidates() {
  const scene = useScene();
  const { steady, instead, frame } = useBenchParts('steady', 'instead', 'frame');
  const { held, range } = useShot((s) => s.state.document);
  const movers = useMemo(() => (scene ? candidatesOf(scene) : []), [scene]);
  useEffect(() => () => setBench({ tried: null }), []);
  if (!scene || movers.length < 2) return null;
  const now = heldPlace(scene, held ?? steady?.mover ?? null);
  return (
    <div className="flex gap-1.5" role="group" aria-label="What may be held">
      {movers.map((mover) => {
        const place = scene.movers.indexOf(mover);
        const own = place === now;
        const plan = own ? steady : (instead[mover.id] ?? null);
        const off = waywardness(scene, place);
        const zoom = !plan
          ? 'zoom …'
          : Number.isFinite(plan.fit.zoom)
            ? `zoom ${percent(mostZoom(plan, range.from, range.to), 0)}`
            : 'no zoom fits';
        return (
          <button
            key={mover.id}
            type="button"
            aria-pressed={own}
            title={[
              own ? `${capital(mover.name)} is held` : `Hold the ${mover.name}`,
              reasonsFor(mover, scene.movers),
            ]
              .filter(Boolean)
              .join(': it ')}
            className={`min-w-0 flex-1 cursor-pointer rounded-sm text-left text-xs outline-offset-2 ${own ? 'outline-2 outline-primary' : 'hover:outline-1'}`}
            onPointerEnter={() => setBench({ tried: own ? null : plan })}
            onPointerLeave={() => setBench({ tried: null })}
            onFocus={() => setBench({ tried: own ? null : plan })}
            onBlur={() => setBench({ tried: null })}
            onClick={() => {
              setBench({ tried: null });
              edit((s) => holdMover(s, place === 0 ? null : mover.id, mover));
            }}
          >
            <Small scene={scene} mover={place} frame={seenNear(scene, place, frame)} />
            <span className="block truncate leading-tight">{capital(mover.name)}</span>
            <span className="quiet num block leading-tight">moves {off.toFixed(off < 10 ? 1 : 0)} px</span>
            <span className="quiet num block leading-tight">{zoom}</span>
          </button>
        );
      })}
    </div>
  );
}

/** The frame in small, with where a mover is. */
function Small({
  scene,
  mover,
  frame,
}: {
  readonly scene: AnalysedScene;
  readonly mover: number;
  readonly frame: number;
}) {
  const { clip, info } = useBenchParts('clip', 'info');
  const area = useMemo(() => moverAreas(scene, frame).find((a) => a.mover === mover), [scene, frame, mover]);
  const { width, height } = scene.size;
  const high = (WIDE * info.height) / info.width;
  return (
    <span
      className="relative block overflow-hidden rounded-sm"
      style={{ height: high, background: filmBackground(clip, info.frames, frame, WIDE, high) }}
    >
      <svg viewBox={`0 0 ${width} ${height}`} width={WIDE} height={high} aria-hidden="true">
        <path d={area?.path ?? ''} fill={spotColour(mover)} fillOpacity={0.5} />
      </svg>
    </span>
  );
}

/** The frame nearest to one on which a mover is seen. */
function seenNear({ motions }: AnalysedScene, mover: number, frame: number): number {
  const support = motions[mover]?.support ?? [];
  let best = frame;
  let least = Infinity;
  support.forEach((s, f) => {
    if (s !== 'full' || Math.abs(f - frame) >= least) return;
    least = Math.abs(f - frame);
    best = f;
  });
  return best;
}

/** How far a mover goes in the picture, shake and all: root mean square about its middle place, in pixels. */
function waywardness({ motions }: AnalysedScene, mover: number): number {
  const motion = motions[mover];
  const parts = motion?.parts.filter((_, f) => motion.support[f] === 'full') ?? [];
  const mean = (key: 'x' | 'y') => parts.reduce((s, p) => s + p[key], 0) / Math.max(1, parts.length);
  const [mx, my] = [mean('x'), mean('y')];
  const squares = parts.reduce((s, p) => s + (p.x - mx) ** 2 + (p.y - my) ** 2, 0);
  return Math.sqrt(squares / Math.max(1, parts.length));
}
