import { WEAK } from '@lurn/core/doubt';
import { apply, type Matrix3, type Point } from '@lurn/core/geometry';
import { gradeOf, sampleAt, type Grip, type Track } from '@lurn/core/track';
import type { Spot } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { LETTER, type Side } from '../../../lib/labels';
import { Label, Stroke } from './strokes';

interface MarkProps {
  readonly spot: Spot;
  readonly track: Track;
  readonly frame: number;
  /** Picture to screen. */
  readonly toPane: Matrix3;
  readonly selected: boolean;
  /** On which side its name stands. */
  readonly side: Side;
  /** Where the patch lies, when the path has carried on with another feature. */
  readonly patchPlace?: Point | null;
  readonly grip?: Grip;
  /** How far the sample lies from where the motion puts it, in pixels; NaN where that is not known. */
  readonly residual?: number;
  /** Handles and hit areas, for the pane in which spots are worked on. */
  readonly handles: boolean;
}

/** A box of the picture as it lies in the pane, turned and slanted as the picture is. */
function boxAt(toPane: Matrix3, { x, y }: Point, halfWidth: number, halfHeight: number) {
  const place = (u: number, v: number) => apply(toPane, x + u * halfWidth, y + v * halfHeight);
  const at = (u: number, v: number) => {
    const p = place(u, v);
    return `${p.x.toFixed(2)} ${p.y.toFixed(2)}`;
  };
  const middle = place(0, 0);
  const from = (u: number, v: number) => {
    const p = place(u, v);
    return { x: p.x - middle.x, y: p.y - middle.y };
  };
  const corners = [from(-1, -1), from(1, -1), from(1, 1), from(-1, 1)];
  return {
    /** Its place in the pane by -1 to 1 across and down, as a path has it. */
    at,
    /** Half its width and height along its own sides ... */
    w: Math.hypot(from(1, 0).x, from(1, 0).y),
    h: Math.hypot(from(0, 1).x, from(0, 1).y),
    /** ... and how far it goes sideways and up and down from its middle. */
    across: Math.max(...corners.map((p) => Math.abs(p.x))),
    down: Math.max(...corners.map((p) => Math.abs(p.y))),
    corner: place(1, 1),
    outline: (u: number, v: number) => `M${at(-u, -v)}L${at(u, -v)}L${at(u, v)}L${at(-u, v)}Z`,
  };
}

/** A spot on the picture: a patch with open corners, ticks that leave the middle free, and its short name. */
export function SpotMark({
  spot,
  track,
  frame,
  toPane,
  patchPlace,
  grip,
  residual,
  selected,
  side,
  handles,
}: MarkProps) {
  const sample = sampleAt(track, frame);
  if (!sample) return null;
  const path = apply(toPane, sample.x, sample.y);
  const centre = patchPlace ?? sample;
  const { x, y } = apply(toPane, centre.x, centre.y);
  const moved = Math.hypot(path.x - x, path.y - y) > 1;
  const patch = boxAt(toPane, centre, spot.patch[0] + 0.5, spot.patch[1] + 0.5);
  const reach = boxAt(
    toPane,
    centre,
    spot.patch[0] + 0.5 + spot.reach[0],
    spot.patch[1] + 0.5 + spot.reach[1],
  );
  const { w, h, at } = patch;
  const colour = spotColour(spot.colour);
  const c = Math.max(4, Math.min(w, h) * 0.5);
  const corner = (u: number, v: number) => `M${at(u, v * (1 - c / h))}L${at(u, v)}L${at(u * (1 - c / w), v)}`;
  const scale = w / (spot.patch[0] + 0.5);
  const gap = Math.max(3, 0.8 * scale);
  const tick = gap + Math.max(3, Math.min(w, h) * 0.28);
  const ticks = [
    [1, 0],
    [-1, 0],
    [0, 1],
    [0, -1],
  ]
    .map(([u, v]) => `M${at((u * gap) / w, (v * gap) / h)}L${at((u * tick) / w, (v * tick) / h)}`)
    .join('');
  const nameX = side === 'right' ? x + patch.across + LETTER.gap : x - patch.across - LETTER.gap;
  const top = y - patch.down;
  const anchor = side === 'right' ? 'start' : 'end';
  const doubtful = sample.confidence < WEAK || sample.state === 'coasted' || sample.state === 'bridged';
  return (
    <g opacity={spot.used ? 1 : 0.55}>
      {selected && handles && <Stroke d={reach.outline(1, 1)} colour={colour} width={1} dash="1.5 3.5" />}
      <Stroke
        d={[corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)].join('')}
        colour={colour}
        width={selected ? 2.2 : 1.4}
        dash={doubtful ? '3 2' : undefined}
      />
      <Stroke d={ticks} colour={colour} width={1.2} />
      {moved && (
        // The path goes on where the first feature was: a small ring, tied to the patch.
        <Stroke
          d={`M${x} ${y}L${path.x} ${path.y}M${path.x + 5} ${path.y}A5 5 0 1 1 ${path.x - 5} ${path.y}A5 5 0 1 1 ${path.x + 5} ${path.y}`}
          colour={colour}
          width={1}
          dash="3 2"
        />
      )}
      {selected && grip && <Hold grip={grip} x={x} y={y} w={w} scale={scale} toPane={toPane} />}
      <Label x={nameX} y={top + 4} anchor={anchor} colour={colour} weight={selected ? 700 : 500}>
        {spot.name}
        {sample.state === 'pinned' ? ' ◆' : sample.state === 'tracked' ? '' : ` ${sample.state}`}
      </Label>
      {residual !== undefined && Number.isFinite(residual) && (
        <Residual
          value={residual}
          x={x}
          y={y}
          textX={nameX}
          anchor={anchor}
          textY={top + 17}
          told={selected || scale > 0.8}
        />
      )}
      {handles && (
        <>
          <path
            d={patch.outline(Math.max(1, 9 / w), Math.max(1, 9 / h))}
            fill="transparent"
            data-spot={spot.id}
            data-part="spot"
            className="cursor-move"
          />
          {selected && (
            <>
              {Math.min(w, h) >= LEAST_HANDLED && (
                <Handle {...patch.corner} id={spot.id} part="patch" colour={colour} />
              )}
              <Handle {...reach.corner} id={spot.id} part="reach" colour={colour} />
            </>
          )}
          {/* Whatever lies near it, who takes hold of the centre moves the spot. */}
          <circle
            cx={x}
            cy={y}
            r={Math.min(9, Math.max(5, 0.6 * Math.min(w, h)))}
            fill="transparent"
            data-spot={spot.id}
            data-part="spot"
            className="cursor-move"
          />
        </>
      )}
    </g>
  );
}

/** A patch whose half-sizes are fewer pixels on screen has no handle: it would lie where the centre is taken hold of. */
const LEAST_HANDLED = 8;

/** From these many pixels a residual is doubtful, and lost. */
const DOUBTFUL = 0.75;
const LOST = 3;

/** How far a spot is off its place: a number, and a disc that grows with it, its colour never alone. */
function Residual({
  value,
  x,
  y,
  textX,
  textY,
  anchor,
  told,
}: {
  readonly value: number;
  readonly x: number;
  readonly y: number;
  readonly textX: number;
  readonly textY: number;
  readonly anchor: 'start' | 'end';
  /** Tells the number even where nothing is wrong. */
  readonly told: boolean;
}) {
  const colour =
    value >= LOST
      ? 'var(--color-error)'
      : value >= DOUBTFUL
        ? 'var(--color-warning)'
        : 'var(--color-primary)';
  const r = Math.min(26, 4 + 5 * Math.sqrt(value));
  return (
    <g pointerEvents="none" data-residual={value.toFixed(2)}>
      <circle cx={x} cy={y} r={r} fill={colour} fillOpacity={0.25} stroke={colour} strokeWidth={1.5} />
      {(told || value >= DOUBTFUL) && (
        <Label x={textX} y={textY} anchor={anchor} colour={colour}>
          {value >= LOST ? '▲▲ ' : value >= DOUBTFUL ? '▲ ' : ''}
          {value.toFixed(2)} px
        </Label>
      )}
    </g>
  );
}

/** Where a patch would slide along its edge, and the place that looks like it. */
function Hold({
  grip,
  x,
  y,
  w,
  scale,
  toPane,
}: {
  readonly grip: Grip;
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly scale: number;
  readonly toPane: Matrix3;
}) {
  const like = grip.lookalike && apply(toPane, grip.lookalike.x, grip.lookalike.y);
  const r = Math.max(5, 5 * scale);
  const length = Math.max(w * 1.15, 14);
  const [c, s] =
    grip.slides === null ? [0, 0] : [Math.cos(grip.slides) * length, Math.sin(grip.slides) * length];
  return (
    <g data-grip={gradeOf(grip)} pointerEvents="none">
      {grip.slides !== null && (
        <Stroke d={`M${x - c} ${y - s}L${x + c} ${y + s}`} colour="var(--color-warning)" width={2} />
      )}
      {like && (
        <Stroke
          d={`M${like.x - r} ${like.y - r}l${2 * r} ${2 * r}M${like.x + r} ${like.y - r}l${-2 * r} ${2 * r}`}
          colour="var(--color-warning)"
          width={1.4}
        />
      )}
    </g>
  );
}

function Handle({
  x,
  y,
  id,
  part,
  colour,
}: {
  x: number;
  y: number;
  id: string;
  part: 'patch' | 'reach';
  colour: string;
}) {
  return (
    <g data-spot={id} data-part={part} className="cursor-nwse-resize">
      <rect x={x - 8} y={y - 8} width={16} height={16} fill="transparent" data-spot={id} data-part={part} />
      <rect x={x - 3} y={y - 3} width={6} height={6} fill={colour} stroke="#000" pointerEvents="none" />
    </g>
  );
}
