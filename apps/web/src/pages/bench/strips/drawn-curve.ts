import type { Pen } from '../../../components/StripCanvas';
import { seenColumns } from '../../../lib/summary';

/** How thick a curve is, in pixels. */
const THICK = 1.3;

/** One curve to be drawn. */
export interface DrawnCurve {
  readonly values: ArrayLike<number>;
  /** Where a value lies along time, in pixels; grows evenly. */
  readonly at: (i: number) => number;
  /** How high it lies; a value that is NaN or infinite breaks the curve. */
  readonly y: (value: number) => number;
  readonly colour: string;
  /** Lengths drawn and left out in turn. */
  readonly dash?: readonly [number, number];
}

/**
 * Draws a curve: from value to value where there is room for it, else all that lies within each column of a pixel, from
 * its lowest to its highest. Cost: a few steps a pixel, whatever the length.
 */
export function drawCurve(pen: Pen, curve: DrawnCurve): void {
  if (curve.at(1) - curve.at(0) < 1) drawColumns(pen, curve);
  else drawLine(pen, curve);
}

function drawLine({ context, width, colour }: Pen, { values, at, y, dash = [1, 0], ...own }: DrawnCurve) {
  const step = at(1) - at(0);
  const end = Math.min(values.length, Math.ceil((width - at(0)) / step) + 2);
  context.beginPath();
  let broken = true;
  for (let i = Math.max(0, Math.floor(-at(0) / step) - 1); i < end; i++) {
    if (!Number.isFinite(values[i])) broken = true;
    else if (broken) {
      broken = false;
      context.moveTo(at(i), y(values[i]));
    } else context.lineTo(at(i), y(values[i]));
  }
  context.strokeStyle = colour(own.colour);
  context.lineWidth = THICK;
  context.lineJoin = 'round';
  context.setLineDash(dash[1] > 0 ? [...dash] : []);
  context.stroke();
}

function drawColumns(
  { context, width, colour, snap }: Pen,
  { values, at, y, dash = [1, 0], ...own }: DrawnCurve,
) {
  const { low, high } = seenColumns(values, at, width);
  context.fillStyle = colour(own.colour);
  const [drawn, left] = dash;
  for (let px = 0; px < low.length; px++) {
    if (!Number.isFinite(low[px]) || !Number.isFinite(high[px]) || px % (drawn + left) >= drawn) continue;
    const [one, other] = [y(low[px]), y(high[px])];
    const top = Math.min(one, other) - THICK / 2;
    context.fillRect(snap(px), top, snap(px + 1) - snap(px), Math.abs(one - other) + THICK);
  }
}
