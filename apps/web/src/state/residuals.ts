import type { Steady } from '@lurn/core';
import { solvedSpots, type ShotState } from '@lurn/model';
import type { Span } from './bench';

export interface SpotResidual {
  /** Place in the list that was solved from; -1 when the spot is not in it. */
  readonly index: number;
  /** Over the range, and on one frame, in pixels; NaN where nothing is known. */
  readonly rms: number;
  readonly here: number;
}

/** How far a spot lies from where the solved motion puts it. */
export function residualOf(
  plan: Steady | null,
  state: ShotState,
  id: string,
  { from, to }: Span,
  frame: number,
): SpotResidual {
  const index = solvedSpots(state).findIndex((s) => s.id === id);
  const values = plan?.motion.residuals[index];
  if (!values) return { index, rms: NaN, here: NaN };
  let sum = 0;
  let n = 0;
  for (let f = from; f <= to; f++) {
    if (Number.isNaN(values[f])) continue;
    sum += values[f] ** 2;
    n++;
  }
  return { index, rms: n > 0 ? Math.sqrt(sum / n) : NaN, here: values[frame] ?? NaN };
}
