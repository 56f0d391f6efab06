import { useMemo } from 'react';
import {
  apply,
  cornersAt,
  isFacing,
  multiply,
  outlineOf,
  quadToQuad,
  rectangle,
  type Matrix3,
  type Point,
  type Quad,
} from '@lurn/core/geometry';
import { surfaceAt } from '@lurn/core/track';
import { quadOf, surfacesOf, surfaceTrackOf, type Surface } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { useBenchParts } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import { motionOn } from '../../../state/surfaces';
import { useLooked } from '../../../state/surface-look';
import { showsAt } from '../../../state/stations';
import { Hatch, ShapeHandles } from './ShapeHandles';
import { BONE, CORNER_NAMES, DragLine, Label, pathOf, RingHandle, Stroke } from './strokes';

/** Where corners on a surface's own frame are in the pane; null where they cannot be seen. */
function placed(toPane: Matrix3, places: readonly Point[]): Point[] | null {
  return isFacing(toPane, places) ? places.map((p) => apply(toPane, p.x, p.y)) : null;
}

/**
 * The surfaces on the frame that is shown: outlines, quad, and on demand the grid and how each part fits.
 *
 * @param toPane   the frame's pixels to the pane
 * @param handles  what can be dragged
 */
export function SurfaceMarks({ toPane, handles }: { readonly toPane: Matrix3; readonly handles: boolean }) {
  const { shown, selected, station } = useBenchParts('shown', 'selected', 'station');
  const surfaces = useShot((s) => surfacesOf(s.state.document));
  const measured = useShot((s) => s.state.measured);
  if (surfaces.length === 0) return null;
  return (
    <g data-testid="surfaces">
      {surfaces.map((surface) => {
        const m = motionOn(surface, shown);
        if (!m) return null;
        const state = surfaceAt(surfaceTrackOf({ measured }, surface.id), shown)?.state ?? 'drawn';
        return (
          <SurfaceMark
            key={surface.id}
            surface={surface}
            toPane={multiply(toPane, m)}
            frame={shown}
            state={state}
            selected={selected.includes(surface.id)}
            handles={handles && showsAt(station).marks === true}
          />
        );
      })}
    </g>
  );
}

function SurfaceMark({
  surface,
  toPane,
  frame,
  state,
  selected,
  handles,
}: {
  readonly surface: Surface;
  /** The surface's own frame to the pane. */
  readonly toPane: Matrix3;
  readonly frame: number;
  readonly state: string;
  readonly selected: boolean;
  readonly handles: boolean;
}) {
  const { gridCheck, misfits, station, magnifier } = useBenchParts(
    'gridCheck',
    'misfits',
    'station',
    'magnifier',
  );
  const { id, name, colour, quad, grid } = surface;
  const own = spotColour(colour);
  const corners = placed(toPane, quadOf(quad));
  const away = state === 'coasted' || state === 'bridged';
  const dragged = magnifier?.spot === id;
  const marking = showsAt(station).marks === true;
  return (
    <g data-surface-name={name}>
      {selected && misfits && marking && <Misfits surface={id} frame={frame} toPane={toPane} />}
      {selected && gridCheck && corners && showsAt(station).grid && <Grid corners={corners} cells={grid} />}
      {!dragged &&
        surface.shapes.map((shape, i) => {
          const drawn = cornersAt(shape, frame);
          const outline = placed(toPane, outlineOf(drawn, shape.smooth));
          if (!outline) return null;
          const d = pathOf(outline);
          const left = shape.kind === 'ignore';
          return (
            <g key={i}>
              {left && <path d={d} fill="url(#left-out)" pointerEvents="none" />}
              <Stroke
                d={d}
                colour={own}
                width={selected ? 1.8 : 1.3}
                dash={away || left ? '5 4' : undefined}
              />
              {handles && (
                <DragLine
                  d={d}
                  of={{ 'data-surface': id, 'data-part': 'line', 'data-outline': i }}
                  title={`${name}: drag to move its outline`}
                />
              )}
              {handles && selected && showsAt(station).places && (
                <ShapeHandles
                  corners={placed(toPane, drawn) ?? []}
                  curve={outline}
                  smooth={shape.smooth}
                  of={{ 'data-surface': id, 'data-outline': i }}
                />
              )}
            </g>
          );
        })}
      {corners && (
        <>
          {selected && <Stroke d={pathOf(corners)} width={1} dash={away ? '5 4' : undefined} />}
          <Brackets corners={corners} colour={selected ? BONE : own} />
          {handles && selected && <QuadHandles id={id} corners={corners} />}
          <Label x={corners[0].x} y={Math.max(14, Math.min(corners[0].y, corners[1].y) - 9)}>
            {away ? `${name}: ${state}` : name}
          </Label>
        </>
      )}
      <defs>
        <Hatch id="left-out" />
      </defs>
    </g>
  );
}

/** How far along each edge a corner's bracket goes, in screen pixels at the most. */
const BRACKET = 14;

/** The quad's corners: an open bracket at each, so that the pixel itself stays visible. */
function Brackets({ corners, colour }: { readonly corners: readonly Point[]; readonly colour: string }) {
  const d = corners
    .map((p, i) => {
      const arm = (q: Point) => {
        const far = Math.hypot(q.x - p.x, q.y - p.y) || 1;
        const along = (t: number) => ({ x: p.x + ((q.x - p.x) * t) / far, y: p.y + ((q.y - p.y) * t) / far });
        return pathOf([along(Math.min(3, far / 4)), along(Math.min(BRACKET, far / 2.5))], false);
      };
      return arm(corners[(i + 1) % 4]) + arm(corners[(i + 3) % 4]);
    })
    .join('');
  return <Stroke d={d} colour={colour} width={2.4} />;
}

/** The perspective grid over the quad. */
function Grid({
  corners,
  cells: [columns, rows],
}: {
  readonly corners: readonly Point[];
  readonly cells: readonly [number, number];
}) {
  const m = quadToQuad(rectangle(0, 0, columns, rows), corners as unknown as Quad);
  if (!m) return null;
  const stretch = (x0: number, y0: number, x1: number, y1: number) =>
    pathOf([apply(m, x0, y0), apply(m, x1, y1)], false);
  const across = Array.from({ length: rows - 1 }, (_, j) => stretch(0, j + 1, columns, j + 1));
  const down = Array.from({ length: columns - 1 }, (_, i) => stretch(i + 1, 0, i + 1, rows));
  return (
    <g data-testid="grid" opacity={0.85}>
      <Stroke d={[...across, ...down].join('')} width={0.8} />
    </g>
  );
}

/** How each block of a surface fits on the frame: the worse, the more it is hatched; what is left out is crossed. */
function Misfits({
  surface,
  frame,
  toPane,
}: {
  readonly surface: string;
  readonly frame: number;
  readonly toPane: Matrix3;
}) {
  const looked = useLooked(surface, frame);
  const blocks = looked?.blocks ?? NO_BLOCKS;
  const drawn = useMemo(
    () =>
      blocks.flatMap((b) => {
        const corners = placed(toPane, b.corners);
        if (!corners) return [];
        const swims = b.seen && b.weight >= 0.5 && b.off > SWIMS;
        return [{ ...b, d: pathOf(corners) + (swims ? pathOf([corners[0], corners[2]], false) : '') }];
      }),
    [blocks, toPane],
  );
  return (
    <g data-testid="misfits" pointerEvents="none">
      {drawn.map(({ d, seen, weight, off }, i) => (
        <path
          key={i}
          d={d}
          fill={!seen ? '#000' : weight < 0.5 ? '#e5703a' : off > SWIMS ? '#e6b422' : '#9fbf6b'}
          fillOpacity={!seen ? 0.45 : weight < 0.5 ? 0.25 + 0.4 * (1 - weight) : Math.min(0.6, 0.1 + off)}
          stroke="#000"
          strokeOpacity={0.35}
          strokeWidth={0.6}
          strokeDasharray={weight < 0.5 ? '3 2' : undefined}
        />
      ))}
    </g>
  );
}

/** A block that would lie so many pixels elsewhere by itself swims; it is struck through as well. */
const SWIMS = 0.5;
const NO_BLOCKS: readonly never[] = [];

function QuadHandles({ id, corners }: { readonly id: string; readonly corners: readonly Point[] }) {
  return corners.map((p, i) => (
    <RingHandle
      key={i}
      at={p}
      of={{ 'data-surface': id, 'data-part': 'quad', 'data-index': i }}
      title={`Quad, ${CORNER_NAMES[i]}: drag it to where the rectangle's corner is`}
    />
  ));
}
