import { softAt } from '@lurn/core/track';
import { softById, softTrackOf } from '@lurn/model';
import { NumberField } from '../../../../components/NumberField';
import { plural } from '../../../../lib/format';
import { setBench, useBenchParts } from '../../../../state/bench';
import { useKeyTip } from '../../../../state/keymap';
import { bridgeGap } from '../../../../state/repairs';
import { useShot } from '../../../../state/shot';
import { endVertices, unpin } from '../../../../state/soft/mesh-points';
import { Hint } from '../Section';

/** The largest soft brush, in pixels. */
const MOST = 1000;

/** What is done about points of a mesh that went wrong: put where they belong, let go of, or ended. */
export function MendMesh({ id }: { readonly id: string }) {
  const { frame, points, meshBrush, info } = useBenchParts('frame', 'points', 'meshBrush', 'info');
  const soft = useShot((s) => softById(s.state.document, id));
  const track = useShot((s) => softTrackOf(s.state, id));
  const tip = useKeyTip();
  if (!soft) return null;
  const pins = softAt(track, frame)?.vertices.filter((v) => v?.state === 'pinned').length ?? 0;
  const some = points.length > 0;
  return (
    <>
      <Hint>
        Drag a point to where it belongs: it is pinned on this frame. Then track on, or between two such
        frames; the others find their way by the picture.
      </Hint>
      <NumberField
        label="Soft brush"
        value={meshBrush}
        min={0}
        max={MOST}
        step={1}
        decimals={0}
        unit="px"
        onChange={(v) => setBench({ meshBrush: v })}
      />
      {pins > 0 && frame !== soft.frame && (
        <button
          type="button"
          className="btn btn-sm w-full justify-start"
          onClick={() => unpin(id, frame, points)}
        >
          Let go of {plural(pins, 'pin')} here
        </button>
      )}
      <div className="grid grid-cols-2 gap-1.5">
        <button
          type="button"
          className="btn btn-sm"
          disabled={!some}
          title="The chosen points end here: from here on they go with their neighbours"
          onClick={() => endVertices(id, points, frame, info.frames - 1)}
        >
          End from {frame} on
        </button>
        <button
          type="button"
          className="btn btn-sm"
          disabled={!some}
          title="The chosen points begin after this frame"
          onClick={() => endVertices(id, points, 0, frame)}
        >
          End up to {frame}
        </button>
      </div>
      <button
        type="button"
        className="btn btn-sm w-full"
        title={tip(
          'Points that are not seen here go smoothly from where they were to where they are again',
          'bridge',
        )}
        onClick={bridgeGap}
      >
        Bridge the gap
      </button>
      <Hint>
        {some ? `${plural(points.length, 'point')} chosen.` : 'Press a point to choose it; Alt adds others.'}
      </Hint>
    </>
  );
}
