/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, fireEvent, render, screen } from '@testing-library/react';
import { planFor } from '@lurn/core/plan';
import { EMPTY_TRACK, withSamples } from '@lurn/core/track';
import { shotRequest } from '@lurn/model';
import { bench, setBench } from '../../../state/bench';
import { shotDocument, shotState } from '../../../state/shot';
import { FRAMES, INFO, openBench, shotWith, spot } from '../../../testing/open-bench';
import { FramePanel } from './FramePanel';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), error: jest.fn() } }));
jest.mock('./TradeChart', () => ({ TradeChart: () => null }));

/** What the frame shows: zoom, edges, delivery, shift. */

/** A spot that jumps to one side on one frame. @param by  pixels */
const jumping = (by: number) =>
  withSamples(
    EMPTY_TRACK,
    Array.from({ length: FRAMES }, (_, frame) => ({
      ...{ frame, x: frame === 20 ? 300 + by : 300, y: 180, confidence: 1 },
      state: frame === 0 ? ('pinned' as const) : ('tracked' as const),
    })),
  );
const open = (by = 20) => {
  openBench(shotWith([spot('gable'), jumping(by)]));
  setBench({ borrowed: [] });
};
/** Plans the shot as it stands now. */
const plan = () =>
  act(() => setBench({ steady: planFor(shotRequest(shotState(), INFO), null), steadyOf: shotState() }));
const field = (label: string) =>
  screen.getByRole<HTMLInputElement>('textbox', { name: new RegExp(`^${label}(,|$)`) });
const type = (label: string, text: string) => {
  fireEvent.change(field(label), { target: { value: text } });
  fireEvent.blur(field(label));
};
const choose = (label: string, value: string) =>
  fireEvent.change(screen.getByRole('combobox', { name: label }), { target: { value } });
const press = (name: string | RegExp) => fireEvent.click(screen.getByRole('button', { name }));
const read = (label: string) => screen.getByText(label).nextElementSibling!.textContent;

beforeEach(() => open());

it('says that zoom is computed once something is held', () => {
  openBench();
  render(<FramePanel />);
  expect(screen.getByText(/once something is held/)).toBeTruthy();
  expect(screen.queryByText('Punch-in')).toBeNull();
});

it('tells the fit zoom and the frames that need it, and goes there', () => {
  render(<FramePanel />);
  plan();
  // 20 px of 640 on one side: what is left of a half has to fill it.
  expect(read('Least without an edge')).toBe('106.67 %');
  expect(read('Applied')).toBe('106.67 %');
  expect(screen.getByText(/No edge shows on any frame/)).toBeTruthy();
  press(/^20: 106\.7 %/);
  expect(bench().frame).toBe(20);
});

it('shows edges where no zoom is wanted, and says where', () => {
  render(<FramePanel />);
  press('None');
  plan();
  expect(screen.getByText(/An edge shows on 1 frame/).textContent).toMatch(/^▲/);
  choose('Beyond them', 'mirrored');
  plan();
  expect(screen.getByText(/An edge shows on 1 frame, and is mirrored/)).toBeTruthy();
  press('The next worst');
  expect(bench().frame).toBe(20);
  choose('Beyond them', 'borrowed');
  act(() =>
    setBench({
      borrowed: [
        { frame: 20, unseen: 0.012, cut: 0 },
        { frame: 31, unseen: 0, cut: 5 },
      ],
    }),
  );
  expect(screen.getByText(/On 1 frame up to 1\.2 % of the picture was never seen/)).toBeTruthy();
  expect(
    screen.getByText(/On 1 frame something that moves otherwise reaches the edge, and is cut off/),
  ).toBeTruthy();
});

it('says so where no zoom can hide them', () => {
  open(400);
  render(<FramePanel />);
  plan();
  expect(screen.getByText(/No zoom hides the edges: on frame 20/)).toBeTruthy();
});

it('zooms by hand, with arithmetic, and breathes no quicker than it may', () => {
  render(<FramePanel />);
  type('By hand, on top', '100 + 4.5');
  expect(shotDocument().framing.zoom).toBeCloseTo(1.045);
  press('Breathing');
  type('Changes at most', '2');
  expect(shotDocument().framing).toMatchObject({ mode: 'breathing', rate: 0.02 });
});

it('delivers a listed size, or one of one’s own that is even, and says what is left of the pixels', () => {
  render(<FramePanel />);
  const size = () => shotDocument().deliveries[0].size;
  choose('Size', '1280x720');
  expect(size()).toEqual({ width: 1280, height: 720 });
  plan();
  expect(screen.getByText(/The picture is enlarged by/)).toBeTruthy();
  choose('Size', 'own');
  expect(size()).toEqual({ width: 480, height: 270 });
  type('Width', '321');
  expect(size()).toEqual({ width: 322, height: 270 });
  plan();
  expect(screen.getByText('Every delivered pixel has at least one source pixel.')).toBeTruthy();
  choose('Size', 'source');
  expect(size()).toBeNull();
});

it('is shifted, and goes back to the middle', () => {
  render(<FramePanel />);
  const back = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Back to the middle' });
  expect(back().disabled).toBe(true);
  type('Across', '-12.5');
  type('Up and down', '4');
  expect(shotDocument().framing).toMatchObject({ shiftX: -12.5, shiftY: 4 });
  fireEvent.click(back());
  expect(shotDocument().framing).toMatchObject({ shiftX: 0, shiftY: 0 });
});
