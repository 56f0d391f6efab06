import { NumberField } from '../../../components/NumberField';
import { useBench } from '../../../state/bench';
import { moveJoin, undoJoin } from '../../../state/repairs';

/** A place where a path carries on with another feature; it can be moved along time. */
export function JoinRow({
  id,
  name,
  frame,
}: {
  readonly id: string;
  readonly name: string;
  readonly frame: number;
}) {
  const last = useBench((s) => s.info.frames - 1);
  return (
    <div className="flex items-center gap-1">
      <div className="grow">
        <NumberField
          label={`${name} carries on at`}
          value={frame}
          min={0}
          max={last}
          onChange={(to) => moveJoin(id, frame, to)}
        />
      </div>
      <button
        type="button"
        className="btn btn-ghost btn-xs"
        title="Back to the first feature"
        onClick={() => undoJoin(id, frame)}
      >
        Undo
      </button>
    </div>
  );
}
