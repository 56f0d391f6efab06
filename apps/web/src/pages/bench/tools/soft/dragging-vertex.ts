import { toast } from 'sonner';
import { softById } from '@lurn/model';
import { bench, setBench } from '../../../../state/bench';
import { beginGesture, cancelGesture, endGesture, shotDocument } from '../../../../state/shot';
import { moveLaidCorner } from '../../../../state/soft/rectify';
import { moveVertex } from '../../../../state/soft/mesh-points';
import { placesShown } from '../../../../state/soft/mesh-shown';
import type { Drag, PointerAt, Press, Target } from '../tool';

const nothing = () => undefined;

/**
 * Moves a point of a mesh: on its own frame the mesh changes, elsewhere the point is pinned. Pressed without moving it is
 * chosen; with Alt it joins those that are, or leaves them.
 */
export function draggingVertex(
  { soft: id, index }: Extract<Target, { kind: 'vertex' }>,
  { at, alt }: Pick<Press, 'at' | 'alt'>,
): Drag {
  const { frame, points, selected } = bench();
  const soft = softById(shotDocument(), id);
  const from = soft && placesShown(soft, frame)?.[index];
  const before = selected.includes(id) ? points : [];
  const chosen = !alt
    ? before.includes(index)
      ? before
      : [index]
    : before.includes(index)
      ? before.filter((i) => i !== index)
      : [...before, index];
  setBench({ selected: [id], area: null, points: chosen });
  if (!from) return { move: nothing, up: nothing, cancel: nothing };
  beginGesture();
  let refused: string | null = null;
  const ended = (finish: () => void) => () => {
    finish();
    setBench({ magnifier: null, points: chosen });
    if (refused) toast.warning(refused, { id: 'mesh' });
  };
  return {
    move({ picture }) {
      const to = { x: from.x + picture.x - at.picture.x, y: from.y + picture.y - at.picture.y };
      refused = moveVertex(id, index, frame, to);
      const now = softById(shotDocument(), id);
      const place = (now && placesShown(now, frame)?.[index]) ?? to;
      setBench({ magnifier: { x: place.x, y: place.y, spot: id }, points: chosen });
    },
    up: ended(endGesture),
    cancel: ended(cancelGesture),
  };
}

/** Moves a corner of the rectangle that a soft surface is laid to, on its own frame. */
export function draggingLaidCorner(
  { soft: id, index }: Extract<Target, { kind: 'laid' }>,
  at: PointerAt,
): Drag {
  const from = softById(shotDocument(), id)?.laid?.corners[index];
  if (!from) return { move: nothing, up: nothing, cancel: nothing };
  setBench({ selected: [id], area: null });
  beginGesture();
  let refused: string | null = null;
  const ended = (finish: () => void) => () => {
    finish();
    setBench({ magnifier: null });
    if (refused) toast.warning(refused, { id: 'mesh' });
  };
  return {
    move({ picture }) {
      const to = { x: from[0] + picture.x - at.picture.x, y: from[1] + picture.y - at.picture.y };
      refused = moveLaidCorner(id, index, to);
      const [x, y] = softById(shotDocument(), id)?.laid?.corners[index] ?? from;
      setBench({ magnifier: { x, y, spot: id } });
    },
    up: ended(endGesture),
    cancel: ended(cancelGesture),
  };
}
