import { line } from 'd3-shape';
import { memo, useMemo } from 'react';
import { apply, type Matrix3, type Point } from '@lurn/core/geometry';
import { steadiedPlace, type Plan } from '@lurn/core/plan';
import type { Track } from '@lurn/core/track';
import type { Spot } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { useBench, type Span } from '../../../state/bench';
import { useShot } from '../../../state/shot';

/** A line through places, dark on both sides so that it is read on any ground; gaps stay gaps. */
function PathLine({
  places,
  toPane,
  colour,
  width,
}: {
  readonly places: readonly (Point | null)[];
  readonly toPane: Matrix3;
  readonly colour: string;
  readonly width: number;
}) {
  const d = line<Point | null>()
    .defined((p) => p !== null)
    .x((p) => apply(toPane, p!.x, p!.y).x)
    .y((p) => apply(toPane, p!.x, p!.y).y)
    .digits(2)(places);
  return (
    <g fill="none" strokeLinecap="round" strokeLinejoin="round">
      <path d={d ?? ''} stroke="#000" strokeOpacity={0.55} strokeWidth={width + 1.5} />
      <path d={d ?? ''} stroke={colour} strokeWidth={width} />
    </g>
  );
}

/** Of a long track only the part round the playhead is drawn: so many frames, and a change of so many moves it on. */
const LONGEST = 1800;
const STEP = 300;

/** The part of a track whose path is drawn, as places in its columns. */
function usePart(track: Track): Span {
  const n = track.state.length;
  const middle = useBench(({ frame }) =>
    n <= LONGEST ? 0 : STEP * Math.round(Math.min(n, Math.max(0, frame - track.start)) / STEP),
  );
  if (n <= LONGEST) return { from: 0, to: n };
  return { from: Math.max(0, middle - LONGEST / 2), to: Math.min(n, middle + LONGEST / 2) };
}

/** Where the samples of a part of a track lie, frame by frame; null where it has none. */
function placesOf(
  track: Track,
  { from, to }: Span,
  seen: (x: number, y: number, frame: number) => Point | null,
) {
  const { x, y } = track.values;
  const out: (Point | null)[] = [];
  for (let i = from; i < to; i++) out.push(track.state[i] ? seen(x[i], y[i], track.start + i) : null);
  return out;
}

interface PathProps {
  readonly spot: Spot;
  readonly track: Track;
  readonly toPane: Matrix3;
}

/** The path of a spot, in the source. */
export const SpotPath = memo(function SpotPath({ spot, track, toPane }: PathProps) {
  const { from, to } = usePart(track);
  const places = useMemo(() => placesOf(track, { from, to }, (x, y) => ({ x, y })), [track, from, to]);
  return (
    <g pointerEvents="none" opacity={0.85}>
      <PathLine places={places} toPane={toPane} colour={spotColour(spot.colour)} width={1} />
    </g>
  );
});

/** The path of a spot in the steadied picture: a point where all is held, a glide where it moves. */
export const Trail = memo(function Trail({ spot, track, plan, toPane }: PathProps & { readonly plan: Plan }) {
  const range = useShot((s) => s.state.document.range);
  const { from, to } = usePart(track);
  const places = useMemo(
    () =>
      placesOf(track, { from, to }, (x, y, frame) =>
        frame >= range.from && frame <= range.to ? steadiedPlace(plan, frame, { x, y }) : null,
      ),
    [track, plan, from, to, range],
  );
  return (
    <g pointerEvents="none" opacity={0.9} data-testid="trail">
      <PathLine places={places} toPane={toPane} colour={spotColour(spot.colour)} width={1.6} />
    </g>
  );
});
