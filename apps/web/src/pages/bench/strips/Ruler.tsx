import { scaleLinear } from 'd3-scale';
import { changeDocument, setRange, surfacesOf } from '@lurn/model';
import { timeCode } from '../../../lib/format';
import { useBenchParts } from '../../../state/bench';
import { edit, useShot } from '../../../state/shot';
import { framesOf, NoteMarks } from './NoteMarks';
import { dragHandle, LABEL, RIGHT, RULER, useScrub, type X } from './axis';
import { showsAt } from '../../../state/stations';

/** Frame numbers, in and out point, and the flag of the reference frame; all can be dragged. */
export function Ruler({
  x,
  width,
  frameAt,
}: {
  readonly x: X;
  readonly width: number;
  readonly frameAt: (clientX: number) => number;
}) {
  const { info, times, area, selected, layer, station } = useBenchParts(
    'info',
    'times',
    'area',
    'selected',
    'layer',
    'station',
  );
  const surfaces = useShot((s) => surfacesOf(s.state.document));
  const { range, ref, areas, layers } = useShot((s) => s.state.document);
  // Whatever has a frame of its own and is selected: work made there belongs there.
  const owned = [
    ...surfaces.filter((s) => selected.includes(s.id)).map((s) => ({ ...s, what: 'was drawn' })),
    ...layers
      .filter((l) => showsAt(station).layers && l.id === layer)
      .map((l) => ({ ...l, what: 'was made' })),
  ];
  const keys = areas.find((a) => a.id === area)?.keys ?? [];
  const scrub = useScrub(frameAt);
  const ticks = scaleLinear(x.domain(), [0, width])
    .ticks(Math.max(2, width / 70))
    .filter(Number.isInteger);
  const clamp = (clientX: number) => Math.min(info.frames - 1, Math.max(0, Math.round(frameAt(clientX))));
  const handle = (move: (frame: number) => void) => dragHandle((clientX) => move(clamp(clientX)));
  const edge = (side: 'from' | 'to', d: string, name: string) => (
    <g
      transform={`translate(${x(range[side])} 0)`}
      className="cursor-ew-resize"
      {...handle((f) => edit((s) => setRange(s, side, f)))}
    >
      <title>{`${name} (frame ${range[side]}): drag, or press ${side === 'from' ? 'I' : 'O'}`}</title>
      <rect x={-6} y={0} width={12} height={RULER} fill="transparent" />
      <path d={d} fill="var(--color-primary)" />
    </g>
  );
  return (
    <div className="rule sticky top-0 z-10 flex border-b bg-base-200" style={{ height: RULER }}>
      <div className="num quiet px-2 pt-1 text-xs" style={{ width: LABEL }}>
        frame
      </div>
      <svg
        width={width + RIGHT}
        height={RULER}
        {...scrub}
        className="cursor-pointer overflow-visible"
        role="slider"
        aria-label="Ruler"
        aria-valuemin={0}
        aria-valuemax={info.frames - 1}
        aria-valuenow={0}
        tabIndex={-1}
      >
        <defs>
          <pattern
            id="damaged"
            width={5}
            height={5}
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width={3} height={5} fill="var(--color-warning)" />
          </pattern>
        </defs>
        <rect
          x={x(range.from)}
          y={RULER - 4}
          width={Math.max(1, x(range.to) - x(range.from))}
          height={4}
          fill="var(--color-primary)"
          opacity={0.45}
        />
        {(info.damaged ?? []).map(({ from, to }) => (
          <g key={from} data-damaged={from}>
            <title>{`${framesOf({ from, to })}: the file is damaged there. Check what was tracked.`}</title>
            <rect
              x={x(from - 0.5)}
              y={RULER - 9}
              width={Math.max(4, x(to + 0.5) - x(from - 0.5))}
              height={5}
              fill="url(#damaged)"
            />
          </g>
        ))}
        {ticks.map((t) => (
          <g key={t} transform={`translate(${x(t)} 0)`}>
            <line y1={RULER - 7} y2={RULER} stroke="currentColor" opacity={0.5} />
            <text x={3} y={12} fontSize={10} className="num" fill="currentColor" opacity={0.75}>
              {t}
              <title>{timeCode(times[t] ?? 0, info.fps)}</title>
            </text>
          </g>
        ))}
        {keys.map(({ frame }) => (
          <path
            key={frame}
            d={`M${x(frame)} ${RULER - 12}l4 4-4 4-4-4Z`}
            fill="var(--color-primary)"
            stroke="#000"
            data-area-key={frame}
          >
            <title>{`Key of the area on frame ${frame}`}</title>
          </path>
        ))}
        {owned.map(({ id, name, frame, what }) => (
          <g key={id} transform={`translate(${x(frame)} 0)`} data-own-frame={frame}>
            <title>{`${name} ${what} on frame ${frame}: its own`}</title>
            <path d={`M0 0v${RULER}`} stroke="#000" strokeWidth={3} opacity={0.5} />
            <path
              d={`M0 0v${RULER}M0 12h-7v6h7`}
              stroke="var(--color-primary)"
              strokeWidth={1.5}
              fill="none"
            />
          </g>
        ))}
        <NoteMarks x={x} clamp={clamp} />
        {edge('from', `M0 0h6v3H3v${RULER - 6}h3v3H0Z`, 'In point')}
        {edge('to', `M0 0h-6v3h3v${RULER - 6}h-3v3H0Z`, 'Out point')}
        <g
          transform={`translate(${x(ref)} 0)`}
          className="cursor-ew-resize"
          {...handle((f) => edit((s) => changeDocument(s, { ref: f })))}
        >
          <title>{`Reference frame ${ref}: it stays as it was shot. Drag, or press R`}</title>
          <rect x={-4} y={0} width={16} height={RULER} fill="transparent" />
          <path d={`M0 0v${RULER}`} stroke="var(--color-base-content)" strokeWidth={1.5} />
          <path d="M0 13h10l-3 4 3 4H0Z" fill="var(--color-base-content)" />
        </g>
      </svg>
    </div>
  );
}
