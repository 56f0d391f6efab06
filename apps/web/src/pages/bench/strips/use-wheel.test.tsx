/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { fireEvent, render, screen } from '@testing-library/react';
import { scaleLinear } from 'd3-scale';
import { useRef } from 'react';
import { bench, setBench } from '../../../state/bench';
import { openBench } from '../../../testing/open-bench';
import { LABEL } from './axis';
import { useWheel } from './useWheel';

/** 40 frames over 390 pixels. */
const INNER = 390;
function Host() {
  const host = useRef<HTMLDivElement>(null);
  useWheel(host, scaleLinear([0, 39], [0, INNER]), INNER);
  return <div ref={host} data-testid="host" />;
}

let shown: ReturnType<typeof render>;
let drawn: FrameRequestCallback[] = [];
const draw = () => drawn.splice(0).forEach((f) => f(0));
const wheel = (init: WheelEventInit) => fireEvent.wheel(screen.getByTestId('host'), { clientY: 90, ...init });

beforeEach(() => {
  openBench();
  setBench({ timeView: null });
  drawn = [];
  jest.spyOn(window, 'requestAnimationFrame').mockImplementation((f) => drawn.push(f));
  jest.spyOn(window, 'cancelAnimationFrame').mockImplementation(() => (drawn = []));
  shown = render(<Host />);
});
afterEach(() => jest.restoreAllMocks());

it('zooms about the pointer once a picture, by all that was turned meanwhile', () => {
  // Over frame 10.
  for (let i = 0; i < 4; i++) wheel({ deltaY: -120, ctrlKey: true, clientX: LABEL + 100 });
  expect(bench().timeView).toBeNull();
  expect(drawn).toHaveLength(1);
  draw();
  const { from, to } = bench().timeView!;
  expect(to - from).toBeCloseTo(39 * Math.exp(-480 * 0.002), 6);
  expect((10 - from) / (to - from)).toBeCloseTo(10 / 39, 6);
  draw();
  expect(bench().timeView).toEqual({ from, to });
});

it('moves sideways, and leaves a plain turn over the rows to them', () => {
  setBench({ timeView: { from: 10, to: 20 } });
  wheel({ deltaX: 39, deltaY: 3 });
  wheel({ deltaX: 39, deltaY: 0 });
  draw();
  expect(bench().timeView).toEqual({ from: 12, to: 22 });
  // Not prevented: the rows scroll.
  expect(wheel({ deltaY: 120 })).toBe(true);
  expect(drawn).toEqual([]);
  // Over the ruler it zooms without Ctrl.
  expect(wheel({ deltaY: -120, clientY: 5, clientX: LABEL + 100 })).toBe(false);
  expect(drawn).toHaveLength(1);
});

it('is forgotten when the strips go', () => {
  wheel({ deltaY: -120, ctrlKey: true });
  expect(drawn).toHaveLength(1);
  shown.unmount();
  expect(drawn).toEqual([]);
});
