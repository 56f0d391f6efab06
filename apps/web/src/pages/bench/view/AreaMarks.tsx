import { useMemo } from 'react';
import { apply, cornersAt, outlineOf, type Matrix3, type Point } from '@lurn/core/geometry';
import { placedAreas } from '@lurn/core/solve';
import { useBenchParts } from '../../../state/bench';
import { useScene } from '../../../state/scene';
import { useShot } from '../../../state/shot';
import { Hatch, ShapeHandles } from './ShapeHandles';
import { DragLine, Label, pathOf, Stroke } from './strokes';

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
        const inPane = (places: readonly Point[]) => places.map((p) => apply(toPane, p.x, p.y));
        const curve = inPane(outlineOf(corners, smooth));
        const d = pathOf(curve);
        const own = id === selected && handles;
        const top = inPane(corners).reduce((a, b) => (b.y < a.y ? b : a));
        return (
          <g key={id} data-area-kind={kind}>
            <path
              d={kind === 'focus' ? EVERYWHERE + d : d}
              fill="url(#closed-hatch)"
              fillRule="evenodd"
              pointerEvents="none"
            />
            <Stroke
              d={d}
              colour={own ? 'var(--color-primary)' : undefined}
              width={own ? 2 : 1.3}
              dash={kind === 'focus' ? undefined : '6 4'}
            />
            {handles && tool.id === 'mark' && (
              <DragLine
                d={d}
                of={{ 'data-area': id, 'data-part': 'line' }}
                title={`${name}: drag to move it`}
              />
            )}
            {own && tool.id === 'mark' && (
              <ShapeHandles
                corners={inPane(corners)}
                curve={curve}
                smooth={smooth}
                of={{ 'data-area': id }}
              />
            )}
            <Label x={top.x} y={Math.max(14, top.y - 8)} anchor="middle">
              {kind === 'focus' ? `${name}: measured alone` : `${name}: not measured`}
            </Label>
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
  const places = points.map((p) => apply(toPane, p.x, p.y));
  return (
    <g fill="none" pointerEvents="none">
      <Stroke d={pathOf(places, closed)} colour="var(--color-primary)" width={1.8} />
      {!closed &&
        points.length < 60 &&
        places.map(({ x, y }, i) => (
          <rect
            key={i}
            {...{ x: x - 3.5, y: y - 3.5, width: 7, height: 7 }}
            fill="var(--color-primary)"
            stroke="#000"
          />
        ))}
    </g>
  );
}
