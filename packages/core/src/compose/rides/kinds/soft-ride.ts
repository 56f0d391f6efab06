import { IDENTITY, translation, type Matrix3, type Point } from '../../../geometry/matrix.js';
import { chained, evaluatorOf, matrixWarp, type Warp } from '../../../geometry/warp.js';
import {
  flatSide,
  softBeside,
  softWarp,
  unbent,
  type Side,
  type SoftShape,
} from '../../../soft/soft-warps.js';
import { lost, shareAway, type Carried, type Carrying, type RideKind, type SceneView } from '../ride-kind.js';

/** A soft surface, with every fold; told in the picture that it is laid flat to, or in that of the layer's own frame. */
export interface SoftRide {
  readonly on: 'soft';
  readonly id: string;
  readonly soft: SoftShape;
  readonly laid?: boolean;
}

/** The picture in which what rides on a soft surface is told. */
function ownSide({ soft, laid }: Pick<SoftRide, 'soft' | 'laid'>, own: number): Side {
  return laid ? flatSide(soft, own) : own;
}

export const SOFT_RIDE: RideKind<SoftRide> = {
  carry: (ride, how) => bySoft(ride.soft, ownSide(ride, how.own), how),
  flat: (ride, { flat }, own) =>
    flat?.id === ride.id ? fromFlat(ride.soft, ownSide(ride, own), flat) : null,
  toFlat(ride, own, ref, at) {
    const [from, to] = [ownSide(ride, own), flatSide(ride.soft, ref)];
    if (from === to) return IDENTITY;
    const mesh = softWarp(ride.soft, from, to);
    return mesh && tangentOf(mesh, at);
  },
};

function bySoft(soft: SoftShape, own: Side, { frame, unknown, middle }: Carrying): Carried {
  const { track } = soft;
  const known = (f: number) => track.state[f - track.start] > 0 || f === soft.frame;
  const { before, after } = softBeside(soft, frame);
  const held = unknown === 'hold' && before !== null ? before : frame;
  const mesh = softWarp(soft, own, held);
  if (!mesh) return lost(unknown);
  const away = known(frame) ? 0 : Math.min(frame - (before ?? -Infinity), (after ?? Infinity) - frame);
  const share = away === 0 ? 1 : shareAway(unknown, away);
  const confidence = frame === soft.frame ? 1 : known(frame) ? track.confidence[frame - track.start] : 0;
  const bent = own === held ? undefined : { forth: mesh, back: unbent(mesh) };
  return { m: tangentOf(mesh, middle), bent, share, confidence };
}

/** What rides on a soft surface that is laid flat goes as that does: there is no way there and back through its folds. */
function fromFlat(soft: SoftShape, own: Side, { ref, toFlat }: NonNullable<SceneView['flat']>): Warp {
  const flat = flatSide(soft, ref);
  const mesh = own === flat ? null : softWarp(soft, own, flat);
  return mesh ? chained(matrixWarp(toFlat), unbent(mesh)) : matrixWarp(toFlat);
}

/** How a warp goes about a place, as an affine map. */
function tangentOf(mesh: Warp, at: Point): Matrix3 {
  const place = evaluatorOf(mesh);
  const [p, q, r] = [place.at(at.x, at.y), place.at(at.x + 1, at.y), place.at(at.x, at.y + 1)];
  const [a, b, d, e] = [q.x - p.x, r.x - p.x, q.y - p.y, r.y - p.y];
  if (Math.abs(a * e - b * d) < 1e-6) return translation(p.x - at.x, p.y - at.y);
  return [a, b, p.x - a * at.x - b * at.y, d, e, p.y - d * at.x - e * at.y, 0, 0, 1];
}
