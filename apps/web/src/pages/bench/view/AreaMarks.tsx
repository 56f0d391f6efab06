import { useMemo } from 'react';
import { apply, cornersAt, outlineOf, placedAreas, type Matrix3, type Point } from '@lurn/core';
import { useBenchParts } from '../../../state/bench';
import { useScene } from '../../../state/scene';
import { useShot } from '../../../state/shot';
import { Hatch, ShapeHandles } from './ShapeHandles';

const pathOf = (points: readonly Point[], toPane: Matrix3, closed = true) => {
  const places = points.map((p) => apply(toPane, p.x, p.y));
  return `M${places.map((p) => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}${closed ? 'Z' : ''}`;
};

/** The pane as a path of its own: what a focus area leaves out is all of it but the area. */
const EVERYWHERE = 'M-9999 -9999H19999V19999H-9999Z';

/** The areas on the frame that is shown: what is not measured is hatched, the selected one has its handles. */
export function AreaMarks({ toPane, handles }: { readonly toPane: Matrix3; readonly handles: boolean }) {
  const { shown, area: selected } = useBenchParts('shown', 'area');
  const { drawing, tool } = useBenchParts('drawing', 'tool');
  const scene = useScene();
  const areas = useShot((s) => s.state.document.areas);
  const placed = useMemo(() => placedAreas(areas, scene), [areas, scene]);
  if (areas.length === 0 && drawing.length === 0) return null;
  return (
    <g data-testid="areas">
      <defs>
        <Hatch id="closed-hatch" />
      </defs>
      {areas.map(({ id, name, kind, smooth }, k) => {
        const corners = cornersAt(placed[k], shown);
        const d = pathOf(outlineOf(corners, smooth), toPane);
        const own = id === selected && handles;
        const top = corners.map((p) => apply(toPane, p.x, p.y)).reduce((a, b) => (b.y < a.y ? b : a));
        return (
          <g key={id} data-area-kind={kind}>
            <path
              d={kind === 'focus' ? EVERYWHERE + d : d}
              fill="url(#closed-hatch)"
              fillRule="evenodd"
              pointerEvents="none"
            />
            <path
              d={d}
              fill="none"
              stroke="#000"
              strokeOpacity={0.75}
              strokeWidth={own ? 3.6 : 3}
              pointerEvents="none"
            />
            <path
              d={d}
              fill="none"
              stroke={own ? 'var(--color-primary)' : '#e8e2d4'}
              strokeWidth={own ? 2 : 1.3}
              strokeDasharray={kind === 'focus' ? undefined : '6 4'}
              pointerEvents="none"
            />
            {handles && tool.id === 'mark' && (
              <path
                d={d}
                fill="none"
                stroke="transparent"
                strokeWidth={12}
                pointerEvents="stroke"
                data-area={id}
                data-part="line"
                className="cursor-move"
              >
                <title>{`${name}: drag to move it`}</title>
              </path>
            )}
            {own && tool.id === 'mark' && (
              <ShapeHandles
                corners={corners.map((p) => apply(toPane, p.x, p.y))}
                curve={outlineOf(corners, smooth).map((p) => apply(toPane, p.x, p.y))}
                smooth={smooth}
                of={{ 'data-area': id }}
              />
            )}
            <text
              x={top.x}
              y={Math.max(14, top.y - 8)}
              textAnchor="middle"
              fontSize={11}
              fill="#e8e2d4"
              stroke="#000"
              strokeOpacity={0.8}
              strokeWidth={2.5}
              paintOrder="stroke"
              className="select-none"
              pointerEvents="none"
            >
              {kind === 'focus' ? `${name}: measured alone` : `${name}: not measured`}
            </text>
          </g>
        );
      })}
      <Drawing toPane={toPane} />
    </g>
  );
}

/** A shape while it is drawn. @param toPane  the frame's pixels, as shot, to the pane */
export function Drawing({ toPane }: { readonly toPane: Matrix3 }) {
  const { drawing: points, drawn: closed } = useBenchParts('drawing', 'drawn');
  if (points.length === 0) return null;
  const d = pathOf(points, toPane, closed);
  return (
    <g fill="none" pointerEvents="none">
      <path d={d} stroke="#000" strokeOpacity={0.75} strokeWidth={3.4} />
      <path d={d} stroke="var(--color-primary)" strokeWidth={1.8} />
      {!closed &&
        points.length < 60 &&
        points.map((p, i) => {
          const { x, y } = apply(toPane, p.x, p.y);
          return (
            <rect
              key={i}
              x={x - 3.5}
              y={y - 3.5}
              width={7}
              height={7}
              fill="var(--color-primary)"
              stroke="#000"
            />
          );
        })}
    </g>
  );
}
