import { apply, type Matrix3, type Point } from '@lurn/core/geometry';
import type { Guides } from '../../../state/bench';
import { Stroke } from './strokes';

/** Lines that are laid over a picture to compare it by; places in picture pixels of the pane. */

/** A cross that stays where it is put in every pane; it is taken by its middle. */
export function Crosshair({
  at,
  toPane,
  pane,
}: {
  at: Point;
  toPane: Matrix3;
  pane: { width: number; height: number };
}) {
  const place = apply(toPane, at.x, at.y);
  const [x, y] = [Math.round(place.x) + 0.5, Math.round(place.y) + 0.5];
  const gap = 7;
  return (
    <g data-testid="crosshair">
      <Stroke
        d={`M0 ${y}H${x - gap}M${x + gap} ${y}H${pane.width}M${x} 0V${y - gap}M${x} ${y + gap}V${pane.height}`}
        width={1}
      />
      <rect
        x={x - 9}
        y={y - 9}
        width={18}
        height={18}
        fill="transparent"
        data-part="crosshair"
        className="cursor-move"
      >
        <title>{`Crosshair at ${at.x.toFixed(1)}, ${at.y.toFixed(1)} px: drag it`}</title>
      </rect>
    </g>
  );
}

/** @param box  what is framed: left, top, right, bottom in picture pixels */
export function GuideLines({
  guides,
  box: [left, top, right, bottom],
  toPane,
}: {
  readonly guides: Guides;
  readonly box: readonly [number, number, number, number];
  readonly toPane: Matrix3;
}) {
  const shares = guides === 'thirds' ? [1 / 3, 2 / 3] : [0.5];
  const [p, q] = [apply(toPane, left, top), apply(toPane, right, bottom)];
  const d = shares
    .map((s) => `M${p.x + s * (q.x - p.x)} ${p.y}V${q.y}M${p.x} ${p.y + s * (q.y - p.y)}H${q.x}`)
    .join('');
  return <Stroke d={d} width={1} dash={guides === 'centre' ? '10 4 2 4' : undefined} opacity={0.8} />;
}

/** Where the subject is held in the steadied picture, and how far it may float; it is taken by its middle. */
export function LockRing({
  place,
  tolerance,
  toPane,
}: {
  readonly place: Point;
  readonly tolerance: number;
  readonly toPane: Matrix3;
}) {
  const { x, y } = apply(toPane, place.x, place.y);
  const [rx, ry] = [tolerance * toPane[0], tolerance * toPane[4]].map((r) => Math.max(13, r));
  const half = 4;
  return (
    <g data-testid="lock-ring">
      <Stroke
        d={`M${x - rx} ${y}A${rx} ${ry} 0 1 1 ${x + rx} ${y}A${rx} ${ry} 0 1 1 ${x - rx} ${y}`}
        width={1.6}
        dash={tolerance > 0 ? '7 4' : undefined}
      />
      <Stroke d={`M${x - half} ${y}H${x + half}M${x} ${y - half}V${y + half}`} width={1.4} />
      <circle cx={x} cy={y} r={13} fill="transparent" data-part="lock" className="cursor-move">
        <title>The subject is held here: drag it to another place</title>
      </circle>
    </g>
  );
}
