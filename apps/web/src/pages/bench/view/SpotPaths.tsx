import { line } from 'd3-shape';
import { memo, useMemo } from 'react';
import { apply, pictureInSource, type Matrix3, type Point, type Plan, type Track } from '@lurn/core';
import type { Spot } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
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

/** Where the samples of a track lie, frame by frame from its start; null where it has none. */
function placesOf(track: Track, seen: (x: number, y: number, frame: number) => Point | null) {
  const { x, y } = track.values;
  return Array.from(track.state, (state, i) => (state ? seen(x[i], y[i], track.start + i) : null));
}

interface PathProps {
  readonly spot: Spot;
  readonly track: Track;
  readonly toPane: Matrix3;
}

/** The path of a spot over all its frames, in the source. */
export const SpotPath = memo(function SpotPath({ spot, track, toPane }: PathProps) {
  const places = useMemo(() => placesOf(track, (x, y) => ({ x, y })), [track]);
  return (
    <g pointerEvents="none" opacity={0.85}>
      <PathLine places={places} toPane={toPane} colour={spotColour(spot.colour)} width={1} />
    </g>
  );
});

/** The path of a spot in the steadied picture: a point where all is held, a glide where it moves. */
export const Trail = memo(function Trail({ spot, track, plan, toPane }: PathProps & { readonly plan: Plan }) {
  const { from, to } = useShot((s) => s.state.document.range);
  const places = useMemo(
    () =>
      placesOf(track, (x, y, frame) =>
        frame >= from && frame <= to ? apply(pictureInSource(plan, frame), x, y) : null,
      ),
    [track, plan, from, to],
  );
  return (
    <g pointerEvents="none" opacity={0.9} data-testid="trail">
      <PathLine places={places} toPane={toPane} colour={spotColour(spot.colour)} width={1.6} />
    </g>
  );
});
