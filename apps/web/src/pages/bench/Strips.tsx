import { area, line } from 'd3-shape';
import { scaleLinear } from 'd3-scale';
import { memo, useLayoutEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import type { Track } from '@lurn/core';
import { changeDocument, setRange, type Spot } from '@lurn/model';
import { spotColour } from '../../lib/colours';
import { percent, pixels, timeCode } from '../../lib/format';
import { goToSpot } from '../../state/acts';
import { goTo, setBench, useBench } from '../../state/bench';
import { beginGesture, edit, endGesture, useShot } from '../../state/shot';

const LABEL = 108;
const RIBBON = 18;
const CURVE = 50;
const RULER = 26;
const RIGHT = 10;

type X = (frame: number) => number;

/** Everything along time, on one axis: ruler, ribbons, and the curves of shake and zoom. */
export function Strips() {
  const host = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(600);
  const { info, selected, steady } = useBench();
  const { document, tracks } = useShot((s) => s.state);
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    observer.observe(host.current!);
    return () => observer.disconnect();
  }, []);
  const inner = Math.max(100, width - LABEL - RIGHT);
  const x = useMemo(() => scaleLinear([0, Math.max(1, info.frames - 1)], [0, inner]), [info.frames, inner]);
  const frameAt = (clientX: number) => x.invert(clientX - host.current!.getBoundingClientRect().left - LABEL);
  const height = RULER + Math.max(1, document.spots.length) * RIBBON + 2 * CURVE + 12;
  const scrub = useScrub(frameAt);
  return (
    <div ref={host} className="relative h-full overflow-x-hidden overflow-y-auto bg-base-100 select-none">
      <div className="relative" style={{ height }}>
        <Ruler x={x} width={inner} frameAt={frameAt} />
        <div className="absolute right-0 left-0" style={{ top: RULER }}>
          {document.spots.length === 0 && (
            <p className="quiet px-2 py-0.5 text-xs">The ribbons of the spots will lie here.</p>
          )}
          {document.spots.map((spot) => (
            <div
              key={spot.id}
              className={`flex items-center ${selected.includes(spot.id) ? 'bg-base-300/70' : ''}`}
              style={{ height: RIBBON }}
            >
              <button
                type="button"
                className="flex h-full shrink-0 items-center gap-1.5 truncate px-2 text-left text-xs"
                style={{ width: LABEL }}
                title={`Select ${spot.name}`}
                onClick={() => {
                  setBench({ selected: [spot.id] });
                  goToSpot(spot.id);
                }}
              >
                <span className="size-2 shrink-0" style={{ background: spotColour(spot.colour) }} />
                <span className="truncate">{spot.name}</span>
                {!spot.used && <span className="quiet">left out</span>}
              </button>
              <svg
                width={inner + RIGHT}
                height={RIBBON}
                {...scrub}
                className="cursor-pointer"
                role="img"
                aria-label={`Confidence of ${spot.name}`}
              >
                {tracks[spot.id] && <Ribbon spot={spot} track={tracks[spot.id]} x={x} />}
              </svg>
            </div>
          ))}
          <Curve
            label="Off its place"
            unit="px"
            x={x}
            width={inner}
            scrub={scrub}
            lines={
              steady
                ? [
                    {
                      values: steady.measure.beforeByFrame,
                      colour: 'var(--color-secondary)',
                      name: 'as shot',
                    },
                    { values: steady.measure.afterByFrame, colour: 'var(--color-primary)', name: 'steadied' },
                  ]
                : []
            }
            from={document.range.from}
            format={pixels}
            floor={0}
          />
          <Curve
            label="Zoom needed"
            unit="%"
            x={x}
            width={inner}
            scrub={scrub}
            lines={
              steady
                ? [
                    {
                      values: steady.needed.slice(document.range.from, document.range.to + 1),
                      colour: 'var(--color-base-content)',
                      name: '',
                    },
                  ]
                : []
            }
            from={document.range.from}
            format={(v) => percent(v)}
            floor={1}
            limit={steady?.framing.zoom}
            marks={steady?.edgeFrames}
          />
        </div>
        <Playhead x={x} height={height} />
      </div>
    </div>
  );
}

function useScrub(frameAt: (clientX: number) => number) {
  return {
    onPointerDown: (e: PointerEvent<Element>) => {
      e.currentTarget.setPointerCapture(e.pointerId);
      setBench({ playing: false });
      goTo(frameAt(e.clientX));
    },
    onPointerMove: (e: PointerEvent<Element>) => {
      if (e.currentTarget.hasPointerCapture(e.pointerId)) goTo(frameAt(e.clientX));
    },
  };
}

/** Frame numbers, in and out point, and the flag of the reference frame; all can be dragged. */
function Ruler({
  x,
  width,
  frameAt,
}: {
  readonly x: X;
  readonly width: number;
  readonly frameAt: (clientX: number) => number;
}) {
  const { info, times } = useBench();
  const { range, ref } = useShot((s) => s.state.document);
  const scrub = useScrub(frameAt);
  const ticks = scaleLinear([0, Math.max(1, info.frames - 1)], [0, width])
    .ticks(Math.max(2, width / 70))
    .filter(Number.isInteger);
  const clamp = (clientX: number) => Math.min(info.frames - 1, Math.max(0, Math.round(frameAt(clientX))));
  const handle = (move: (frame: number) => void) => ({
    onPointerDown: (e: PointerEvent<Element>) => {
      e.stopPropagation();
      e.currentTarget.setPointerCapture(e.pointerId);
      beginGesture();
    },
    onPointerMove: (e: PointerEvent<Element>) => {
      if (e.currentTarget.hasPointerCapture(e.pointerId)) move(clamp(e.clientX));
    },
    onPointerUp: endGesture,
    onPointerCancel: endGesture,
  });
  const edge = (side: 'from' | 'to', d: string, name: string) => (
    <g
      transform={`translate(${x(range[side])} 0)`}
      className="cursor-ew-resize"
      {...handle((f) => edit((s) => setRange(s, side, f)))}
    >
      <title>{`${name} (frame ${range[side]}): drag, or press ${side === 'from' ? 'S' : 'D'}`}</title>
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
        <rect
          x={x(range.from)}
          y={RULER - 4}
          width={Math.max(1, x(range.to) - x(range.from))}
          height={4}
          fill="var(--color-primary)"
          opacity={0.45}
        />
        {ticks.map((t) => (
          <g key={t} transform={`translate(${x(t)} 0)`}>
            <line y1={RULER - 7} y2={RULER} stroke="currentColor" opacity={0.5} />
            <text x={3} y={12} fontSize={10} className="num" fill="currentColor" opacity={0.75}>
              {t}
              <title>{timeCode(times[t] ?? 0, info.fps)}</title>
            </text>
          </g>
        ))}
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

/** A spot along time: its confidence as a band, pins as marks, gaps as gaps; doubtful stretches are hatched. */
const Ribbon = memo(function Ribbon({
  spot,
  track,
  x,
}: {
  readonly spot: Spot;
  readonly track: Track;
  readonly x: X;
}) {
  const frames = useMemo(() => Array.from(track.state, (_, i) => i), [track]);
  const middle = RIBBON / 2;
  const half = (i: number) => (middle - 2) * Math.max(0.08, track.confidence[i]);
  const step = x(1) - x(0);
  const band = area<number>()
    .defined((i) => track.state[i] > 0)
    .x((i) => x(track.start + i))
    .y0((i) => middle + half(i))
    .y1((i) => middle - half(i));
  const weak = frames.filter((i) => track.state[i] > 0 && track.confidence[i] < 0.75);
  return (
    <>
      <path
        d={band(frames) ?? ''}
        fill={spotColour(spot.colour)}
        opacity={spot.used ? 0.62 : 0.28}
        stroke={spotColour(spot.colour)}
        strokeWidth={0.6}
      />
      {weak.map((i) => (
        <path
          key={i}
          d={`M${x(track.start + i) - 2} ${RIBBON - 1}l4 ${-RIBBON + 2}`}
          stroke="var(--color-warning)"
          strokeWidth={Math.min(2, Math.max(1, step))}
        />
      ))}
      {frames
        .filter((i) => track.state[i] === 1)
        .map((i) => (
          <path
            key={i}
            d={`M${x(track.start + i)} ${middle - 5}l5 5-5 5-5-5Z`}
            fill="var(--color-base-content)"
            stroke="var(--color-base-100)"
          />
        ))}
    </>
  );
});

interface CurveProps {
  readonly label: string;
  readonly unit: string;
  readonly x: X;
  readonly width: number;
  readonly scrub: ReturnType<typeof useScrub>;
  readonly lines: readonly {
    readonly values: Float64Array;
    readonly colour: string;
    readonly name: string;
  }[];
  /** Frame of the first value. */
  readonly from: number;
  readonly format: (value: number) => string;
  readonly floor: number;
  readonly limit?: number;
  readonly marks?: readonly number[];
}

function Curve({ label, x, width, scrub, lines, from, format, floor, limit, marks = [] }: CurveProps) {
  const frame = useBench((s) => s.frame);
  const top = Math.max(floor * 1.02 + 0.001, limit ?? 0, ...lines.flatMap((l) => [maximum(l.values)]));
  const y = scaleLinear([floor, top], [CURVE - 5, 5]).clamp(true);
  const paths = useMemo(
    () =>
      lines.map((l) =>
        line<number>()
          .defined((i) => Number.isFinite(l.values[i]))
          .x((i) => x(from + i))
          .y((i) => y(l.values[i]))(Array.from(l.values, (_, i) => i)),
      ),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the scales follow from these
    [lines, from, x, top],
  );
  return (
    <div className="rule flex border-t" style={{ height: CURVE }}>
      <div className="shrink-0 overflow-hidden px-2 pt-1 text-[11px] leading-[14px]" style={{ width: LABEL }}>
        {label}
        {lines.map((l) => (
          <span key={l.name} className="num block" style={{ color: l.colour }}>
            {Number.isFinite(l.values[frame - from]) ? format(l.values[frame - from]) : '–'}
          </span>
        ))}
      </div>
      <svg
        width={width + RIGHT}
        height={CURVE}
        {...scrub}
        className="cursor-pointer"
        role="img"
        aria-label={label}
      >
        {limit !== undefined && (
          <line
            x1={0}
            x2={width}
            y1={y(limit)}
            y2={y(limit)}
            stroke="var(--color-primary)"
            strokeDasharray="5 4"
          />
        )}
        {paths.map((d, i) => (
          <path key={i} d={d ?? ''} fill="none" stroke={lines[i].colour} strokeWidth={1.3} />
        ))}
        {marks.map((f) => (
          <path
            key={f}
            d={`M${x(f)} 3v${CURVE - 6}`}
            stroke="var(--color-error)"
            strokeWidth={Math.max(1.5, x(1) - x(0) - 0.5)}
            strokeDasharray="2 1.5"
            opacity={0.85}
          >
            <title>{`An edge shows on frame ${f}`}</title>
          </path>
        ))}
      </svg>
    </div>
  );
}

function maximum(values: Float64Array): number {
  let most = -Infinity;
  for (const v of values) if (Number.isFinite(v) && v > most) most = v;
  return most;
}

function Playhead({ x, height }: { readonly x: X; readonly height: number }) {
  const frame = useBench((s) => s.frame);
  return (
    <div
      className="pointer-events-none absolute top-0 z-20 w-px bg-base-content"
      style={{ height, transform: `translateX(${LABEL + x(frame)}px)` }}
      aria-hidden="true"
    >
      <span className="absolute -top-px -left-[5px] border-x-[5.5px] border-t-[7px] border-x-transparent border-t-base-content" />
    </div>
  );
}
