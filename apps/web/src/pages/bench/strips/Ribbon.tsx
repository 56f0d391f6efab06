import { memo, useCallback } from 'react';
import type { Doubt } from '@lurn/core/doubt';
import { pinFrames, type Measured } from '@lurn/core/track';
import type { Tracker } from '@lurn/model';
import { StripCanvas, type Pen } from '../../../components/StripCanvas';
import { spotColour } from '../../../lib/colours';
import { lowestOf } from '../../../lib/summary';
import { RIBBON, RIGHT, type X } from './axis';
import { stretchesOf } from './stretches';

/** From this many pixels a frame, samples are drawn one by one. */
const ROOM_FOR_MARKS = 10;
/** ... and coasted ones each have a dash. */
const ROOM_FOR_DASHES = 4;
/** Codes of a track's states. */
const [PINNED, TRACKED, COASTED] = [1, 2, 3];
const MIDDLE = RIBBON / 2;

/** A track's states taken apart, to be summed up by zoom level. */
interface States {
  /** Confidence where there is a sample. */
  readonly sure: Float32Array;
  /** The state where the sample was not seen: coasted or bridged; null where every one was. */
  readonly guessed: Float32Array | null;
  readonly pins: readonly number[];
}

const taken = new WeakMap<Measured, States>();

function statesOf(track: Measured): States {
  const before = taken.get(track);
  if (before) return before;
  const { state, confidence } = track;
  const sure = new Float32Array(confidence);
  let seen = true;
  for (let i = 0; i < state.length; i++) {
    if (state[i] === 0) sure[i] = NaN;
    else if (state[i] >= COASTED) seen = false;
  }
  const guessed = seen ? null : Float32Array.from(state, (s) => (s >= COASTED ? s : NaN));
  const states = { sure, guessed, pins: pinFrames(track).map((frame) => frame - track.start) };
  taken.set(track, states);
  return states;
}

/** Sums a track up, which its ribbon would have to wait for: once, as long as the track is the same. */
export function prepareRibbon(track: Measured): void {
  const { sure, guessed } = statesOf(track);
  for (const values of guessed ? [sure, guessed] : [sure]) lowestOf(values, values.length);
}

/** A spot or surface along time: its confidence as a band, pins as marks, gaps as gaps. */
export const Ribbon = memo(function Ribbon({
  spot: { colour: index, used },
  track,
  x,
  width,
}: {
  readonly spot: Pick<Tracker, 'colour' | 'used'>;
  readonly track: Measured;
  readonly x: X;
  readonly width: number;
}) {
  const draw = useCallback(
    (pen: Pen) => drawRibbon(pen, track, (i) => x(track.start + i), spotColour(index), used),
    [track, x, index, used],
  );
  return <StripCanvas width={width + RIGHT} height={RIBBON} draw={draw} />;
});

/** Cost: a few steps a pixel, whatever the length of the track. */
function drawRibbon(pen: Pen, track: Measured, at: (i: number) => number, own: string, used: boolean): void {
  const { context, width, colour, snap } = pen;
  const { sure, guessed, pins } = statesOf(track);
  const step = at(1) - at(0);
  const first = Math.max(0, Math.floor(-at(0) / step) - 1);
  const end = Math.min(track.state.length, Math.ceil((width - at(0)) / step) + 2);
  context.fillStyle = own;
  context.globalAlpha = used ? 0.68 : 0.3;
  for (const { from, to, value } of stretchesOf(sure, at, width)) {
    const half = (MIDDLE - 2) * Math.max(0.08, value);
    context.fillRect(snap(from), MIDDLE - half, snap(to) - snap(from), 2 * half);
  }
  context.globalAlpha = 1;
  // Coasted and bridged samples: a line along the middle, since nothing was seen there.
  for (const { from, to, value } of guessed ? stretchesOf(guessed, at, width) : []) {
    const coasted = value === COASTED;
    context.fillStyle = coasted ? colour('var(--color-warning)') : own;
    const [dash, gap] = coasted && step >= ROOM_FOR_DASHES ? [0.6 * step, 0.4 * step] : [to - from, 0];
    for (let px = from; px < to; px += dash + gap) context.fillRect(px, MIDDLE - 1.25, dash, 2.5);
  }
  const [ink, paper] = [colour('var(--color-base-content)'), colour('var(--color-base-100)')];
  context.strokeStyle = ink;
  if (step >= ROOM_FOR_MARKS) {
    for (let i = first; i < end; i++) {
      if (track.state[i] <= PINNED) continue;
      context.beginPath();
      context.arc(at(i), MIDDLE, 1.7, 0, 7);
      context.fillStyle = track.state[i] === TRACKED ? ink : paper;
      context.fill();
      context.stroke();
    }
  }
  context.fillStyle = ink;
  context.strokeStyle = paper;
  let last = -Infinity;
  for (const i of pins) {
    const px = at(i);
    if (i < first || i >= end || px - last < 1) continue;
    last = px;
    context.beginPath();
    context.moveTo(px, MIDDLE - 5);
    context.lineTo(px + 5, MIDDLE);
    context.lineTo(px, MIDDLE + 5);
    context.lineTo(px - 5, MIDDLE);
    context.closePath();
    context.fill();
    context.stroke();
  }
}

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
  const seen = doubts.filter((d) => d.spot === spot && d.to >= left && d.from <= right);
  return apart(seen, x).map((d) => (
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

/** Of marks that lie on one another, the one that is doubted most: the list has the worst first. */
function apart(doubts: readonly Doubt[], x: X): readonly Doubt[] {
  const places = new Set<number>();
  return doubts.filter((d) => {
    const place = Math.round(x(d.worst) / 3);
    const free = !places.has(place);
    places.add(place);
    return free;
  });
}
