import type { Size } from '../framing/framing.js';
import type { Matrix3 } from '../geometry/matrix.js';

export interface MotionFrame {
  readonly frame: number;
  readonly motion: Matrix3;
  readonly correction: Matrix3;
  readonly framing: Matrix3;
  /** NaN where nothing was measured; written as null. */
  readonly residual: number;
}

/** Writes MOTION.json (conventions), one frame a line. */
export function writeMotion(
  clip: Size & { readonly frames: number; readonly fps: number },
  ref: number,
  zoom: number,
  frames: readonly MotionFrame[],
  told: { readonly held?: string; readonly cuts?: readonly number[] } = {},
): string {
  const head = JSON.stringify({ clip, ref, zoom, ...told }).slice(0, -1);
  const rows = frames.map(({ frame, motion, correction, framing, residual }) =>
    JSON.stringify({
      frame,
      motion,
      correction,
      framing,
      residual_px: Number.isNaN(residual) ? null : Math.round(residual * 1e4) / 1e4,
    }),
  );
  return `${head},"frames":[\n${rows.join(',\n')}\n]}\n`;
}
