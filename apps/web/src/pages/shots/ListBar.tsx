import { ArrowDown, ArrowUp, LayoutGrid, Grid3x3, Trash2 } from 'lucide-react';
import { IconButton } from '../../components/Tip';
import { plural } from '../../lib/format';
import { SHOT_ORDERS, type ShotOrder } from '../../lib/shot-list';
import { useShotList } from '../../state/shots';
import { BATCH_GOALS, type BatchGoal } from './steady-clips';

interface BarProps {
  readonly search: string;
  readonly onSearch: (text: string) => void;
  readonly shown: number;
  readonly total: number;
  readonly selected: number;
  readonly onSelectAll: () => void;
  readonly onSelectNone: () => void;
  readonly onDelete: () => void;
  readonly onSteady: (goal: BatchGoal) => void;
}

/** Searching, sorting, and what is done with several shots at once. */
export function ListBar({ search, onSearch, shown, total, selected, ...on }: BarProps) {
  const { order, down, large } = useShotList();
  const Arrow = down ? ArrowDown : ArrowUp;
  return (
    <div
      className="rule flex h-10 items-center gap-2 border-b px-4"
      role="toolbar"
      aria-label="List of shots"
    >
      <input
        type="search"
        className="input input-xs w-56"
        aria-label="Search"
        placeholder="Search by name"
        value={search}
        onChange={(e) => onSearch(e.target.value)}
        onKeyDown={(e) => e.key === 'Escape' && onSearch('')}
      />
      <label className="flex items-center gap-1.5 text-xs">
        <span className="quiet">Sort by</span>
        <select
          className="select select-xs w-24"
          aria-label="Sort by"
          value={order}
          onChange={(e) => {
            const next = e.target.value as ShotOrder;
            useShotList.setState({ order: next, down: next !== 'name' });
          }}
        >
          {Object.entries(SHOT_ORDERS).map(([value, text]) => (
            <option key={value} value={value}>
              {text}
            </option>
          ))}
        </select>
      </label>
      <IconButton
        label={down ? 'From the highest, latest, last' : 'From the lowest, earliest, first'}
        onClick={() => useShotList.setState({ down: !down })}
      >
        <Arrow size={14} />
      </IconButton>
      <IconButton label="Large cards" active={large} onClick={() => useShotList.setState({ large: true })}>
        <LayoutGrid size={14} />
      </IconButton>
      <IconButton label="Small cards" active={!large} onClick={() => useShotList.setState({ large: false })}>
        <Grid3x3 size={14} />
      </IconButton>
      <span className="quiet num text-xs" role="status">
        {shown === total ? plural(total, 'shot') : `${shown} of ${plural(total, 'shot')}`}
      </span>
      <span className="grow" />
      {selected > 0 ? (
        <>
          <span className="text-xs" role="status">
            {selected} selected
          </span>
          <span className="join" role="group" aria-label="Steady these">
            <span className="join-item self-center px-2 text-xs">Steady these</span>
            {Object.entries(BATCH_GOALS).map(([goal, name]) => (
              <button
                key={goal}
                type="button"
                className="btn join-item btn-xs"
                title={`Render the selected shots, ${name}, without opening them`}
                onClick={() => on.onSteady(goal as BatchGoal)}
              >
                {name}
              </button>
            ))}
          </span>
          <button type="button" className="btn btn-xs" onClick={on.onDelete}>
            <Trash2 size={12} /> Delete {selected === 1 ? 'it' : 'them'}
          </button>
          <button type="button" className="btn btn-ghost btn-xs" onClick={on.onSelectNone}>
            None
          </button>
        </>
      ) : (
        <button type="button" className="btn btn-ghost btn-xs" onClick={on.onSelectAll}>
          Select all
        </button>
      )}
    </div>
  );
}
