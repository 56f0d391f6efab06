import type { Point } from '@lurn/core/geometry';

/** A square at every corner of a shape, a small ring where an edge may get one more. */
export function ShapeHandles({
  corners,
  curve,
  smooth,
  of,
}: {
  /** In the pane, as is the outline that goes through them. */
  readonly corners: readonly Point[];
  readonly curve: readonly Point[];
  readonly smooth: boolean;
  /** What tells whose they are, as the view reads it from what is pressed. */
  readonly of: Readonly<Record<`data-${string}`, string | number>>;
}) {
  const pieces = curve.length / Math.max(1, corners.length);
  return corners.map((p, i) => {
    const q = corners[(i + 1) % corners.length];
    const middle = smooth
      ? curve[Math.floor((i + 0.5) * pieces)]
      : { x: (p.x + q.x) / 2, y: (p.y + q.y) / 2 };
    const at = { ...of, 'data-index': i };
    return (
      <g key={i}>
        <circle cx={middle.x} cy={middle.y} r={3} fill="#000" stroke="#e8e2d4" pointerEvents="none" />
        <circle
          cx={middle.x}
          cy={middle.y}
          r={7}
          fill="transparent"
          {...at}
          data-part="edge"
          className="cursor-copy"
        >
          <title>Drag to add a corner</title>
        </circle>
        <rect
          x={p.x - 3.5}
          y={p.y - 3.5}
          width={7}
          height={7}
          fill="var(--color-primary)"
          stroke="#000"
          pointerEvents="none"
        />
        <rect
          x={p.x - 8}
          y={p.y - 8}
          width={16}
          height={16}
          fill="transparent"
          {...at}
          data-part="corner"
          className="cursor-move"
        >
          <title>Drag the corner; a double press takes it out</title>
        </rect>
      </g>
    );
  });
}

/** What is not measured is filled with `url(#id)` of this. */
export function Hatch({ id }: { readonly id: string }) {
  return (
    <pattern id={id} width={7} height={7} patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
      <rect width={7} height={7} fill="#000" opacity={0.28} />
      <line x1={0} y1={0} x2={0} y2={7} stroke="#f3efe4" strokeWidth={1.2} opacity={0.5} />
    </pattern>
  );
}
