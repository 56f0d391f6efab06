import { chain, invert, scaling, translation, type Matrix3 } from '../geometry/matrix.js';

export interface Size {
  readonly width: number;
  readonly height: number;
}

/** What part of the steadied picture fills the frame. */
export interface Framing {
  /** 1 leaves the size as it is. */
  readonly zoom: number;
  /** How far the picture is moved in the frame, in source pixels at zoom 1, to the right and down. */
  readonly shiftX: number;
  readonly shiftY: number;
}

export const PLAIN_FRAMING: Framing = { zoom: 1, shiftX: 0, shiftY: 0 };

/** F: steadied coordinates to output pixels. The output shows the frame's width over `output.width` pixels. */
export function framingMatrix(
  { zoom, shiftX, shiftY }: Framing,
  source: Size,
  output: Size = source,
): Matrix3 {
  const cx = source.width / 2;
  const cy = source.height / 2;
  return chain(
    scaling(output.width / source.width, output.height / source.height),
    translation(cx + shiftX, cy + shiftY),
    scaling(zoom),
    translation(-cx, -cy),
  );
}

/**
 * The smallest zoom at which one frame shows no edge, exactly.
 *
 * A corner of the output lies at c + u k in steadied coordinates, with u = 1 / zoom; the inverse correction
 * takes it to (N(u) / D(u)) in the source, N and D linear in u. Staying inside the source - 0 <= N <= W D,
 * D > 0 - is then linear in u, and the largest feasible u is a minimum of quotients. The picture of a convex
 * frame is convex, so its four corners suffice.
 *
 * @returns Infinity when no zoom helps: the centre of the frame already lies outside the source.
 */
export function neededZoom(
  correction: Matrix3,
  shift: Pick<Framing, 'shiftX' | 'shiftY'>,
  source: Size,
): number {
  const m = invert(correction);
  const { width: w, height: h } = source;
  const cx = w / 2;
  const cy = h / 2;
  let u = Infinity;
  const keep = (at0: number, slope: number): void => {
    if (at0 < 0) u = Math.min(u, slope > 0 ? -1 : 0);
    else if (slope < 0) u = Math.min(u, at0 / -slope);
  };
  const x0 = m[0] * cx + m[1] * cy + m[2];
  const y0 = m[3] * cx + m[4] * cy + m[5];
  const d0 = m[6] * cx + m[7] * cy + m[8];
  for (const sx of [-1, 1]) {
    for (const sy of [-1, 1]) {
      const kx = (sx * w) / 2 - shift.shiftX;
      const ky = (sy * h) / 2 - shift.shiftY;
      const x1 = m[0] * kx + m[1] * ky;
      const y1 = m[3] * kx + m[4] * ky;
      const d1 = m[6] * kx + m[7] * ky;
      keep(d0, d1);
      keep(x0, x1);
      keep(y0, y1);
      keep(w * d0 - x0, w * d1 - x1);
      keep(h * d0 - y0, h * d1 - y1);
    }
  }
  return u > 0 ? 1 / u : Infinity;
}

export interface FitZoom {
  /** The smallest zoom at which no frame of the range shows an edge; Infinity when there is none. */
  readonly zoom: number;
  /** The frame that forces it. */
  readonly frame: number;
}

/** The largest needed zoom over frames `from` to `to`, both included. */
export function fitZoom(needed: Float64Array, from: number, to: number): FitZoom {
  let frame = from;
  for (let i = from; i <= to; i++) if (needed[i] > needed[frame]) frame = i;
  return { zoom: needed[frame], frame };
}

/** True when a frame that needs `needed` shows an edge at `zoom`; a billionth is forgiven for rounding. */
export function showsEdge(needed: number, zoom: number): boolean {
  return needed > zoom * (1 + 1e-9);
}
