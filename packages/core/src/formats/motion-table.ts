import type { Plan } from '../plan/plan.js';

const DEGREES = 180 / Math.PI;

/** Columns of the motion in numbers: measured, then the correction applied, then how well the spots agree. */
export const MOTION_COLUMNS = [
  'frame',
  'time_s',
  'x_px',
  'y_px',
  'rotation_deg',
  'scale_pct',
  'correction_x_px',
  'correction_y_px',
  'correction_rotation_deg',
  'correction_scale_pct',
  'residual_px',
] as const;

/** Decimals without a negative zero. */
function fixed(value: number, decimals: number): string {
  const text = value.toFixed(decimals);
  return Number(text) === 0 ? (0).toFixed(decimals) : text;
}

/**
 * Measured motion beside the correction, frame by frame, in the order of {@link MOTION_COLUMNS}. Where a component is
 * taken out whole its correction is the opposite: position and rotation negated, scale inverted. Places are those of the
 * pivot; angles are positive clockwise. The residual is empty on frames without a sample.
 *
 * @param times  seconds of every frame of the clip
 * @param from, to  frames, both included
 */
export function motionTable(
  { motion: { parts, residual }, kept }: Pick<Plan, 'motion' | 'kept'>,
  times: ArrayLike<number>,
  from: number,
  to: number,
): string[][] {
  return Array.from({ length: Math.max(0, to - from + 1) }, (_, i) => {
    const f = from + i;
    const [m, l] = [parts[f], kept[f]];
    return [
      String(f),
      fixed(times[f] ?? 0, 4),
      fixed(m.x, 3),
      fixed(m.y, 3),
      fixed(m.rotation * DEGREES, 4),
      fixed(Math.exp(m.logScale) * 100, 3),
      fixed(l.x - m.x, 3),
      fixed(l.y - m.y, 3),
      fixed((l.rotation - m.rotation) * DEGREES, 4),
      fixed(Math.exp(l.logScale - m.logScale) * 100, 3),
      Number.isNaN(residual[f]) ? '' : fixed(residual[f], 3),
    ];
  });
}
