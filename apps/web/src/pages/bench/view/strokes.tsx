import type { ReactNode } from 'react';
import type { Point } from '@lurn/core/geometry';

/** What marks on the picture are drawn of. Every stroke has a dark side and a light one: read on black, white and grass. */

/** The light side of what has no colour of its own. */
export const BONE = '#e8e2d4';

/** Whose something is and which part of it, as the view reads it from what is pressed. */
export type Whose = Readonly<Record<`data-${string}`, string | number>>;

export const pathOf = (points: readonly Point[], closed = true) =>
  `M${points.map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}${closed ? 'Z' : ''}`;

/** A line, on a dark one that is wider. */
export function Stroke({
  d,
  colour = BONE,
  width = 1.3,
  dash,
  opacity,
}: {
  readonly d: string;
  readonly colour?: string;
  readonly width?: number;
  readonly dash?: string;
  readonly opacity?: number;
}) {
  return (
    <g fill="none" pointerEvents="none" strokeDasharray={dash} opacity={opacity}>
      <path d={d} stroke="#000" strokeOpacity={0.75} strokeWidth={width + 1.6} />
      <path d={d} stroke={colour} strokeWidth={width} />
    </g>
  );
}

/** A few words on the picture. */
export function Label({
  x,
  y,
  anchor = 'start',
  colour = BONE,
  weight,
  children,
}: {
  readonly x: number;
  readonly y: number;
  readonly anchor?: 'start' | 'middle' | 'end';
  readonly colour?: string;
  readonly weight?: number;
  readonly children: ReactNode;
}) {
  return (
    <text
      {...{ x, y }}
      textAnchor={anchor}
      className="num select-none"
      fontSize={11}
      fontWeight={weight}
      fill={colour}
      stroke="#000"
      strokeOpacity={0.8}
      strokeWidth={2.5}
      paintOrder="stroke"
      pointerEvents="none"
    >
      {children}
    </text>
  );
}

/** A line, wide enough to be taken hold of, and with a fill what lies within it, too. */
export function DragLine({
  d,
  of,
  title,
  fill = 'none',
}: {
  readonly d: string;
  readonly of: Whose;
  readonly title: string;
  readonly fill?: 'none' | 'transparent';
}) {
  return (
    <path
      d={d}
      fill={fill}
      stroke="transparent"
      strokeWidth={12}
      pointerEvents={fill === 'none' ? 'stroke' : 'all'}
      {...of}
      className="cursor-move"
    >
      <title>{title}</title>
    </path>
  );
}

/** A ring about the pixel itself. @param of  null where it cannot be dragged */
export function RingHandle({
  at: { x, y },
  of,
  title,
}: {
  readonly at: Point;
  readonly of: Whose | null;
  readonly title: string;
}) {
  return (
    <g fill="none">
      <circle cx={x} cy={y} r={6} stroke="#000" strokeOpacity={0.75} strokeWidth={3} pointerEvents="none" />
      <circle cx={x} cy={y} r={6} stroke={BONE} strokeWidth={1.4} pointerEvents="none" />
      {of && (
        <circle cx={x} cy={y} r={10} fill="transparent" {...of} className="cursor-move">
          <title>{title}</title>
        </circle>
      )}
    </g>
  );
}

/** The corners of a rectangle, clockwise, in words. */
export const CORNER_NAMES = ['top left', 'top right', 'bottom right', 'bottom left'];
