/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { render, screen } from '@testing-library/react';
import { scaleLinear } from 'd3-scale';
import { EMPTY_TRACK, withSamples, type SampleState } from '@lurn/core/track';
import { openBench } from '../../../testing/open-bench';
import { recordedContext, type Drawn } from '../../../testing/recorded-canvas';
import { RIBBON } from './axis';
import { Curve, type CurveLine } from './Curve';
import { drawCurve } from './drawn-curve';
import { Ribbon } from './Ribbon';
import { usePreparedRibbons } from './usePreparedRibbons';

/** What is drawn along time: curves and ribbons, near and from afar. */

/** Draws on a canvas of 1000 by 40 pixels. */
function drawnCurve(curve: Partial<Parameters<typeof drawCurve>[1]>): Drawn {
  const { drawn, context } = recordedContext();
  const pen = {
    context,
    width: 1000,
    height: 40,
    snap: (at: number) => Math.round(at),
    colour: (css: string) => css,
  };
  drawCurve(pen, { values: [], at: (i) => i, y: (v) => v, colour: 'bone', ...curve });
  return drawn;
}

describe('a curve', () => {
  it('goes from value to value where there is room, and breaks where there is none', () => {
    const { lines, rects } = drawnCurve({ values: [1, 2, NaN, 4, 5, 6], at: (i) => 10 * i, dash: [5, 4] });
    expect(lines.map((l) => l.points)).toEqual([
      [[0, 1], [10, 2]],
      [[30, 4], [40, 5], [50, 6]],
    ]); // prettier-ignore
    expect(lines[0].dash).toEqual([5, 4]);
    expect(rects).toHaveLength(0);
  });

  it('is broken where a value is infinite, near and from afar', () => {
    const values = Float64Array.from({ length: 5000 }, (_, i) => (i >= 2000 && i < 3000 ? Infinity : 5));
    const afar = drawnCurve({ values, at: (i) => i / 10 }).rects.map((r) => r.x);
    expect(afar.filter((px) => px > 200 && px < 299)).toEqual([]);
    expect(afar).toContain(100);
    expect(afar).toContain(400);
    const near = drawnCurve({ values, at: (i) => 2 * (i - 1800) }).lines;
    expect(near[0].points.at(-1)![0]).toBe(2 * 199);
  });

  it('is drawn only as far as it is seen', () => {
    const values = Float64Array.from({ length: 9000 }, (_, i) => i);
    const { lines } = drawnCurve({ values, at: (i) => 20 * (i - 4000) });
    expect(lines[0].points.length).toBeLessThan(56);
    expect(lines[0].points[0][0]).toBeLessThanOrEqual(0);
    expect(lines[0].points.at(-1)![0]).toBeGreaterThanOrEqual(1000);
  });

  it('from afar is a column a pixel that holds every value, dashes by leaving columns out', () => {
    const values = Float64Array.from({ length: 50_000 }, (_, i) => (i === 20_000 ? 30 : 8 + (i % 2)));
    const whole = drawnCurve({ values, at: (i) => i / 50 });
    expect(whole.lines).toHaveLength(0);
    expect(whole.rects).toHaveLength(1000);
    const highest = whole.rects.filter((r) => r.y + r.height > 30);
    expect(highest.map((r) => r.x)).toEqual([400]);
    expect(whole.rects.every((r) => r.y < 8 && r.y + r.height > 9)).toBe(true);
    const dashed = drawnCurve({ values, at: (i) => i / 50, dash: [3, 2] });
    expect(dashed.rects).toHaveLength(600);
  });
});

describe('on the page', () => {
  let drawn: Drawn;
  beforeEach(() => {
    const recorded = recordedContext();
    drawn = recorded.drawn;
    jest.spyOn(HTMLCanvasElement.prototype, 'getContext').mockReturnValue(recorded.context as never);
    openBench();
  });
  afterEach(() => jest.restoreAllMocks());

  const x = scaleLinear([0, 39], [0, 780]);
  const scrub = {} as never;

  it('a row of curves tells the value where the pointer is, and marks frames and a limit', () => {
    const lines: CurveLine[] = [
      { values: [100, 108.4, NaN], colour: 'var(--color-primary)', name: 'needed' },
    ];
    const one = (hover: number | null) => (
      <Curve {...{ x, scrub, hover, lines }} width={780} label="Zoom" from={3} limit={105} marks={[4, 20]}
        format={(v) => `${v.toFixed(1)} %`} />
    ); // prettier-ignore
    const { rerender, container } = render(one(4));
    expect(screen.getByText('108.4 %')).toBeTruthy();
    rerender(one(5));
    expect(screen.getByText('–')).toBeTruthy();
    expect([...container.querySelectorAll('title')].map((t) => t.textContent)).toEqual([
      'An edge shows on frame 4',
      'An edge shows on frame 20',
    ]);
    expect(container.querySelectorAll('line')).toHaveLength(1);
    expect(drawn.lines.length).toBeGreaterThan(0);
  });

  const track = (states: (SampleState | null)[]) =>
    withSamples(
      EMPTY_TRACK,
      states.flatMap((state, frame) => (state ? [{ frame, x: 5, y: 5, confidence: 0.5, state }] : [])),
    );
  const ribbonOf = (states: (SampleState | null)[], used = true) => {
    render(<Ribbon spot={{ colour: 0, used }} track={track(states)} x={x} width={780} />);
    return drawn.rects;
  };

  it('a ribbon is as thick as it is sure, with gaps where there is no sample', () => {
    const [first, second, ...more] = ribbonOf(['pinned', 'tracked', 'tracked', null, null, 'tracked']);
    expect([first.x, first.x + first.width]).toEqual([-10, 50]);
    expect([second.x, second.x + second.width]).toEqual([90, 110]);
    expect(first.height).toBeCloseTo((RIBBON / 2 - 2) * 2 * 0.5);
    expect(first.y + first.height / 2).toBeCloseTo(RIBBON / 2);
    expect(more).toHaveLength(0);
  });

  it('coasted frames are dashes of another colour, bridged ones a line; what is left out is faint', () => {
    const rects = ribbonOf(['tracked', 'coasted', 'coasted', 'bridged', 'bridged', 'tracked'], false);
    expect(rects[0].alpha).toBe(0.3);
    const along = rects.slice(1);
    expect(along.map((r) => Math.round(r.width))).toEqual([12, 12, 40]);
    expect(along[0].fill).not.toBe(along[2].fill);
  });

  it('long tracks are summed up while nothing is to be done, and that is left when the page is', () => {
    const asked: IdleRequestCallback[] = [];
    const left = jest.fn();
    Object.assign(globalThis, {
      requestIdleCallback: (work: IdleRequestCallback) => asked.push(work),
      cancelIdleCallback: left,
    });
    const long = track(Array.from({ length: 12_000 }, () => 'tracked' as const));
    const Strip = () => {
      usePreparedRibbons({ long, again: { ...long }, short: track(['tracked']) });
      return null;
    };
    const { unmount } = render(<Strip />);
    const rooms = [20, 2];
    asked[0]({ didTimeout: false, timeRemaining: () => rooms.shift() ?? 0 });
    expect(asked).toHaveLength(2);
    asked[1]({ didTimeout: false, timeRemaining: () => 20 });
    expect(asked).toHaveLength(2);
    unmount();
    expect(left).toHaveBeenCalledWith(2);
  });
});
