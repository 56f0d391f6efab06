import { softOf } from '@lurn/model';
import { useShot } from '../../../../state/shot';
import { putBorderMatte } from '../../../../state/soft/border-matte';

/** Limits the selected layer to a soft surface's border: one button for each. */
export function BorderMattes() {
  const cloths = useShot((s) => softOf(s.state.document));
  return cloths.map(({ id, name }) => (
    <button
      key={id}
      type="button"
      className="btn btn-xs"
      title="It is seen within its border alone, which can be grown, shrunk, softened"
      onClick={() => putBorderMatte(id)}
    >
      {`Only on ${name}`}
    </button>
  ));
}
