import { spotById, surfaceById } from '@lurn/model';
import { chain, scaling, translation, type Matrix3 } from '@lurn/core/geometry';
import { layOut } from '../../../lib/view';
import { bench, type BenchState } from '../../../state/bench';
import { shotDocument } from '../../../state/shot';

export interface Inset {
  readonly name: 'patch' | 'reach' | 'corner';
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly toPane: Matrix3;
}

/** How much is seen round a corner of a surface, in pixels. */
const CORNER = { patch: [11, 11], reach: [30, 20] } as const;
const SIDE = 208;
const REACH_HEIGHT = 120;
const MARGIN = 8;

/**
 * Where the magnifier's two insets lie: the patch with its pixels large, and below it the whole reach. They keep
 * to the side of the source pane that the pointer is not on.
 */
export function magnifierPanes(
  at: NonNullable<BenchState['magnifier']>,
  width: number,
  height: number,
): Inset[] {
  const surface = surfaceById(shotDocument(), at.spot);
  const spot = surface ? CORNER : spotById(shotDocument(), at.spot);
  const { layout, wipe, info, camera } = bench();
  const pane = layOut(layout, width, height, wipe).find((p) => p.kind === 'source');
  if (!spot || !pane) return [];
  const onRight = camera.scale === null ? at.x > info.width / 2 : at.x > camera.x;
  const x = onRight ? pane.x + MARGIN : pane.x + pane.width - SIDE - MARGIN;
  const [hw, hh] = spot.patch;
  const patchScale = SIDE / (2 * Math.max(hw, hh) + 9);
  const reachScale = Math.min(
    SIDE / (2 * (hw + spot.reach[0]) + 9),
    REACH_HEIGHT / (2 * (hh + spot.reach[1]) + 9),
  );
  const centred = (w: number, h: number, s: number) =>
    chain(translation(w / 2, h / 2), scaling(s), translation(-at.x, -at.y));
  const close = { x, y: MARGIN, width: SIDE, height: SIDE, toPane: centred(SIDE, SIDE, patchScale) };
  if (surface) return [{ name: 'corner', ...close }];
  return [
    { name: 'patch', ...close },
    {
      name: 'reach',
      x,
      y: MARGIN + SIDE + 1,
      width: SIDE,
      height: REACH_HEIGHT,
      toPane: centred(SIDE, REACH_HEIGHT, reachScale),
    },
  ];
}
