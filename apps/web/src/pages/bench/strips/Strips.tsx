import { scaleLinear } from 'd3-scale';
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type RefObject } from 'react';
import { spotById, trackOf } from '@lurn/model';
import { useBenchParts } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import {
  CURVE,
  LABEL,
  LANE,
  MOTION,
  RIBBON,
  RIGHT,
  RULER,
  useRibbon,
  useScrub,
  useViewFollowsPlayhead,
} from './axis';
import { AgainstCurve } from './AgainstCurve';
import { NoteEntry } from './NoteMarks';
import { CutLines } from './CutLines';
import { FilmLane, filmHeight } from './FilmLane';
import { KeyLane } from './KeyLane';
import { MOTION_ROWS, MotionCurves } from './MotionCurves';
import { HoverLine, Playhead } from './Playhead';
import { LeftCurve, ZoomCurve } from './PlanCurves';
import { RibbonRow } from './RibbonRow';
import { Ruler } from './Ruler';
import { spotRows, SpotCurves } from './SpotCurves';
import { usePreparedRibbons } from './usePreparedRibbons';
import { useWheel } from './useWheel';
import { showsAt } from '../../../state/stations';

/** Up to so many rows are there whether they are seen or not; of more, so many beyond those that are seen. */
const ALWAYS = 24;
const BEYOND = 2;

/** Which ribbons are to be drawn: a shot may have hundreds. @param above  pixels from the top to the first */
function useRowsInView(host: RefObject<HTMLDivElement | null>, count: number, above: number) {
  const [view, setView] = useState({ top: 0, height: 600 });
  useEffect(() => {
    const element = host.current!;
    const look = () => setView({ top: element.scrollTop, height: element.clientHeight });
    const observer = new ResizeObserver(look);
    observer.observe(element);
    element.addEventListener('scroll', look, { passive: true });
    return () => {
      observer.disconnect();
      element.removeEventListener('scroll', look);
    };
  }, [host]);
  if (count <= ALWAYS) return { first: 0, end: count };
  const first = Math.max(0, Math.floor((view.top - above) / RIBBON) - BEYOND);
  const shown = Math.ceil(view.height / RIBBON) + 2 * BEYOND;
  return { first: Math.min(first, count), end: Math.min(count, first + shown) };
}

/** Everything along time, on one axis: ruler, ribbons, and the curves of shake and zoom. */
export function Strips() {
  const host = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(600);
  const [hover, setHover] = useState<number | null>(null);
  const { clip, info, steady, timeView, curvesOf, preview, motionCurves } = useBenchParts(
    'clip',
    'info',
    'steady',
    'timeView',
    'curvesOf',
    'preview',
    'motionCurves',
  );
  const station = useBenchParts('station').station;
  const { document, measured } = useShot((s) => s.state);
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
  const curved = spotById(document, curvesOf ?? '');
  const curvedResiduals = (curved && steady?.motion.byId[curved.id]?.residuals) ?? null;
  const spots = document.trackers;
  // While the shot is steadied: elsewhere nobody asks for it.
  const parallax = showsAt(station).goals && steady !== null && (clip.made?.scene?.movers.length ?? 0) > 1;
  const height =
    RULER +
    filmHeight(clip.made) +
    (document.goal.keys.length > 0 ? LANE : 0) +
    Math.max(1, spots.length) * RIBBON +
    (motionCurves && steady ? MOTION_ROWS * MOTION : 0) +
    (2 +
      (parallax ? 1 : 0) +
      (curved ? spotRows(trackOf({ measured }, curved.id)) + (curvedResiduals ? 1 : 0) : 0)) *
      CURVE +
    12;
  const above = RULER + filmHeight(clip.made) + (document.goal.keys.length > 0 ? LANE : 0);
  const rows = useRowsInView(host, spots.length, above);
  const scrub = useScrub(frameAt);
  useViewFollowsPlayhead();
  useWheel(host, x, inner);
  usePreparedRibbons(measured);
  const ribbon = useRibbon(frameAt);
  const axis = { x, width: inner, scrub, hover };
  return (
    <div
      ref={host}
      role="group"
      aria-label="Strips"
      className="relative h-full overflow-x-hidden overflow-y-auto bg-base-100 select-none"
      onPointerMove={(e) => {
        const at = Math.round(frameAt(e.clientX));
        const over = e.clientX - host.current!.getBoundingClientRect().left > LABEL;
        setHover(over && at >= 0 && at < info.frames ? at : null);
      }}
      onPointerLeave={() => setHover(null)}
    >
      <div className="relative" style={{ height }}>
        <Ruler x={x} width={inner} frameAt={frameAt} />
        <div className="absolute right-0 left-0" style={{ top: RULER }}>
          <FilmLane x={x} width={inner} scrub={scrub} />
          {document.goal.keys.length > 0 && <KeyLane x={x} width={inner} frameAt={frameAt} />}
          {spots.length === 0 && (
            <p className="quiet px-2 py-0.5 text-xs">The ribbons of spots and surfaces will lie here.</p>
          )}
          <div style={{ height: rows.first * RIBBON }} />
          {spots.slice(rows.first, rows.end).map((spot) => (
            <RibbonRow
              key={spot.id}
              spot={spot}
              track={measured[spot.id]}
              x={x}
              width={inner}
              hover={hover}
              pointer={ribbon(spot.id)}
            />
          ))}
          <div style={{ height: (spots.length - rows.end) * RIBBON }} />
          {curved && measured[curved.id] && (
            <SpotCurves
              {...axis}
              spot={curved}
              track={trackOf({ measured }, curved.id)}
              changed={preview && preview.spot === curved.id ? preview.track : null}
              residuals={curvedResiduals}
            />
          )}
          {motionCurves && steady && <MotionCurves {...axis} plan={steady} range={document.range} />}
          {parallax && <AgainstCurve {...axis} from={document.range.from} />}
          <LeftCurve {...axis} plan={steady} from={document.range.from} />
          <ZoomCurve {...axis} plan={steady} range={document.range} />
        </div>
        <NoteEntry x={x} width={inner} />
        <CutLines x={x} height={height} />
        {hover !== null && <HoverLine at={LABEL + x(hover)} frame={hover} height={height} />}
        <Playhead x={x} height={height} />
      </div>
    </div>
  );
}
