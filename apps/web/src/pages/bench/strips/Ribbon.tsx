import { area } from 'd3-shape';
import { memo, useMemo } from 'react';
import type { Doubt, Track } from '@lurn/core';
import type { Spot } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { RIBBON, type X } from './axis';

/** From this many pixels a frame, samples are drawn one by one. */
const ROOM_FOR_MARKS = 10;

/** A spot along time: its confidence as a band, pins as marks, gaps as gaps; doubtful stretches are hatched. */
export const Ribbon = memo(function Ribbon({
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
  const guessed = frames.filter((i) => track.state[i] >= 3);
  const close = step >= ROOM_FOR_MARKS;
  return (
    <>
      <path
        d={band(frames) ?? ''}
        fill={spotColour(spot.colour)}
        opacity={spot.used ? 0.62 : 0.28}
        stroke={spotColour(spot.colour)}
        strokeWidth={0.6}
      />
      {/* Coasted and bridged samples: an open middle line, since nothing was seen there. */}
      {guessed.map((i) => (
        <path
          key={i}
          d={`M${x(track.start + i) - step / 2} ${middle}h${step}`}
          stroke={track.state[i] === 3 ? 'var(--color-warning)' : spotColour(spot.colour)}
          strokeWidth={2.5}
          strokeDasharray={track.state[i] === 3 ? '2 1.5' : undefined}
        />
      ))}
      {close &&
        frames
          .filter((i) => track.state[i] > 1)
          .map((i) => (
            <circle
              key={i}
              cx={x(track.start + i)}
              cy={middle}
              r={1.7}
              fill={track.state[i] === 2 ? 'var(--color-base-content)' : 'var(--color-base-100)'}
              stroke="var(--color-base-content)"
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

/** Doubts along a ribbon: a hatched underline over the span, and a triangle where it is worst. */
export function DoubtMarks({
  doubts,
  spot,
  x,
}: {
  readonly doubts: readonly Doubt[];
  readonly spot: string;
  readonly x: X;
}) {
  const [left, right] = x.domain();
  return doubts
    .filter((d) => d.spot === spot && d.to >= left && d.from <= right)
    .map((d) => (
      <g key={`${d.reason} ${d.from}`}>
        <title>{d.sentence}</title>
        <path
          d={`M${x(d.from - 0.4)} ${RIBBON - 1.5}H${Math.max(x(d.to + 0.4), x(d.from) + 2)}`}
          stroke="var(--color-warning)"
          strokeWidth={3}
          strokeDasharray="2 1"
        />
        <path
          d={`M${x(d.worst)} ${RIBBON - 8}l4 7h-8Z`}
          fill="var(--color-warning)"
          stroke="var(--color-base-100)"
          strokeWidth={0.8}
        />
      </g>
    ));
}
