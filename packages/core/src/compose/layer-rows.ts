import type { WarpEvaluator } from '../geometry/warp.js';
import type { Box } from './layer-grid.js';
import type { Steps } from './raster-sampler.js';
import { placesRoom } from './row-room.js';

/** Places of one row after the other. */
export class LayerRows {
  readonly xs: Float64Array;
  readonly ys: Float64Array;
  readonly steps: Steps;
  private readonly even: boolean;

  constructor(
    private readonly place: WarpEvaluator,
    private readonly box: Box,
    room: 0 | 1 = 0,
  ) {
    const n = box.x1 - box.x0;
    const column = () => new Float64Array(n);
    ({ xs: this.xs, ys: this.ys } = placesRoom(room, n));
    this.steps = {
      ...{ spans: column(), reach: column(), xc: column(), xr: column(), yc: column(), yr: column() },
    };
    const corners = [box.x0, box.x1].flatMap((x) => [box.y0, box.y1].map((y) => place.scaleAt(x, y)));
    this.even = Math.max(...corners) - Math.min(...corners) < 1e-9;
    if (this.even) this.stepsAbout(box.x0 + 0.5, box.y0 + 0.5, 0, n);
  }

  go(row: number): void {
    const { place, box, xs } = this;
    place.row(row + 0.5, box.x0 + 0.5, box.x1 + 0.5, xs, this.ys);
    if (this.even) return;
    // They change little from one sample to the next.
    for (let i = 0; i < xs.length; i += STEP) this.stepsAbout(box.x0 + i + 0.5, row + 0.5, i, i + STEP);
  }

  private stepsAbout(x: number, y: number, from: number, to: number): void {
    const { place, steps } = this;
    const [left, right] = [place.at(x - 0.5, y), place.at(x + 0.5, y)];
    const [above, below] = [place.at(x, y - 0.5), place.at(x, y + 0.5)];
    const [xc, yc] = [right.x - left.x, right.y - left.y];
    const [xr, yr] = [below.x - above.x, below.y - above.y];
    steps.xc.fill(xc, from, to);
    steps.xr.fill(xr, from, to);
    steps.yc.fill(yc, from, to);
    steps.yr.fill(yr, from, to);
    steps.spans.fill(Math.max(1e-6, Math.sqrt(Math.abs(xc * yr - xr * yc))), from, to);
    steps.reach.fill(Math.max(Math.abs(xc) + Math.abs(xr), Math.abs(yc) + Math.abs(yr)) / 2, from, to);
  }
}

/** Samples that places are taken to change alike about. */
const STEP = 8;
