/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, fireEvent, render, renderHook, screen, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { MemoryRouter } from 'react-router';
import type { ClipSummary } from '@lurn/model';
import { api } from '../../lib/api';
import { useShotList } from '../../state/shots';
import { ShotsPage } from './ShotsPage';
import { useSelection } from './useSelection';

/** The list of shots with many clips in it. */

const added: File[] = [];
jest.mock('../../lib/events', () => ({ useServerEvents: () => undefined }));
jest.mock('./useUploads', () => ({
  useUploads: () => ({
    items: [],
    add: (files: Iterable<File>) => added.push(...files),
    remove: () => undefined,
  }),
}));

const clip = (i: number, more: Partial<ClipSummary> = {}): ClipSummary =>
  ({
    ...{ id: `c${i}`, name: `gondola ${String(i).padStart(2, '0')}`, status: 'ready', bytes: 1000 },
    ...{ createdAt: new Date(2026, 0, 1 + i).toISOString(), shakiness: (i * 7) % 40, error: null },
    info: { width: 1280, height: 720, fps: 25, frames: 100, duration: 4, audio: null, warning: null },
    ...{
      renders: [],
      work: { trackers: {}, trackedFrames: 0 },
      progress: 0,
      expected: null,
      secondsLeft: null,
      looked: null,
    },
    ...more,
  }) as unknown as ClipSummary;

async function open(clips: readonly ClipSummary[]): Promise<void> {
  jest.spyOn(api, 'clips').mockResolvedValue([...clips]);
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  render(
    <QueryClientProvider client={client}>
      <MemoryRouter>
        <ShotsPage />
      </MemoryRouter>
    </QueryClientProvider>,
  );
  await screen.findByRole('list', { name: 'Shots' });
  await screen.findAllByRole('listitem');
}

const names = () =>
  within(screen.getByRole('list', { name: 'Shots' }))
    .queryAllByRole('listitem')
    .map((item) => item.getAttribute('aria-label'));

beforeEach(() => {
  added.length = 0;
  useShotList.setState({ order: 'date', down: true, large: true });
});
afterEach(() => jest.restoreAllMocks());

describe('forty shots', () => {
  const forty = Array.from({ length: 40 }, (_, i) => clip(i));

  it('are found by parts of their name, and all back with Escape', async () => {
    await open(forty);
    expect(names()).toHaveLength(40);
    const search = screen.getByRole('searchbox', { name: 'Search' });
    await userEvent.type(search, 'DOLA 3');
    expect(names()).toHaveLength(13); // 03, 13, 23 and the thirties
    expect(screen.getByText('13 of 40 shots')).toBeTruthy();
    await userEvent.type(search, 'x');
    expect(screen.getByText(/No shot is called that/)).toBeTruthy();
    await userEvent.keyboard('{Escape}');
    expect(names()).toHaveLength(40);
  });

  it('are sorted by date, name and shake, either way', async () => {
    await open(forty);
    expect(names()[0]).toBe('gondola 39');
    await userEvent.selectOptions(screen.getByRole('combobox', { name: 'Sort by' }), 'Name');
    expect(names()[0]).toBe('gondola 00');
    await userEvent.click(screen.getByRole('button', { name: /From the lowest/ }));
    expect(names()[0]).toBe('gondola 39');
    await userEvent.selectOptions(screen.getByRole('combobox', { name: 'Sort by' }), 'Shake');
    expect(names()[0]).toBe('gondola 17'); // 17 * 7 % 40 = 39
  });

  it('are selected one by one, with all between, and deleted together', async () => {
    await open(forty);
    const remove = jest.spyOn(api, 'deleteClip').mockResolvedValue(undefined);
    const user = userEvent.setup();
    await user.click(screen.getByRole('checkbox', { name: 'Select gondola 39' }));
    await user.keyboard('{Shift>}');
    await user.click(screen.getByRole('checkbox', { name: 'Select gondola 36' }));
    await user.keyboard('{/Shift}');
    expect(screen.getByText('4 selected')).toBeTruthy();
    await user.click(screen.getByRole('checkbox', { name: 'Select gondola 37' }));
    expect(screen.getByText('3 selected')).toBeTruthy();
    await user.click(screen.getByRole('button', { name: /Delete them/ }));
    expect(remove.mock.calls.map(([id]) => id)).toEqual(['c39', 'c38', 'c36']);
    expect(screen.queryByText(/selected/)).toBeNull();
  });

  it('are small or large', async () => {
    await open(forty);
    const list = screen.getByRole('list', { name: 'Shots' });
    const columns = () => list.style.gridTemplateColumns;
    const large = columns();
    await userEvent.click(screen.getByRole('button', { name: 'Small cards' }));
    expect(columns()).not.toBe(large);
    expect(useShotList.getState().large).toBe(false);
  });
});

describe('the page', () => {
  it('takes a file that is dropped anywhere on it', async () => {
    await open([clip(1)]);
    const file = new File(['x'], 'summit.mp4');
    const dataTransfer = { types: ['Files'], files: [file] };
    fireEvent.dragEnter(document.body, { dataTransfer });
    expect(screen.getByText('Drop to bring the clip in')).toBeTruthy();
    fireEvent.dragEnter(screen.getByRole('main'), { dataTransfer });
    fireEvent.dragLeave(document.body, { dataTransfer });
    expect(screen.getByText('Drop to bring the clip in')).toBeTruthy();
    fireEvent.drop(screen.getByRole('main'), { dataTransfer });
    expect(added).toEqual([file]);
    expect(screen.queryByText('Drop to bring the clip in')).toBeNull();
  });

  it('tells of a clip that is being read how far it is and how long it takes', async () => {
    await open([
      clip(1, { status: 'reading', info: null, progress: 60, expected: 240, secondsLeft: 95 } as never),
    ]);
    const card = screen.getByRole('listitem', { name: 'gondola 01' });
    expect(card.textContent).toMatch(/25 ?%|60/);
    expect(card.textContent).toMatch(/min|1:35|95 s/);
  });

  it('tells of a clip that could not be read why', async () => {
    await open([
      clip(1, { status: 'failed', error: { code: 'x', message: '"gondola 01" is cut off.' } } as never),
    ]);
    expect(screen.getByRole('listitem', { name: 'gondola 01' }).textContent).toContain(
      '"gondola 01" is cut off.',
    );
  });
});

describe('a selection', () => {
  it('holds only what is in the list', () => {
    const { result, rerender } = renderHook(({ list }) => useSelection(list), {
      initialProps: { list: ['a', 'b', 'c'] },
    });
    act(() => result.current.all());
    rerender({ list: ['b'] });
    expect(result.current.size).toBe(1);
    act(() => result.current.toggle('b', false));
    expect(result.current.size).toBe(0);
  });
});

it('a card tells what is marked in a clip by what it is', async () => {
  await open([
    clip(1, { work: { trackers: { spot: 2, surface: 1 }, trackedFrames: 40 } }),
    clip(2, { work: { trackers: { soft: 1 }, trackedFrames: 1 } }),
  ]);
  expect(screen.getByText('2 spots, 1 flat surface, 40 frames tracked')).toBeDefined();
  expect(screen.getByText('1 soft surface')).toBeDefined();
});
