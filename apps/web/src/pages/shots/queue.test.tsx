/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { fireEvent, render, screen, waitFor, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import type { QueuedRender, QueueSummary, WorkerSummary } from '@lurn/model';
import { api } from '../../lib/api';
import { Queue } from './Queue';

/** The queue of all shots: in order, with what may be done with each, and the machines. */

const one = (id: string, more: Partial<QueuedRender> = {}) =>
  ({ id, clip: id, clipId: id, status: 'waiting', done: 0, total: 100, secondsLeft: null, bytes: null, error: null, delivery: 'Steadied', format: 'MP4, H.264', ...more }) as QueuedRender; // prettier-ignore
const worker = (name: string, more: Partial<WorkerSummary> = {}): WorkerSummary => ({
  ...{ id: name, name, threads: 2, doing: null, done: 0, error: null, silent: 0, gone: false },
  ...more,
});

async function open(queue: Partial<QueueSummary>): Promise<void> {
  jest
    .spyOn(api, 'queue')
    .mockResolvedValue({ renders: [], shared: false, away: false, workers: [], ...queue });
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Queue onClose={() => undefined} />
    </QueryClientProvider>,
  );
  await screen.findByRole('list', { name: 'Renders in order' });
  await waitFor(() => expect(screen.queryByText(/Rendered on this machine|Machines/)).not.toBeNull());
}
const row = (name: string) => screen.getByRole('listitem', { name: `${name}, Steadied` });
afterEach(() => jest.restoreAllMocks());

const renders = [
  one('ridge', { status: 'running', done: 40, secondsLeft: 6, bytes: 2e6 }),
  one('station'),
  one('sign'),
  one('flag', { status: 'stopped', done: 30 }),
  one('gondola', { status: 'failed', error: { code: 'x', message: 'The disk is full.' } }),
];

it('tells how far each is, and how long all of it takes', async () => {
  await open({ renders });
  expect(row('ridge').textContent).toContain('40 of 100, 6.0 s left');
  expect(row('flag').textContent).toContain('stopped, what is done is kept, 30 of 100');
  expect(within(row('gondola')).getByText('The disk is full.')).toBeTruthy();
  // 60 frames in 6 s, and 200 more wait.
  expect(screen.getByRole('status').textContent).toBe('26 s left in all');
});

it('is put into another order by a press and by dragging', async () => {
  await open({ renders });
  const arranged = jest.spyOn(api, 'arrangeRenders').mockResolvedValue(undefined);
  expect(within(row('station')).queryByRole('button', { name: /sooner/ })).toBeNull();
  await userEvent.click(within(row('sign')).getByRole('button', { name: 'sign: sooner' }));
  expect(arranged).toHaveBeenLastCalledWith(['sign', 'station']);
  fireEvent.dragStart(row('station'));
  fireEvent.drop(row('flag'));
  expect(arranged).toHaveBeenLastCalledWith(['sign', 'station']);
  expect(row('ridge').getAttribute('draggable')).toBe('false');
});

it('stops what runs, and goes on with what was stopped or has failed', async () => {
  await open({ renders });
  const stop = jest.spyOn(api, 'stopRender').mockResolvedValue({} as never);
  const goOn = jest.spyOn(api, 'goOn').mockResolvedValue({} as never);
  await userEvent.click(within(row('ridge')).getByRole('button', { name: 'ridge: stop' }));
  await userEvent.click(within(row('flag')).getByRole('button', { name: 'flag: go on where it was' }));
  await userEvent.click(within(row('gondola')).getByRole('button', { name: 'gondola: go on where it was' }));
  expect(stop).toHaveBeenCalledWith('ridge');
  expect(goOn.mock.calls).toEqual([['flag'], ['gondola']]);
});

it('tells what each machine does, which is silent, and that none is there while something waits', async () => {
  await open({
    ...{ renders, shared: true, away: true },
    workers: [
      worker('cutting room', { doing: { render: 'ridge', part: 0, frames: 12 }, done: 3 }),
      worker('summit', { gone: true, silent: 40 }),
      worker('valley', { error: 'The server does not answer.' }),
    ],
  });
  const machines = screen.getByRole('region', { name: 'Machines' }).textContent!;
  expect(machines).toContain('ridge, 12 frames');
  expect(machines).toContain('silent for 40 s: its parts go to others');
  expect(machines).toContain('The server does not answer.');
  expect(machines).toContain('The queue does not answer (Redis)');
});

it('says that no machine is at work', async () => {
  await open({ renders, shared: true });
  expect(screen.getByText(/No machine is at work/).textContent).toMatch(/^▲/);
});
