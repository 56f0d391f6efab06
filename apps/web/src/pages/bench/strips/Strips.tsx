import { scaleLinear } from 'd3-scale';
import { ChartSpline } from 'lucide-react';
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { spotColour } from '../../../lib/colours';
import { percent, pixels } from '../../../lib/format';
import { goToSpot } from '../../../state/acts';
import { setBench, useBench } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import {
  CURVE,
  LABEL,
  panTime,
  RIBBON,
  RIGHT,
  RULER,
  useRibbon,
  useScrub,
  useViewFollowsPlayhead,
  zoomTime,
} from './axis';
import { Curve, SpotCurves } from './Curve';
import { Playhead } from './Playhead';
import { DoubtMarks, Ribbon } from './Ribbon';
import { Ruler } from './Ruler';

/** Everything along time, on one axis: ruler, ribbons, and the curves of shake and zoom. */
export function Strips() {
  const host = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(600);
  const { info, selected, steady, timeView, doubts, span, curvesOf, preview } = useBench();
  const { document, tracks } = useShot((s) => s.state);
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    observer.observe(host.current!);
    return () => observer.disconnect();
  }, []);
  const inner = Math.max(100, width - LABEL - RIGHT);
  const last = Math.max(1, info.frames - 1);
  const x = useMemo(
    () => scaleLinear([timeView?.from ?? 0, timeView?.to ?? last], [0, inner]),
    [timeView, last, inner],
  );
  const frameAt = (clientX: number) => x.invert(clientX - host.current!.getBoundingClientRect().left - LABEL);
  const curved = document.spots.find((s) => s.id === curvesOf);
  const curves = curved ? 3 : 0;
  const height = RULER + Math.max(1, document.spots.length) * RIBBON + (2 + curves) * CURVE + 12;
  const scrub = useScrub(frameAt);
  useViewFollowsPlayhead();
  useEffect(() => {
    // Not through React: its wheel listeners are passive, and this one keeps the page from zooming.
    const element = host.current!;
    const onWheel = (e: WheelEvent) => {
      const sideways = Math.abs(e.deltaX) > Math.abs(e.deltaY);
      if (!e.ctrlKey && !e.altKey && !sideways && !onRuler(e)) return;
      e.preventDefault();
      if (sideways) panTime(e.deltaX / inner);
      else
        zoomTime(
          Math.exp(e.deltaY * 0.002),
          x.invert(e.clientX - element.getBoundingClientRect().left - LABEL),
        );
    };
    const onRuler = (e: WheelEvent) => e.clientY - element.getBoundingClientRect().top < RULER;
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [inner, x]);
  const ribbon = useRibbon(frameAt);
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
              <div className="flex h-full shrink-0 items-center" style={{ width: LABEL }}>
                <button
                  type="button"
                  className="flex h-full min-w-0 grow items-center gap-1.5 truncate pl-2 text-left text-xs"
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
                <button
                  type="button"
                  className={`px-1 ${curvesOf === spot.id ? 'text-primary' : 'quiet'} hover:text-primary`}
                  title={`Curves of ${spot.name}: across, down, confidence`}
                  aria-label={`Curves of ${spot.name}`}
                  aria-pressed={curvesOf === spot.id}
                  onClick={() => setBench({ curvesOf: curvesOf === spot.id ? null : spot.id })}
                >
                  <ChartSpline size={12} />
                </button>
              </div>
              <svg
                width={inner + RIGHT}
                height={RIBBON}
                {...ribbon(spot.id)}
                className="cursor-pointer overflow-hidden"
                role="img"
                aria-label={`Confidence of ${spot.name}`}
              >
                <title>
                  Press to go there; Shift and drag chooses a span; Ctrl and wheel zooms the time axis
                </title>
                {span && selected.includes(spot.id) && (
                  <rect
                    x={x(span.from - 0.5)}
                    y={0}
                    width={Math.max(2, x(span.to + 0.5) - x(span.from - 0.5))}
                    height={RIBBON}
                    fill="var(--color-base-content)"
                    opacity={0.16}
                  />
                )}
                {tracks[spot.id] && <Ribbon spot={spot} track={tracks[spot.id]} x={x} />}
                <DoubtMarks doubts={doubts} spot={spot.id} x={x} />
                {spot.joins.map((j) => (
                  <g key={j.frame} transform={`translate(${x(j.frame)} 0)`}>
                    <title>{`Carries on with another feature from frame ${j.frame}`}</title>
                    <path
                      d={`M0 1V${RIBBON - 1}M-3 4a3 3 0 1 0 6 0a3 3 0 1 0-6 0`}
                      fill="none"
                      stroke="var(--color-base-100)"
                      strokeWidth={3}
                    />
                    <path
                      d={`M0 1V${RIBBON - 1}M-3 4a3 3 0 1 0 6 0a3 3 0 1 0-6 0`}
                      fill="none"
                      stroke="var(--color-base-content)"
                      strokeWidth={1.2}
                    />
                  </g>
                ))}
              </svg>
            </div>
          ))}
          {curved && tracks[curved.id] && (
            <SpotCurves
              spot={curved}
              track={tracks[curved.id]}
              changed={preview?.spot === curved.id ? preview.track : null}
              x={x}
              width={inner}
              scrub={scrub}
            />
          )}
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
