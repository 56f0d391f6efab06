import { ChartSpline } from 'lucide-react';
import { hasSample, type Measured } from '@lurn/core/track';
import type { Tracker } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { goToSpot } from '../../../state/edit-spots';
import { setBench, useBenchParts } from '../../../state/bench';
import { LABEL, RIBBON, RIGHT, type useRibbon, type X } from './axis';
import { DoubtMarks, Ribbon } from './Ribbon';

/** A spot's or surface's row: its name, its ribbon, and what is chosen or doubtful on it. */
export function RibbonRow({
  spot,
  track,
  x,
  width,
  hover,
  pointer,
}: {
  readonly spot: Tracker;
  readonly track: Measured | undefined;
  readonly x: X;
  readonly width: number;
  readonly hover: number | null;
  readonly pointer: ReturnType<ReturnType<typeof useRibbon>>;
}) {
  const { selected, doubts, span, curvesOf } = useBenchParts('selected', 'doubts', 'span', 'curvesOf');
  const confidence =
    hover !== null && track && hasSample(track, hover) ? track.confidence[hover - track.start] : undefined;
  const followed = spot.kind === 'spot' ? spot : null;
  const joins = followed?.joins ?? [];
  return (
    <div
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
          {confidence !== undefined ? (
            <span className="num quiet">{confidence.toFixed(2)}</span>
          ) : (
            !spot.used && <span className="quiet">left out</span>
          )}
        </button>
        {followed && (
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
        )}
      </div>
      <div className="relative" style={{ width: width + RIGHT, height: RIBBON }}>
        {track && <Ribbon spot={spot} track={track} x={x} width={width} />}
        <svg
          width={width + RIGHT}
          height={RIBBON}
          {...pointer}
          className="absolute inset-0 cursor-pointer overflow-hidden"
          role="img"
          aria-label={`Confidence of ${spot.name}`}
        >
          <title>Press to go there; Shift and drag chooses a span; Ctrl and wheel zooms the time axis</title>
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
          <DoubtMarks doubts={doubts} spot={spot.id} x={x} />
          {joins.map((j) => (
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
    </div>
  );
}
