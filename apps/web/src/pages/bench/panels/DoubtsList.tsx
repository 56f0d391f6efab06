import { useEffect, useRef } from 'react';
import { EMPTY_TRACK, sampleAt, type Doubt, type DoubtReason } from '@lurn/core';
import type { Spot } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { useBench, useBenchParts } from '../../../state/bench';
import type { Looker } from '../../../state/looking';
import { lookAt } from '../../../state/repairs';
import { shotState, useShot } from '../../../state/shot';

const REASONS: Record<DoubtReason, string> = {
  disagrees: 'disagrees with the others',
  jump: 'jumps',
  'passes-disagree': 'differs from the other side',
  'weak-match': 'weak match',
  coasted: 'coasted',
  'near-edge': 'near the edge',
  'edge-shows': 'an edge shows',
};

/** Doubts beyond this many are told by number: the worst come first. */
const SHOWN = 60;

export function DoubtsList({ looker }: { readonly looker: Looker }) {
  const { doubts, doubtAt } = useBenchParts('doubts', 'doubtAt');
  const spots = useShot((s) => s.state.document.spots);
  return (
    <ol className="max-h-72 overflow-y-auto" aria-label="Doubts">
      {doubts.slice(0, SHOWN).map((doubt, i) => {
        const spot = spots.find((s) => s.id === doubt.spot);
        return (
          (spot || doubt.spot === '') && (
            <Row
              key={`${doubt.spot} ${doubt.reason} ${doubt.from}`}
              doubt={doubt}
              spot={spot}
              at={i}
              open={i === doubtAt}
              looker={looker}
            />
          )
        );
      })}
      {doubts.length > SHOWN && (
        <li className="quiet py-1 text-xs">and {doubts.length - SHOWN} lesser ones</li>
      )}
    </ol>
  );
}

function Row({
  doubt,
  spot,
  at,
  open,
  looker,
}: {
  readonly doubt: Doubt;
  /** Missing for a doubt about the picture as a whole. */
  readonly spot: Spot | undefined;
  readonly at: number;
  readonly open: boolean;
  readonly looker: Looker;
}) {
  const row = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (open) row.current?.scrollIntoView({ block: 'nearest' });
  }, [open]);
  return (
    <li ref={row}>
      <button
        type="button"
        aria-current={open ? 'true' : undefined}
        className={`w-full rounded-sm px-1 py-1 text-left text-xs hover:bg-base-300/60 ${open ? 'bg-base-300' : ''}`}
        onClick={() => lookAt(at)}
      >
        <span className="flex items-center gap-1.5">
          <span
            className="size-2 shrink-0 border border-current"
            style={spot && { background: spotColour(spot.colour), border: 0 }}
          />
          <span className="truncate font-semibold">{spot?.name ?? 'Picture'}</span>
          <span className="grow truncate">{REASONS[doubt.reason]}</span>
          <span className="num shrink-0">
            {doubt.from === doubt.to ? doubt.from : `${doubt.from}–${doubt.to}`}
          </span>
          <Severity value={doubt.severity} />
        </span>
        {open && <span className="quiet block pt-0.5 leading-snug">{doubt.sentence}</span>}
      </button>
      {open && spot && <Strip doubt={doubt} spot={spot} looker={looker} />}
    </li>
  );
}

/** One to four bars. */
function Severity({ value }: { readonly value: number }) {
  const bars = Math.min(4, Math.max(1, Math.ceil(value * 4)));
  return (
    <svg
      width={15}
      height={10}
      className="shrink-0 text-warning"
      role="img"
      aria-label={`Severity ${bars} of 4`}
    >
      {[0, 1, 2, 3].map((i) => (
        <rect
          key={i}
          x={4 * i}
          y={7 - 2.3 * i}
          width={3}
          height={3 + 2.3 * i}
          fill="currentColor"
          opacity={i < bars ? 1 : 0.22}
        />
      ))}
    </svg>
  );
}

const COUNT = 5;
const SIDE = 44;

/** Magnified patches from before, over and after the doubtful stretch. */
function Strip({
  doubt,
  spot,
  looker,
}: {
  readonly doubt: Doubt;
  readonly spot: Spot;
  readonly looker: Looker;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { from, to } = doubt;
  const last = useBench((s) => s.info.frames - 1);
  const reach = Math.max((COUNT - 1) / 2, (to - from) / 2 + 1);
  const middle = Math.round((from + to) / 2);
  const frames = Array.from({ length: COUNT }, (_, k) =>
    Math.min(last, Math.max(0, Math.round(middle + ((k - (COUNT - 1) / 2) / ((COUNT - 1) / 2)) * reach))),
  );
  const key = frames.join(' ');
  useEffect(() => {
    let gone = false;
    const track = shotState().tracks[spot.id] ?? EMPTY_TRACK;
    const places = frames.flatMap((frame) => {
      const s = sampleAt(track, frame);
      return s ? [{ frame, x: s.x, y: s.y }] : [];
    });
    const scale = SIDE / (2.6 * Math.max(...spot.patch));
    looker
      .thumbs(places, spot.eye, SIDE, scale)
      .then((pictures) => {
        const context = canvas.current?.getContext('2d');
        if (gone || !context) return;
        context.clearRect(0, 0, COUNT * (SIDE + 2), SIDE);
        places.forEach(({ frame }, i) =>
          context.putImageData(pictures[i], frames.indexOf(frame) * (SIDE + 2), 0),
        );
      })
      .catch(() => undefined);
    return () => {
      gone = true;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the frames are told by the key
  }, [key, spot.id, spot.patch, spot.eye, looker]);
  return (
    <div className="px-1 pb-1.5">
      <canvas
        ref={canvas}
        width={COUNT * (SIDE + 2)}
        height={SIDE}
        className="bg-neutral block max-w-full"
        role="img"
        aria-label={`${spot.name} on frames ${frames.join(', ')}`}
      />
      <div className="num quiet flex text-[10px]">
        {frames.map((f, i) => (
          <span key={i} className="text-center" style={{ width: SIDE + 2 }}>
            {f}
          </span>
        ))}
      </div>
    </div>
  );
}
