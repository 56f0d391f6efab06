import {
  ArrowLeftToLine,
  ArrowRightToLine,
  Flag,
  Pause,
  Play,
  Redo2,
  StepBack,
  StepForward,
  Undo2,
  Volume2,
  VolumeX,
} from 'lucide-react';
import { useStore } from 'zustand';
import { IconButton } from '../../components/Tip';
import { timeCode } from '../../lib/format';
import { chooseLayout, LAYOUTS, type Layout, useBenchParts } from '../../state/bench';
import { useKeyTip, type ActionId } from '../../state/keymap';
import { useShot } from '../../state/shot';
import type { Action } from './keys';

/** What shows a layout at once; the others come by turns. */
const LAYOUT_KEYS: Partial<Record<Layout, ActionId>> = {
  blink: 'blink',
  difference: 'difference',
  onion: 'onion',
};

const LAYOUT_NAMES: Record<Layout, string> = {
  both: 'Both',
  wipe: 'Wipe',
  blink: 'Blink',
  difference: 'Difference',
  onion: 'Onion',
  source: 'Source',
  steadied: 'Steadied',
};

/** Play, step, where the playhead is, and how the two pictures are compared. */
export function Transport({ actions }: { readonly actions: readonly Action[] }) {
  const { frame, playing, speed, muted, info, times, layout } = useBenchParts(
    'frame',
    'playing',
    'speed',
    'muted',
    'info',
    'times',
    'layout',
  );
  const { pastStates, futureStates } = useStore(useShot.temporal);
  const tip = useKeyTip();
  const act = (id: ActionId) => actions.find((a) => a.id === id)!;
  const button = (id: ActionId, icon: React.ReactNode, disabled = false) => (
    <IconButton label={act(id).label} action={id} onClick={act(id).run} disabled={disabled}>
      {icon}
    </IconButton>
  );
  return (
    <div
      className="rule @container flex h-9 items-center gap-1 border-t bg-base-200 px-2"
      role="toolbar"
      aria-label="Transport"
    >
      {button('first', <ArrowLeftToLine size={15} />)}
      {button('previous', <StepBack size={15} />)}
      {button('play', playing ? <Pause size={16} /> : <Play size={16} />)}
      {button('next', <StepForward size={15} />)}
      {button('last', <ArrowRightToLine size={15} />)}
      {button('to-ref', <Flag size={14} />)}
      {info.audio && button('mute', muted ? <VolumeX size={15} /> : <Volume2 size={15} />)}
      <span className="num ml-1.5 w-[96px] shrink-0" aria-label="Time code">
        {timeCode(times[frame] ?? 0, info.fps)}
      </span>
      <span className="num quiet w-[86px] shrink-0 whitespace-nowrap" aria-label="Frame">
        {String(frame).padStart(String(info.frames - 1).length, '\u2007')}
        {playing && speed !== 1 ? (
          // In the place of the last frame, so that nothing moves aside.
          <span aria-label="Speed">{` at ${speed < 0 ? '−' : ''}${Math.abs(speed)}×`}</span>
        ) : (
          ` of ${info.frames - 1}`
        )}
      </span>
      <span className="grow" />
      {button('undo', <Undo2 size={15} />, pastStates.length === 0)}
      {button('redo', <Redo2 size={15} />, futureStates.length === 0)}
      <div className="join ml-1.5 hidden @min-[770px]:flex" role="group" aria-label="Compare">
        {LAYOUTS.map((l) => (
          <button
            key={l}
            type="button"
            aria-pressed={layout === l}
            title={tip(LAYOUT_NAMES[l], LAYOUT_KEYS[l] ?? 'compare')}
            className={`btn btn-xs join-item px-1 ${layout === l ? 'btn-primary' : ''}`}
            onClick={() => chooseLayout(l)}
          >
            {LAYOUT_NAMES[l]}
          </button>
        ))}
      </div>
      <select
        className="select select-xs ml-1.5 w-28 @min-[770px]:hidden"
        aria-label="Compare"
        title={tip('Compare', 'compare')}
        value={layout}
        onChange={(e) => {
          chooseLayout(e.target.value as Layout);
          e.target.blur();
        }}
      >
        {LAYOUTS.map((l) => (
          <option key={l} value={l}>
            {LAYOUT_NAMES[l]}
          </option>
        ))}
      </select>
    </div>
  );
}
