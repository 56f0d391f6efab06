import type { Size } from '../framing/framing.js';
import type { Matrix3 } from '../geometry/matrix.js';
import type { MotionMesh } from '../plan/plan-to-source.js';

export interface MotionFrame {
  readonly frame: number;
  readonly motion: Matrix3;
  readonly correction: Matrix3;
  readonly framing: Matrix3;
  /** What was done where the correction alone does not tell it; null where it does. */
  readonly mesh: MotionMesh | null;
  /** NaN where nothing was measured; written as null. */
  readonly residual: number;
}

/** Writes MOTION.json, one frame a line. */
export function writeMotion(
  clip: Size & { readonly frames: number; readonly fps: number },
  ref: number,
  zoom: number,
  frames: readonly MotionFrame[],
  told: { readonly held?: string; readonly cuts?: readonly number[] } = {},
): string {
  const head = JSON.stringify({ clip, ref, zoom, ...told }).slice(0, -1);
  const rows = frames.map(({ frame, motion, correction, framing, mesh, residual }) =>
    JSON.stringify({
      frame,
      motion,
      correction,
      framing,
      ...(mesh && { mesh: writtenMesh(mesh) }),
      residual_px: Number.isNaN(residual) ? null : Math.round(residual * 1e4) / 1e4,
    }),
  );
  return `${head},"frames":[\n${rows.join(',\n')}\n]}\n`;
}

/** A mesh as it is written, each place to a ten-thousandth of a pixel. */
export function writtenMesh({ columns, rows, to }: MotionMesh): object {
  const round = (v: number) => Math.round(v * 1e4) / 1e4;
  const places = Array.from({ length: to.length / 2 }, (_, k) => [round(to[2 * k]), round(to[2 * k + 1])]);
  return { columns, rows, to: places };
}
