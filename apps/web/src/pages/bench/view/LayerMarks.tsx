import {
  apply,
  cornersAt,
  isFacing,
  multiply,
  outlineOf,
  type Matrix3,
  type Point,
} from '@lurn/core/geometry';
import { quadOf, type Layer } from '@lurn/model';
import { useBenchParts } from '../../../state/bench';
import { drawnPart } from '../../../state/outlines';
import { layerToPicture } from '../../../state/layer-places';
import { useShot } from '../../../state/shot';
import { ShapeHandles } from './ShapeHandles';
import { BONE, DragLine, pathOf, Stroke, type Whose } from './strokes';

const shift = ({ x, y }: Point) => `translate(${x.toFixed(1)} ${y.toFixed(1)})`;

/**
 * The layers on the frame that is shown: where they can be taken hold of, and the selected one's handles.
 *
 * @param toPane  the pane's picture to the pane
 */
export function LayerMarks({
  toPane,
  kind,
}: {
  readonly toPane: Matrix3;
  readonly kind: 'source' | 'steadied';
}) {
  const {
    shown,
    layer: selected,
    tool,
    bare,
    steady,
  } = useBenchParts('shown', 'layer', 'tool', 'bare', 'steady');
  const { stroke, cloneFrom, brush } = useBenchParts('stroke', 'cloneFrom', 'brush');
  const layers = useShot((s) => s.state.document.layers);
  void steady; // what is carried moves with it
  if (bare) return null;
  const resting = tool.id === 'mark';
  return (
    <g data-testid="layers">
      {layers
        .filter((l) => l.shown)
        .map((layer) => {
          const own = layer.id === selected;
          const m = multiply(toPane, layerToPicture(layer, shown, kind));
          return (
            <g key={layer.id} data-layer-name={layer.name}>
              <Part layer={layer} matte={null} toPane={m} frame={shown} selected={own} resting={resting} />
              {own &&
                layer.mattes.map(({ id }) => (
                  <Part
                    key={id}
                    layer={layer}
                    matte={id}
                    toPane={multiply(toPane, layerToPicture(drawnPart(layer, id).home, shown, kind))}
                    frame={shown}
                    selected
                    resting={resting}
                  />
                ))}
              {own && layer.kind === 'paint' && tool.id === 'paint' && (
                <Painting
                  toPane={m}
                  stroke={stroke}
                  width={brush.size}
                  colour={brush.tool === 'brush' ? brush.colour : BONE}
                  from={brush.tool === 'clone' ? cloneFrom : null}
                />
              )}
            </g>
          );
        })}
    </g>
  );
}

function placed(toPane: Matrix3, places: readonly Point[]): Point[] | null {
  return places.length > 0 && isFacing(toPane, places) ? places.map((p) => apply(toPane, p.x, p.y)) : null;
}

function Part({
  layer,
  matte,
  toPane,
  frame,
  selected,
  resting,
}: {
  readonly layer: Layer;
  readonly matte: string | null;
  readonly toPane: Matrix3;
  readonly frame: number;
  readonly selected: boolean;
  readonly resting: boolean;
}) {
  const isPlaced = matte === null && 'corners' in layer;
  const { outline } = drawnPart(layer, matte);
  const corners = placed(toPane, isPlaced ? quadOf(layer.corners) : outline ? cornersAt(outline, frame) : []);
  if (!corners) return null;
  const curve = outline?.smooth ? outlineOf(corners, true) : corners;
  const d = pathOf(curve);
  const of = {
    ...{ 'data-layer': layer.id, ...(!isPlaced && { 'data-outline': 0 }) },
    ...(matte !== null && { 'data-matte': matte }),
  };
  return (
    <>
      {selected && <Stroke d={d} dash={matte === null ? undefined : '6 4'} />}
      {resting && (
        <DragLine
          d={d}
          of={{ ...of, 'data-part': isPlaced ? 'body' : 'line' }}
          title={`${layer.name}: drag to move it`}
          fill={isPlaced || !selected ? 'transparent' : 'none'}
        />
      )}
      {resting &&
        selected &&
        (isPlaced ? (
          <PlaceHandles corners={corners} of={of} />
        ) : (
          <ShapeHandles corners={corners} curve={curve} smooth={outline?.smooth ?? false} of={of} />
        ))}
    </>
  );
}

/** How far beyond a corner the ring that puts it freely lies, and the one that turns, in screen pixels. */
const FREE = 15;
const TURN = 24;
/** Shorter sides than this, in screen pixels, have no bars. */
const ROOMY = 44;

/** Squares size a placed rectangle, bars stretch it, rings beyond the corners put each freely, the one above turns it. */
function PlaceHandles({ corners, of }: { readonly corners: readonly Point[]; readonly of: Whose }) {
  const middle = {
    x: corners.reduce((s, p) => s + p.x, 0) / 4,
    y: corners.reduce((s, p) => s + p.y, 0) / 4,
  };
  const away = (p: Point, by: number) => {
    const far = Math.hypot(p.x - middle.x, p.y - middle.y) || 1;
    return { x: p.x + (by * (p.x - middle.x)) / far, y: p.y + (by * (p.y - middle.y)) / far };
  };
  const half = (i: number) => {
    const [p, q] = [corners[i], corners[(i + 1) % 4]];
    return { x: (p.x + q.x) / 2, y: (p.y + q.y) / 2 };
  };
  const turn = away(half(0), TURN);
  // On a small one its sides are left to the body, so that it can still be taken hold of.
  const length = (i: number) =>
    Math.hypot(corners[i].x - corners[(i + 1) % 4].x, corners[i].y - corners[(i + 1) % 4].y);
  const roomy = Math.min(length(0), length(1)) >= ROOMY;
  return (
    <g>
      {corners.map((p, i) => (
        <g key={i}>
          {roomy && (
            <Dot at={half(i)} of={of} part="side" index={i} title="Drag to stretch it">
              <rect x={-4} y={-2.5} width={8} height={5} rx={2} fill={BONE} stroke="#000" />
            </Dot>
          )}
          <Dot at={p} of={of} part="corner" index={i} title="Drag to size it">
            <rect x={-4} y={-4} width={8} height={8} fill="var(--color-primary)" stroke="#000" />
          </Dot>
          <Dot at={away(p, FREE)} of={of} part="place" index={i} title="Drag to put this corner freely">
            <Stroke d="M-4 0a4 4 0 1 1 8 0a4 4 0 1 1 -8 0" />
          </Dot>
        </g>
      ))}
      <Dot at={turn} of={of} part="turn" index={0} title="Drag to turn it">
        <Stroke d="M-5 2a5.4 5.4 0 1 1 2 3" width={1.6} />
      </Dot>
    </g>
  );
}

function Dot({
  at,
  of,
  part,
  index,
  title,
  children,
}: {
  readonly at: Point;
  readonly of: Whose;
  readonly part: string;
  readonly index: number;
  readonly title: string;
  readonly children: React.ReactNode;
}) {
  return (
    <g transform={shift(at)}>
      <g pointerEvents="none">{children}</g>
      <circle r={8} fill="transparent" {...of} data-part={part} data-index={index} className="cursor-move">
        <title>{title}</title>
      </circle>
    </g>
  );
}

/** A stroke while it is painted, and where cloned ones take their picture from. */
function Painting({
  toPane,
  stroke,
  width,
  colour,
  from,
}: {
  readonly toPane: Matrix3;
  readonly stroke: readonly (readonly [number, number, number])[];
  readonly width: number;
  readonly colour: string;
  readonly from: { readonly x: number; readonly y: number } | null;
}) {
  const places = stroke.map(([x, y]) => apply(toPane, x, y));
  const scale = Math.sqrt(Math.abs(toPane[0] * toPane[4] - toPane[1] * toPane[3])) / Math.abs(toPane[8]);
  // A press without a move is a dab.
  const d = places.length > 0 ? pathOf([...places, places[places.length - 1]], false) : '';
  const source = from && apply(toPane, from.x, from.y);
  return (
    <g fill="none" pointerEvents="none" strokeLinecap="round" strokeLinejoin="round">
      {d && <path d={d} stroke={colour} strokeOpacity={0.75} strokeWidth={Math.max(1, width * scale)} />}
      {source && (
        <g transform={shift(source)} data-testid="clone-source">
          <Stroke d="M-8 0H8M0 -8V8" />
        </g>
      )}
    </g>
  );
}
