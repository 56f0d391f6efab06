import { memo, useMemo } from 'react';
import {
  apply,
  chain,
  EMPTY_TRACK,
  framingIn,
  lockPlace,
  pictureMatrix,
  type Matrix3,
  type Steady,
  type Track,
} from '@lurn/core';
import { solvedSpots, type Spot } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { pictureToPane, type PaneRect } from '../../../lib/view';
import { aimNow } from '../../../state/aims';
import { useBenchParts } from '../../../state/bench';
import { patchAt } from '../../../state/repairs';
import { useShot } from '../../../state/shot';
import { MapOverlay, RectangleMark, SuggestionMark } from './PlacingAids';
import { SpotMark, SpotPath } from './SpotMarks';
import { Crosshair, GuideLines, LockRing } from './ViewAids';

/** Everything that is drawn over one of the two pictures. */
export function PaneMarks({ pane }: { readonly pane: PaneRect }) {
  const { camera, info, crosshair, guides, steady } = useBenchParts(
    'camera',
    'info',
    'crosshair',
    'guides',
    'steady',
  );
  const toPane = useMemo(() => pictureToPane(camera, info, pane), [camera, info, pane]);
  const clip = `pane-${pane.kind}`;
  const steadied = pane.kind === 'steadied';
  const size = steadied && steady ? steady.window : info;
  const [left, top] = [(info.width - size.width) / 2, (info.height - size.height) / 2];
  return (
    <g transform={`translate(${pane.x} ${pane.y})`} clipPath={`url(#${clip})`}>
      <clipPath id={clip}>
        <rect
          x={pane.from * pane.width}
          y={0}
          width={(pane.to - pane.from) * pane.width}
          height={pane.height}
        />
      </clipPath>
      {guides !== 'none' && (
        <GuideLines guides={guides} box={[left, top, left + size.width, top + size.height]} toPane={toPane} />
      )}
      {steadied ? <SteadiedMarks toPane={toPane} /> : <SourceMarks toPane={toPane} />}
      {crosshair && <Crosshair at={crosshair} toPane={toPane} pane={pane} />}
    </g>
  );
}

const working = (station: string) => ['spots', 'track', 'repair'].includes(station);

function SourceMarks({ toPane }: { readonly toPane: Matrix3 }) {
  const { selected, shown, magnifier, station, tracking, steady } = useBenchParts(
    'selected',
    'shown',
    'magnifier',
    'station',
    'tracking',
    'steady',
  );
  const { grips, map, suggestions, rectangle, preview } = useBenchParts(
    'grips',
    'map',
    'suggestions',
    'rectangle',
    'preview',
  );
  const state = useShot((s) => s.state);
  const { document, tracks } = state;
  const atWork = working(station);
  const residuals = useMemo(
    () => (station === 'steady' ? residualsOf(steady, solvedSpots(state)) : null),
    [station, steady, state],
  );
  return (
    <>
      {map && <MapOverlay map={map} toPane={toPane} />}
      {document.spots.map(
        (s) =>
          tracks[s.id] && (
            <SpotPath
              key={s.id}
              spot={s}
              track={preview?.spot === s.id ? preview.track : tracks[s.id]}
              toPane={toPane}
            />
          ),
      )}
      {suggestions.map((s, i) => (
        <SuggestionMark key={`${s.x} ${s.y}`} suggestion={s} index={i} toPane={toPane} />
      ))}
      {rectangle && <RectangleMark rectangle={rectangle} toPane={toPane} />}
      {document.spots
        .filter((s) => !magnifier || magnifier.spot === s.id)
        .map((s) => (
          <SpotMark
            key={s.id}
            spot={s}
            track={tracks[s.id] ?? EMPTY_TRACK}
            frame={shown}
            toPane={toPane}
            patchPlace={s.joins.length > 0 ? patchAt(s, shown) : null}
            grip={atWork ? grips[s.id] : undefined}
            residual={residuals?.get(s.id)?.[shown]}
            selected={selected.includes(s.id)}
            handles={atWork && !tracking}
          />
        ))}
    </>
  );
}

/** Residuals of a plan by the spots' ids, frame by frame. */
function residualsOf(steady: Steady | null, spots: readonly Spot[]): Map<string, Float32Array> {
  return new Map(
    spots.flatMap((s, i) => (steady?.motion.residuals[i] ? [[s.id, steady.motion.residuals[i]]] : [])),
  );
}

function SteadiedMarks({ toPane }: { readonly toPane: Matrix3 }) {
  const { selected, shown, magnifier, station, steady, trails } = useBenchParts(
    'selected',
    'shown',
    'magnifier',
    'station',
    'steady',
    'trails',
  );
  const { document, tracks } = useShot((s) => s.state);
  const matrix = chain(toPane, pictureMatrix(steady, shown));
  const held = steady && station === 'steady' && aimNow(document.goal, shown).goal === 'lock';
  return (
    <>
      {steady &&
        trails &&
        document.spots.map(
          (s) =>
            tracks[s.id] && <Trail key={s.id} spot={s} track={tracks[s.id]} plan={steady} toPane={toPane} />,
        )}
      {working(station) &&
        document.spots
          .filter((s) => !magnifier || magnifier.spot === s.id)
          .map((s) => (
            <SpotMark
              key={s.id}
              spot={s}
              track={tracks[s.id] ?? EMPTY_TRACK}
              frame={shown}
              toPane={matrix}
              patchPlace={s.joins.length > 0 ? patchAt(s, shown) : null}
              selected={selected.includes(s.id)}
              handles={false}
            />
          ))}
      {held && (
        <LockRing
          place={lockPlace(steady.motion, document.goal.lock, steady.size)}
          tolerance={document.goal.lock.tolerance}
          toPane={chain(toPane, framingIn(steady, shown))}
        />
      )}
    </>
  );
}

/** The path of a spot in the steadied picture: a point where all is held, a glide where it moves. */
const Trail = memo(function Trail({
  spot,
  track,
  plan,
  toPane,
}: {
  readonly spot: Spot;
  readonly track: Track;
  readonly plan: Steady;
  readonly toPane: Matrix3;
}) {
  const { from, to } = useShot((s) => s.state.document.range);
  const places = useMemo(() => {
    const runs: ({ x: number; y: number } | null)[] = [];
    for (let i = 0; i < track.state.length; i++) {
      const frame = track.start + i;
      const known = track.state[i] && frame >= from && frame <= to;
      runs.push(known ? apply(pictureMatrix(plan, frame), track.x[i], track.y[i]) : null);
    }
    return runs;
  }, [track, plan, from, to]);
  let open = false;
  const d = places
    .map((place) => {
      const p = place && apply(toPane, place.x, place.y);
      const part = p ? `${open ? 'L' : 'M'}${p.x.toFixed(2)} ${p.y.toFixed(2)}` : '';
      open = p !== null;
      return part;
    })
    .join('');
  return (
    <g pointerEvents="none" opacity={0.9} data-testid="trail" strokeLinecap="round" strokeLinejoin="round">
      <path d={d} fill="none" stroke="#000" strokeOpacity={0.6} strokeWidth={3.2} />
      <path d={d} fill="none" stroke={spotColour(spot.colour)} strokeWidth={1.6} />
    </g>
  );
});
