/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, render, screen } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { spotsOf } from '@lurn/model';
import { bench, setBench } from '../../../state/bench';
import { shotDocument } from '../../../state/shot';
import type { SpotQuality } from '../../../state/spot-quality';
import { openBench } from '../../../testing/open-bench';
import { Suggestions } from './Suggestions';

const grip = { error: 0.04, slides: null, lookalike: null } as never;
const found = (lives: readonly number[]) =>
  lives.map((life, i) => ({ x: 40 + 60 * i, y: 50, frame: 0, life, of: 40, grip }));

/** The panel over a judge that finds features that live so long. */
function open(lives: readonly number[]): { asked: number[] } {
  const asked: number[] = [];
  openBench();
  const suggest = (count: number) => {
    asked.push(count);
    act(() => setBench({ suggestions: found(lives) as never }));
    return Promise.resolve();
  };
  render(<Suggestions quality={{ suggest } as unknown as SpotQuality} />);
  return { asked };
}
afterEach(() => act(() => setBench({ suggestions: [] })));

it('says where fewer hold than were asked for, and places those that do', async () => {
  const { asked } = open([40, 40, 40]);
  await userEvent.click(screen.getByRole('button', { name: 'Suggest 4' }));
  expect(asked).toEqual([4]);
  expect(screen.getByText('3 of 4: nothing else holds.')).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'Place all 3' }));
  expect(spotsOf(shotDocument())).toHaveLength(3);
  expect(bench().suggestions).toEqual([]);
});

it('says how many are seen throughout, where not all are, and nothing where all are', async () => {
  open([40, 39, 20, 12]);
  await userEvent.click(screen.getByRole('button', { name: 'Suggest 4' }));
  expect(screen.getByText('2 of 4 are seen throughout the range.')).toBeTruthy();
  act(() => setBench({ suggestions: found([40, 40, 39, 39]) as never }));
  expect(screen.queryByText(/throughout|nothing else/)).toBeNull();
});
