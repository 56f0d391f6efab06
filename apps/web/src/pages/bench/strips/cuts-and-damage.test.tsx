/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { fireEvent, render, screen } from '@testing-library/react';
import { scaleLinear } from 'd3-scale';
import type { ClipMade } from '@lurn/model';
import { bench, setBench } from '../../../state/bench';
import { cutHere } from '../../../state/cuts';
import { shotDocument } from '../../../state/shot';
import { INFO, openBench } from '../../../testing/open-bench';
import { Notes } from '../panels/Notes';
import { CutLines } from './CutLines';
import { Ruler } from './Ruler';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), error: jest.fn(), success: jest.fn() } }));

/** What lies on the ruler of the clip itself: where it is cut, and where it is damaged. */

const x = scaleLinear([0, 40], [0, 800]);

beforeEach(() => openBench());

it('cuts that were found are told; those set by hand can be taken away', () => {
  const made = { scene: { cuts: [30], movers: [] } } as unknown as ClipMade;
  setBench({ clip: { ...bench().clip, made }, frame: 12 });
  cutHere();
  render(<CutLines x={x} height={100} />);
  expect(screen.getByTitle(/another picture begins on frame 30/)).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'Take the cut on frame 12 away' }));
  expect(shotDocument().cuts).toEqual([]);
  expect(screen.queryByRole('button')).toBeNull();
});

it('a fade is told as one, with the frames on which both pictures are seen', () => {
  const made = { scene: { cuts: [20, 30], fades: [{ from: 16, to: 26, at: 20 }], movers: [] } };
  setBench({ clip: { ...bench().clip, made: made as unknown as ClipMade } });
  const { container } = render(<CutLines x={x} height={100} />);
  expect(screen.getByTitle(/Fade: .* frames 16 to 26/).textContent).toBe('fade');
  expect(screen.getByTitle(/another picture begins on frame 30/).textContent).toBe('cut');
  const spans = container.querySelectorAll('[data-fade]');
  expect([...spans].map((s) => s.getAttribute('width'))).toEqual(['200']);
});

it('the panel cuts on the frame that is shown, and joins there', () => {
  setBench({ frame: 7 });
  render(<Notes />);
  fireEvent.click(screen.getByRole('button', { name: 'Cut here' }));
  expect(shotDocument().cuts).toEqual([7]);
  fireEvent.click(screen.getByRole('button', { name: 'Join here' }));
  expect(shotDocument().cuts).toEqual([]);
});

it('damaged frames are hatched where they lie, and said to be', () => {
  setBench({ info: { ...INFO, damaged: [{ from: 4, to: 9 }, { from: 20, to: 20 }] } }); // prettier-ignore
  const { container } = render(<Ruler x={x} width={800} frameAt={() => 0} />);
  const marks = [...container.querySelectorAll('[data-damaged]')];
  expect(marks.map((m) => m.querySelector('title')!.textContent)).toEqual([
    expect.stringContaining('Frames 4 to 9: the file is damaged'),
    expect.stringContaining('Frame 20:'),
  ]);
  expect(marks[0].querySelector('rect')!.getAttribute('width')).toBe('120');
});
