import { useMemo } from 'react';
import { apply, edgesOf, filledPlaces, type Matrix3, type Point } from '@lurn/core/geometry';
import { steadiedPlace } from '@lurn/core/plan';
import { softAt, type SoftSample } from '@lurn/core/track';
import { softOf, softShape, softTrackOf, type SoftSurface } from '@lurn/model';
import { spotColour } from '../../../../lib/colours';
import { useBenchParts } from '../../../../state/bench';
import { useShot } from '../../../../state/shot';
import { showsAt } from '../../../../state/stations';
import { BONE, CORNER_NAMES, Label, pathOf, RingHandle, Stroke } from '../strokes';

/**
 * The meshes of soft surfaces on the frame that is shown: thin, each point by how it came about.
 *
 * @param toPane    the pane's picture to the pane
 * @param handles   points can be dragged
 * @param steadied  drawn where they are in the steadied picture
 */
export function SoftMarks({
  toPane,
  handles,
  steadied = false,
}: {
  readonly toPane: Matrix3;
  readonly handles: boolean;
  readonly steadied?: boolean;
}) {
  const { shown, selected, station, steady, tool } = useBenchParts(
    'shown',
    'selected',
    'station',
    'steady',
    'tool',
  );
  const all = useShot((s) => softOf(s.state.document));
  const measured = useShot((s) => s.state.measured);
  if (all.length === 0 || !showsAt(station).meshes) return null;
  return (
    <g data-testid="soft">
      {all.map((soft) => {
        const sample = softAt(softTrackOf({ measured }, soft.id), shown);
        if (!sample && shown !== soft.frame) return null;
        return (
          <SoftMark
            key={soft.id}
            soft={soft}
            sample={shown === soft.frame ? null : sample}
            place={(p) => {
              const at = steadied && steady ? steadiedPlace(steady, shown, p) : p;
              return apply(toPane, at.x, at.y);
            }}
            scale={toPane[0]}
            selected={selected.includes(soft.id)}
            handles={handles && showsAt(station).marks === true}
            editing={tool.id === 'points'}
          />
        );
      })}
    </g>
  );
}

/** Points are drawn one by one where they are at least so far apart on the screen. */
const ROOM = 9;

function SoftMark({
  soft,
  sample,
  place,
  scale,
  selected,
  handles,
  editing,
}: {
  readonly soft: SoftSurface;
  readonly sample: SoftSample | null;
  readonly place: (p: Point) => Point;
  readonly scale: number;
  readonly selected: boolean;
  readonly handles: boolean;
  readonly editing: boolean;
}) {
  const { points: chosen, dots, station } = useBenchParts('points', 'dots', 'station');
  const { id, name, colour, faces } = soft;
  const edges = useMemo(() => edgesOf(faces), [faces]);
  const own = spotColour(colour);
  const { vertices } = softShape(soft, NO_TRACK).mesh;
  const places = sample ? filledPlaces(vertices, sample.vertices) : vertices;
  if (!places || places.length !== vertices.length) return null;
  const at = places.map(place);
  const line = (list: typeof edges) => list.map(({ a, b }) => pathOf([at[a], at[b]], false)).join('');
  const ended = (v: number) => sample !== null && !sample.vertices[v];
  const gone = edges.filter(({ a, b }) => ended(a) || ended(b));
  const there = edges.filter(({ a, b }) => !ended(a) && !ended(b));
  const border = there.filter((e) => e.faces.length === 1);
  const top = at.reduce((best, p) => (p.y < best.y ? p : best));
  const lost = sample ? sample.vertices.filter((v) => !v).length : 0;
  const shows = showsAt(station);
  const shown = selected && shows.marks === true;
  const room = soft.spacing * scale > ROOM;
  const laidAt = sample ? null : soft.laid?.corners.map(([x, y]) => place({ x, y }));
  return (
    <g data-soft-name={name}>
      {dots && <Dots faces={faces} at={at} />}
      {shows.meshes === 'whole' && (
        <>
          <path
            d={line(there)}
            fill="none"
            stroke="#000"
            strokeOpacity={0.45}
            strokeWidth={shown ? 1.8 : 1.2}
            pointerEvents="none"
          />
          <path
            d={line(there)}
            fill="none"
            stroke={shown ? BONE : own}
            strokeOpacity={shown ? 0.75 : 0.5}
            strokeWidth={0.7}
            pointerEvents="none"
          />
          <Stroke d={line(border)} colour={own} width={1.5} />
          {gone.length > 0 && (
            <path
              d={line(gone)}
              fill="none"
              stroke="#e5703a"
              strokeOpacity={0.7}
              strokeWidth={0.8}
              strokeDasharray="2 3"
              pointerEvents="none"
            />
          )}
        </>
      )}
      {shown &&
        room &&
        at.map((p, v) => (
          <Vertex key={v} at={p} look={lookOf(sample, v)} chosen={chosen.includes(v)} own={own} />
        ))}
      {handles &&
        (selected || editing) &&
        at.map((p, v) => (
          <circle
            key={v}
            cx={p.x}
            cy={p.y}
            r={Math.max(3, Math.min(8, (soft.spacing * scale) / 3))}
            fill="transparent"
            data-soft={id}
            data-part="vertex"
            data-index={v}
            className="cursor-move"
          >
            <title>{`${name}, point ${v}: ${lookOf(sample, v)}${sample?.vertices[v] ? `, confidence ${sample.vertices[v].confidence.toFixed(2)}` : ''}`}</title>
          </circle>
        ))}
      {laidAt && shown && <LaidTo id={id} name={name} corners={laidAt} handles={handles} />}
      {shows.meshes === 'whole' && (
        <Label x={top.x} y={Math.max(14, top.y - 8)}>
          {lost > 0 ? `${name}: ${lost} of ${at.length} ended` : name}
        </Label>
      )}
    </g>
  );
}

/** The rectangle that a soft surface is laid to, on its own frame: dashed, each corner a ring about the pixel itself. */
function LaidTo({
  id,
  name,
  corners,
  handles,
}: {
  readonly id: string;
  readonly name: string;
  readonly corners: readonly Point[];
  readonly handles: boolean;
}) {
  return (
    <g>
      <Stroke d={pathOf(corners)} dash="7 4" />
      {corners.map((p, i) => (
        <RingHandle
          key={i}
          at={p}
          of={handles ? { 'data-soft': id, 'data-part': 'laid', 'data-index': i } : null}
          title={`${name} laid flat, ${CORNER_NAMES[i]}: drag it to that corner of the page`}
        />
      ))}
    </g>
  );
}

type Look = 'drawn' | 'pinned' | 'tracked' | 'coasted' | 'bridged' | 'ended';

const lookOf = (sample: SoftSample | null, v: number): Look =>
  sample ? (sample.vertices[v]?.state ?? 'ended') : 'drawn';

/** A point of the mesh: full where it was seen, hollow where it goes with the others, crossed out where it has ended, a diamond where it is pinned. */
function Vertex({
  at: { x, y },
  look,
  chosen,
  own,
}: {
  readonly at: Point;
  readonly look: Look;
  readonly chosen: boolean;
  readonly own: string;
}) {
  const r = chosen ? 4.2 : 2.8;
  const d = {
    drawn: `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`,
    tracked: `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`,
    coasted: `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`,
    bridged: `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`,
    pinned: `M${x} ${y - r - 1.5}l${r + 1.5} ${r + 1.5}l${-r - 1.5} ${r + 1.5}l${-r - 1.5} ${-r - 1.5}Z`,
    ended: `M${x - r} ${y - r}l${2 * r} ${2 * r}M${x + r} ${y - r}l${-2 * r} ${2 * r}`,
  }[look];
  const hollow = look === 'coasted' || look === 'bridged' || look === 'ended';
  const ink = look === 'ended' ? '#e5703a' : look === 'coasted' ? '#f0b445' : look === 'pinned' ? BONE : own;
  return (
    <g pointerEvents="none">
      <path d={d} fill="none" stroke="#000" strokeOpacity={0.75} strokeWidth={look === 'ended' ? 3.4 : 2.4} />
      <path
        d={d}
        fill={hollow ? 'none' : ink}
        stroke={chosen ? '#fff' : ink}
        strokeWidth={chosen ? 1.8 : 1.3}
      />
    </g>
  );
}

/** Two dots in every face: what swims is seen between them. */
function Dots({ faces, at }: { readonly faces: SoftSurface['faces']; readonly at: readonly Point[] }) {
  const d = faces
    .map((face) => {
      const x = face.reduce((s, v) => s + at[v].x, 0) / face.length;
      const y = face.reduce((s, v) => s + at[v].y, 0) / face.length;
      return `M${x.toFixed(1)} ${y.toFixed(1)}h.01`;
    })
    .join('');
  return (
    <g fill="none" strokeLinecap="round" pointerEvents="none">
      <path d={d} stroke="#000" strokeWidth={6} />
      <path d={d} stroke="#e8e2d4" strokeWidth={3.6} />
    </g>
  );
}

const NO_TRACK = softTrackOf({ measured: {} }, '');
