import { Check, ChevronDown, ChevronLeft, ChevronRight } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { groupDoubts, type Doubt, type DoubtGroup, type DoubtReason } from '@lurn/core/doubt';
import type { Tracker } from '@lurn/model';
import { IconButton } from '../../../components/Tip';
import { spotColour } from '../../../lib/colours';
import { plural } from '../../../lib/format';
import { useKeyTip } from '../../../state/keymap';
import { useBenchParts } from '../../../state/bench';
import type { SpotQuality } from '../../../state/spot-quality';
import { allIsFine, itIsFine, lookAt, nextDoubt } from '../../../state/repairs';
import { useShot } from '../../../state/shot';
import { DoubtStrip } from './DoubtStrip';
import { Hint, Section } from './Section';

const REASONS: Record<DoubtReason, string> = {
  disagrees: 'disagrees with the others',
  jump: 'jumps',
  'passes-disagree': 'differs from the other side',
  'weak-match': 'weak match',
  coasted: 'coasted',
  'near-edge': 'near the edge',
  'edge-shows': 'an edge shows',
  'held-unseen': 'what is held is not seen',
  'ride-unknown': 'rides on what is not known',
  'may-slip': 'may slip off',
  'turned-over': 'turned over',
  stretched: 'stretched',
};

/** Causes beyond this many are told by number: the worst come first. */
const SHOWN = 60;

/** What the program doubts, cause by cause, and the way from one to the next. */
export function Doubts({ quality }: { readonly quality: SpotQuality }) {
  const tip = useKeyTip();
  const { doubts } = useBenchParts('doubts');
  const untracked = useShot(
    ({ state }) => state.document.trackers.length === 0 || Object.keys(state.measured).length === 0,
  );
  const groups = useMemo(() => groupDoubts(doubts), [doubts]);
  return (
    <Section title={groups.length > 0 ? `Doubts, worst first: ${groups.length}` : 'Doubts'}>
      {groups.length === 0 ? (
        <Hint>
          {untracked
            ? 'Places that the program does not trust will be listed here once spots are tracked.'
            : 'None: every sample can be trusted as far as the program can tell.'}
        </Hint>
      ) : (
        <>
          <div className="flex items-center gap-1">
            <IconButton label="Previous doubt" action="doubt-previous" onClick={() => nextDoubt(-1)}>
              <ChevronLeft size={15} />
            </IconButton>
            <IconButton label="Next doubt" action="doubt-next" onClick={() => nextDoubt(1)}>
              <ChevronRight size={15} />
            </IconButton>
            <button
              type="button"
              className="btn btn-xs grow"
              title={tip('It is fine: off the list', 'fine')}
              onClick={itIsFine}
            >
              <Check size={12} /> It is fine
            </button>
          </div>
          <ol className="max-h-72 overflow-y-auto" aria-label="Doubts">
            {groups.slice(0, SHOWN).map((group) => (
              <Cause key={`${group.lead.spot} ${group.lead.reason}`} group={group} quality={quality} />
            ))}
            {groups.length > SHOWN && (
              <li className="quiet py-1 text-xs">and {groups.length - SHOWN} lesser ones</li>
            )}
          </ol>
        </>
      )}
    </Section>
  );
}

/** One cause; where it shows in several places, these unfold. */
function Cause({ group, quality }: { readonly group: DoubtGroup; readonly quality: SpotQuality }) {
  const { doubtAt } = useBenchParts('doubtAt');
  const spot = useShot((s) => s.state.document.trackers.find((t) => t.id === group.lead.spot));
  const [unfolded, setUnfolded] = useState(false);
  const { lead, doubts } = group;
  if (!spot && lead.spot !== '') return null;
  const at = doubtAt && doubts.includes(doubtAt) ? doubtAt : null;
  return (
    <li>
      <Row doubt={at ?? lead} spot={spot} open={at !== null} more={doubts.length} quality={quality} />
      {doubts.length > 1 && (
        <div className="flex items-center gap-1 pb-1 pl-3">
          <button
            type="button"
            className="btn btn-ghost btn-xs px-1 font-normal"
            aria-expanded={unfolded}
            onClick={() => setUnfolded(!unfolded)}
          >
            {unfolded ? <ChevronDown size={11} /> : <ChevronRight size={11} />}
            {plural(doubts.length, 'place')}
          </button>
          <span className="grow" />
          {at && (
            <button type="button" className="btn btn-xs" onClick={() => allIsFine(group)}>
              All {doubts.length} are fine
            </button>
          )}
        </div>
      )}
      {unfolded && (
        <ul
          className="flex flex-wrap gap-1 pb-1 pl-4"
          aria-label={`Places of ${spot?.name ?? 'the picture'}`}
        >
          {doubts.map((d) => (
            <li key={`${d.reason} ${d.from}`}>
              <button
                type="button"
                className={`btn btn-xs num px-1.5 ${d === doubtAt ? 'btn-primary' : ''}`}
                title={`${REASONS[d.reason]}: ${d.sentence}`}
                onClick={() => lookAt(d)}
              >
                {framesOf(d)}
              </button>
            </li>
          ))}
        </ul>
      )}
    </li>
  );
}

const framesOf = ({ from, to }: Doubt) => (from === to ? String(from) : `${from}–${to}`);

function Row({
  doubt,
  spot,
  open,
  more,
  quality,
}: {
  readonly doubt: Doubt;
  /** Missing for a doubt about the picture as a whole. */
  readonly spot: Tracker | undefined;
  readonly open: boolean;
  /** In how many places its cause shows. */
  readonly more: number;
  readonly quality: SpotQuality;
}) {
  const row = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (open) row.current?.scrollIntoView({ block: 'nearest' });
  }, [open]);
  return (
    <div ref={row}>
      <button
        type="button"
        aria-current={open ? 'true' : undefined}
        className={`w-full rounded-sm px-1 py-1 text-left text-xs hover:bg-base-300/60 ${open ? 'bg-base-300' : ''}`}
        onClick={() => lookAt(doubt)}
      >
        <span className="flex items-center gap-1.5">
          <span
            className="size-2 shrink-0 border border-current"
            style={spot && { background: spotColour(spot.colour), border: 0 }}
          />
          <span className="truncate font-semibold">{spot?.name ?? 'Picture'}</span>
          <span className="grow truncate">{REASONS[doubt.reason]}</span>
          <span className="num shrink-0">
            {framesOf(doubt)}
            {more > 1 && ` +${more - 1}`}
          </span>
          <Severity value={doubt.severity} />
        </span>
        {open && <span className="quiet block pt-0.5 leading-snug">{doubt.sentence}</span>}
      </button>
      {open && spot?.kind === 'spot' && <DoubtStrip doubt={doubt} spot={spot} quality={quality} />}
    </div>
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
