import { useMemo, type ComponentProps } from 'react';
import { apply, chain, type Matrix3, type Point, translation } from '@lurn/core/geometry';
import { framingInSource, goalKind, pictureInSource, steadiedPlace } from '@lurn/core/plan';
import { sampleAt, type Track } from '@lurn/core/track';
import { spotsOf, trackOf, type ShotState, type Spot } from '@lurn/model';
import { pictureToPane, type PaneRect } from '../../../lib/view';
import { labelSides, type Side } from '../../../lib/labels';
import { isMeasured } from '../../../lib/measured';
import { aimNow } from '../../../state/aims';
import { useBenchParts } from '../../../state/bench';
import { patchAt } from '../../../state/repairs';
import { useShot } from '../../../state/shot';
import { showsAt } from '../../../state/stations';
import { AreaMarks, Drawing } from './AreaMarks';
import { LayerMarks } from './LayerMarks';
import { MoverTint } from './MoverTint';
import { MapOverlay, RectangleMark, SuggestionMark } from './PlacingAids';
import { SpotMark } from './SpotMarks';
import { SoftMarks } from './soft/SoftMarks';
import { SurfaceMarks } from './SurfaceMarks';
import { SpotPath, Trail } from './SpotPaths';
import { Crosshair, GuideLines, LockRing } from './ViewAids';

/** Everything that is drawn over one of the two pictures. */
export function PaneMarks({ pane }: { readonly pane: PaneRect }) {
  const { station, camera, info, crosshair, guides, steady } = useBenchParts(
    'station',
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
      {showsAt(station).layers && <LayerMarks toPane={toPane} kind={pane.kind} />}
      {crosshair && <Crosshair at={crosshair} toPane={toPane} pane={pane} />}
    </g>
  );
}

function SourceMarks({ toPane }: { readonly toPane: Matrix3 }) {
  const { shown, station, tracking, steady } = useBenchParts('shown', 'station', 'tracking', 'steady');
  const { tint, tool } = useBenchParts('tint', 'tool');
  const { grips, map, suggestions, rectangle, preview } = useBenchParts(
    'grips',
    'map',
    'suggestions',
    'rectangle',
    'preview',
  );
  const { document, measured } = useShot((s) => s.state);
  const shows = showsAt(station);
  const atWork = shows.marks === true;
  // Work that rides, and what is handed over, are looked at without what tells of the motion.
  const marked = shows.spots ? spotsOf(document) : [];
  const solved = shows.goals && steady && isMeasured(steady) ? steady.motion.byId : undefined;
  return (
    <>
      {(tint || tool.id === 'hold') && <MoverTint toPane={toPane} />}
      <AreaMarks toPane={toPane} handles={!tracking} />
      {shows.surfaces && <SurfaceMarks toPane={toPane} handles={!tracking} />}
      <SoftMarks toPane={toPane} handles={!tracking} />
      {map && <MapOverlay map={map} toPane={toPane} />}
      {marked.map(
        (s) =>
          measured[s.id] && (
            <SpotPath
              key={s.id}
              spot={s}
              track={preview?.spot === s.id ? preview.track : trackOf({ measured }, s.id)}
              toPane={toPane}
            />
          ),
      )}
      {suggestions.map(
        (s, i) =>
          s.frame === shown && (
            <SuggestionMark key={`${s.x} ${s.y}`} suggestion={s} index={i} toPane={toPane} />
          ),
      )}
      {rectangle && <RectangleMark rectangle={rectangle} toPane={toPane} />}
      {marked.length > 0 && (
        <Marks
          toPane={toPane}
          handles={atWork && !tracking}
          more={(s) => ({
            grip: atWork ? grips[s.id] : undefined,
            residual: solved?.[s.id]?.residuals[shown],
          })}
        />
      )}
    </>
  );
}

/** Sides of the names by the spots' ids, by where the spots are on average: names do not change sides while it plays. */
function sidesOf(
  spots: readonly Spot[],
  measured: ShotState['measured'],
  toPane: Matrix3,
): Map<string, Side> {
  const placed = spots.flatMap((spot) => {
    const mean = meanPlace(trackOf({ measured }, spot.id));
    if (!mean) return [];
    const at = apply(toPane, mean.x, mean.y);
    const [w, h] = [(spot.patch[0] + 0.5) * toPane[0], (spot.patch[1] + 0.5) * toPane[4]];
    return [{ id: spot.id, ...at, w, h, length: spot.name.length }];
  });
  const sides = labelSides(placed);
  return new Map(placed.map(({ id }, i) => [id, sides[i]]));
}

const means = new WeakMap<Track, Point | null>();

/** Where a spot is on average; null of one without samples. Worked out once as long as the track is the same. */
function meanPlace(track: Track): Point | null {
  let mean = means.get(track);
  if (mean !== undefined) return mean;
  const { x, y } = track.values;
  let [n, sx, sy] = [0, 0, 0];
  for (let i = 0; i < track.state.length; i++) {
    if (!track.state[i]) continue;
    n++;
    sx += x[i];
    sy += y[i];
  }
  mean = n > 0 ? { x: sx / n, y: sy / n } : null;
  means.set(track, mean);
  return mean;
}

/** The way to the pane, moved so that a place of the picture lies where it is seen: rows that are put straight move a little. */
function movedTo(toPane: Matrix3, at: Point | null, seen: Point | null): Matrix3 {
  if (!at || !seen) return toPane;
  const plain = apply(toPane, at.x, at.y);
  return chain(translation(seen.x - plain.x, seen.y - plain.y), toPane);
}

/**
 * All spots on the frame that is shown; while one is dragged, that one alone.
 *
 * @param seenAt  where a place of the frame is seen in the pane, where the matrix alone does not tell
 */
function Marks({
  toPane,
  handles,
  more,
  seenAt,
}: Pick<ComponentProps<typeof SpotMark>, 'toPane' | 'handles'> & {
  readonly more?: (spot: Spot) => Pick<ComponentProps<typeof SpotMark>, 'grip' | 'residual'>;
  readonly seenAt?: (at: Point) => Point;
}) {
  const { selected, shown, magnifier } = useBenchParts('selected', 'shown', 'magnifier');
  const { document, measured } = useShot((s) => s.state);
  const spots = spotsOf(document);
  const sides = useMemo(() => sidesOf(spotsOf(document), measured, toPane), [document, measured, toPane]);
  return spots
    .filter((s) => !magnifier || magnifier.spot === s.id)
    .map((s) => {
      const track = trackOf({ measured }, s.id);
      const sample = seenAt ? sampleAt(track, shown) : null;
      return (
        <SpotMark
          key={s.id}
          spot={s}
          track={track}
          frame={shown}
          toPane={movedTo(toPane, sample, sample && seenAt!(sample))}
          patchPlace={s.joins.length > 0 ? patchAt(s, shown) : null}
          selected={selected.includes(s.id)}
          side={sides.get(s.id) ?? 'right'}
          handles={handles}
          {...more?.(s)}
        />
      );
    });
}

function SteadiedMarks({ toPane }: { readonly toPane: Matrix3 }) {
  const { shown, station, steady, trails } = useBenchParts('shown', 'station', 'steady', 'trails');
  const shows = showsAt(station);
  const { document, measured } = useShot((s) => s.state);
  const matrix = chain(toPane, pictureInSource(steady, shown));
  const seenAt = (at: Point) => {
    const p = steadiedPlace(steady!, shown, at);
    return apply(toPane, p.x, p.y);
  };
  const { goal } = document;
  const place =
    steady && shows.goals ? goalKind(aimNow(goal, shown).goal).place(steady.motion, goal, steady.size) : null;
  return (
    <>
      {steady &&
        trails &&
        !shows.layers &&
        spotsOf(document).map(
          (s) =>
            measured[s.id] && (
              <Trail key={s.id} spot={s} track={trackOf({ measured }, s.id)} plan={steady} toPane={toPane} />
            ),
        )}
      {shows.marks && <Marks toPane={matrix} handles={false} {...(steady?.rows && { seenAt })} />}
      {shows.surfaces && <SurfaceMarks toPane={matrix} handles={false} />}
      <SoftMarks toPane={toPane} handles={false} steadied />
      {shows.layers && <Drawing toPane={matrix} />}
      {steady && place && (
        <LockRing
          place={place}
          tolerance={goal.lock.tolerance}
          toPane={chain(toPane, framingInSource(steady, shown))}
        />
      )}
    </>
  );
}
