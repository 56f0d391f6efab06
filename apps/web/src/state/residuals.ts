import type { Plan } from '@lurn/core/plan';
import type { Span } from './bench';

export interface SpotResidual {
  /** Over the range, and on one frame, in pixels; NaN where nothing is known. */
  readonly rms: number;
  readonly here: number;
}

/** How far a spot lies from where the solved motion puts it; nothing where the plan was made without it. */
export function residualOf(plan: Plan | null, id: string, { from, to }: Span, frame: number): SpotResidual {
  const values = plan?.motion.byId[id]?.residuals;
  if (!values) return { rms: NaN, here: NaN };
  let sum = 0;
  let n = 0;
  for (let f = from; f <= to; f++) {
    if (!(values[f] >= 0)) continue;
    sum += values[f] ** 2;
    n++;
  }
  return { rms: n > 0 ? Math.sqrt(sum / n) : NaN, here: values[frame] ?? NaN };
}
