/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, fireEvent, render, screen, waitFor, within } from '@testing-library/react';
import { LurnError } from '@lurn/core';
import { planFor } from '@lurn/core/plan';
import { shotRequest, type FormatSummary, type RenderSummary } from '@lurn/model';
import { toast } from 'sonner';
import { api } from '../../../lib/api';
import { bench, setBench } from '../../../state/bench';
import { putPaint } from '../../../state/making-layers';
import { shotDocument, shotState } from '../../../state/shot';
import { INFO, lying, openBench, shotWith, spot } from '../../../testing/open-bench';
import type { Helpers } from '../stations/station';
import { HandOverPanel } from './HandOverPanel';

jest.mock('sonner', () => ({ toast: { error: jest.fn(), info: jest.fn(), success: jest.fn() } }));
jest.mock('./data-out/DataOut', () => ({ DataOut: () => null }));

/** What leaves the program: chosen, ordered, watched. */

const format = (id: string, name: string, more: Partial<FormatSummary> = {}): FormatSummary => ({
  ...{ id, name, use: `For ${name}`, extension: 'mp4', depths: [8], alpha: false, plays: true },
  ...{ sound: { keeps: ['aac'], anew: 'AAC' }, settings: ['crf'] },
  ...more,
});
const FORMATS = [
  format('h264-mp4', 'MP4, H.264'),
  format('ffv1-mkv', 'MKV, FFV1', { settings: [] }),
  format('prores-4444-mov', 'MOV, ProRes 4444 + alpha', { alpha: true, settings: [] }),
];
const settled = jest.fn(() => Promise.resolve(7));
const delivery = () => shotDocument().deliveries[0];
const press = (name: string | RegExp) => fireEvent.click(screen.getByRole('button', { name }));
const choose = (label: string, value: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value } });
const open = async () => {
  render(
    <QueryClientProvider client={new QueryClient()}>
      <HandOverPanel {...({ saver: { settled } } as unknown as Helpers)} />
    </QueryClientProvider>,
  );
  await waitFor(() => expect(screen.getByLabelText('Format').children.length).toBeGreaterThan(0));
};
const planned = () => setBench({ steady: planFor(shotRequest(shotState(), INFO), null) });

beforeEach(() => {
  jest.clearAllMocks();
  jest.spyOn(api, 'formats').mockResolvedValue(FORMATS);
  jest.spyOn(api, 'render').mockResolvedValue({} as never);
  openBench(shotWith([spot('gable'), lying(100, 80, 0, 39)]));
});

describe('a render', () => {
  it('is ordered of what has been saved, as the delivery says', async () => {
    planned();
    await open();
    fireEvent.click(screen.getByRole('radio', { name: /Review/ }));
    await act(async () => press('Render the steadied picture'));
    expect(api.render).toHaveBeenCalledWith('c', 7, 23, delivery().id);
    expect(toast.error).not.toHaveBeenCalled();
  });

  it('says why it could not be ordered, and can be ordered again', async () => {
    planned();
    jest.spyOn(api, 'render').mockRejectedValue(new LurnError('not-ready', '"valley" is still being read.'));
    await open();
    await act(async () => press('Render the steadied picture'));
    expect(toast.error).toHaveBeenCalledWith('"valley" is still being read.', { id: 'render' });
    const again = screen.getByRole<HTMLButtonElement>('button', { name: 'Render the steadied picture' });
    expect(again.disabled).toBe(false);
  });

  it('of the steadied picture waits for a motion; as it was shot it needs none', async () => {
    await open();
    const button = screen.getByRole<HTMLButtonElement>('button', { name: 'Render the steadied picture' });
    expect(button.disabled).toBe(true);
    expect(screen.getByText(/Track a spot first/)).toBeTruthy();
    press('As shot');
    expect(delivery().picture).toBe('as-shot');
    expect(screen.getByText(/comes out as it was shot/)).toBeTruthy();
    await act(async () => press('Render the picture as shot'));
    expect(api.render).toHaveBeenCalledTimes(1);
  });

  it('of several deliveries at once is of each in turn', async () => {
    planned();
    await open();
    choose('Add a delivery', 'Lossless');
    await act(async () => press('Render all 2 deliveries'));
    const ids = shotDocument().deliveries.map((d) => d.id);
    expect((api.render as jest.Mock).mock.calls.map((c) => c[3])).toEqual(ids);
    press('Take out Lossless');
    expect(shotDocument().deliveries).toHaveLength(1);
  });

  it('with what was before beside it is twice as wide, with labels if they are wanted', async () => {
    planned();
    await open();
    choose('Before and after', 'beside');
    expect(screen.getByText('1280 × 360 px')).toBeTruthy();
    fireEvent.click(screen.getByRole('checkbox', { name: /written in/ }));
    expect(delivery()).toMatchObject({ compare: 'beside', labels: true });
    choose('Before and after', 'above');
    expect(screen.getByText('640 × 720 px')).toBeTruthy();
    choose('Before and after', '');
    expect(delivery().compare).toBeUndefined();
    expect(screen.queryByRole('checkbox', { name: /written in/ })).toBeNull();
  });

  it('of the layers alone is offered in formats with alpha only', async () => {
    planned();
    putPaint();
    await open();
    const offered = () => [...screen.getByLabelText<HTMLSelectElement>('Format').options].map((o) => o.value);
    expect(offered()).toHaveLength(3);
    fireEvent.click(screen.getByRole('checkbox', { name: 'The layers alone, with alpha' }));
    expect(delivery().base).toBe(false);
    expect(offered()).toEqual(['prores-4444-mov']);
    expect(screen.queryByRole('radiogroup', { name: 'Quality' })).toBeNull();
  });

  it('tells what becomes of the sound', async () => {
    setBench({ info: { ...INFO, audio: { codec: 'opus' } } as never });
    await open();
    expect(screen.getByText('opus, as AAC')).toBeTruthy();
  });
});

describe('files', () => {
  const made = (id: string, more: Partial<RenderSummary>): RenderSummary => ({
    ...{
      id,
      clipId: 'c',
      status: 'done',
      done: 40,
      total: 40,
      secondsLeft: null,
      from: 0,
      to: 39,
      zoom: 1.05,
    },
    ...{ delivery: 'To watch', format: 'MP4, H.264', plays: true, crf: 18, bytes: 2_000_000, error: null },
    ...{ note: null, createdAt: '2026-01-01T00:00:00Z' },
    ...more,
  });
  const files = async (...renders: RenderSummary[]) => {
    setBench({ clip: { ...bench().clip, renders } });
    await open();
    return screen
      .getAllByRole('listitem')
      .filter((li) => /rendering|done|failed|stopped/.test(li.textContent ?? ''));
  };

  it('that are made say how far they are, and can be stopped', async () => {
    const stop = jest.spyOn(api, 'stopRender').mockResolvedValue(undefined as never);
    const [row] = await files(made('r', { status: 'running', done: 10, secondsLeft: 90, bytes: null }));
    expect(within(row).getByRole('progressbar')).toHaveProperty('value', 10);
    expect(row.textContent).toContain('10 of 40, 1 min 30 s left');
    fireEvent.click(within(row).getByRole('button', { name: 'Stop the render' }));
    expect(stop).toHaveBeenCalledWith('r');
  });

  it('that failed say why, and go on where they were', async () => {
    const goOn = jest.spyOn(api, 'goOn').mockResolvedValue(undefined as never);
    const error = { code: 'disk-full', message: 'The disk is full.' };
    const [row] = await files(made('r', { status: 'failed', error, bytes: null }));
    expect(within(row).getByText('The disk is full.')).toBeTruthy();
    fireEvent.click(within(row).getByRole('button', { name: 'Go on where it was' }));
    expect(goOn).toHaveBeenCalledWith('r');
  });

  it('that are there are played where a browser can, downloaded and removed', async () => {
    const remove = jest.spyOn(api, 'removeRender').mockRejectedValue(new LurnError('busy', 'Being written.'));
    const [row, zip] = await files(made('r', {}), made('z', { plays: false }));
    expect(within(zip).queryByRole('button', { name: 'Play' })).toBeNull();
    fireEvent.click(within(row).getByRole('button', { name: 'Play' }));
    expect(screen.getByRole('dialog', { name: 'Rendered file' })).toBeTruthy();
    fireEvent.keyDown(screen.getByRole('dialog'), { key: 'Escape' });
    expect(screen.queryByRole('dialog')).toBeNull();
    await act(async () => {
      fireEvent.click(within(row).getByRole('button', { name: 'Remove the render' }));
    });
    expect(remove).toHaveBeenCalledWith('r');
    expect(toast.error).toHaveBeenCalledWith('Being written.', { id: 'render' });
  });
});
