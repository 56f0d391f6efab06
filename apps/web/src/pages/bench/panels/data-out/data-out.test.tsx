/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { LurnError } from '@lurn/core';
import { planFor } from '@lurn/core/plan';
import { shotRequest } from '@lurn/model';
import { toast } from 'sonner';
import { keepFile } from '../../../../lib/keep-file';
import { setBench } from '../../../../state/bench';
import { shotState } from '../../../../state/shot';
import { INFO, lying, openBench, shotWith, spot } from '../../../../testing/open-bench';
import type { DataWriter } from '../../../../workers/open-writer';
import { DataOut } from './DataOut';

jest.mock('sonner', () => ({ toast: { error: jest.fn(), success: jest.fn() } }));
jest.mock('../../../../lib/keep-file', () => ({ keepFile: jest.fn() }));
jest.mock('../../../../state/scene', () => ({ useScene: () => null }));
let writer: { write: jest.Mock; stop: jest.Mock };
jest.mock('../../../../workers/open-writer', () => ({ openWriter: () => writer as unknown as DataWriter }));

/** Data is chosen, looked at, written, stopped and copied. */

beforeEach(() => {
  jest.clearAllMocks();
  localStorage.clear();
  writer = { write: jest.fn(() => Promise.resolve(new Blob(['x']))), stop: jest.fn() };
  openBench(shotWith([spot('gable'), lying(100, 80, 0, 3)], [spot('door'), lying(200, 90, 1, 2)]));
});
const planned = () => setBench({ steady: planFor(shotRequest(shotState(), INFO), null) });
const firstLines = () => screen.getByLabelText('First lines').textContent!;
const choose = (label: string | RegExp, value: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value } });
const press = (name: string | RegExp) => fireEvent.click(screen.getByRole('button', { name }));

describe('data to hand over', () => {
  it('is not offered before anything was tracked', () => {
    openBench();
    render(<DataOut />);
    expect(screen.getByText(/once there is any/)).toBeTruthy();
    expect(screen.queryByRole('button')).toBeNull();
  });

  it('is of what there is, and shows how it will look', () => {
    planned();
    render(<DataOut />);
    press('Spots');
    choose('Written as', 'csv');
    expect(firstLines()).toContain('gable');
    expect(firstLines()).toContain('100');
    press('Motion');
    expect(firstLines()).not.toContain('gable');
  });

  it('follows what is chosen: where places are counted from, and the first frame’s number', () => {
    render(<DataOut />);
    choose('Written as', 'csv');
    expect(firstLines()).toContain(',80,');
    choose('y grows', 'up');
    choose('Counted from', 'bottom-left');
    expect(firstLines()).toContain(',280,');
  });

  it('keeps a format and its choices under a name, takes them up again, and forgets them', () => {
    const { unmount } = render(<DataOut />);
    const keep = () => screen.getByRole('button', { name: 'Keep' });
    expect(keep()).toHaveProperty('disabled', true);
    choose('Written as', 'json');
    choose('Name of this target', 'valley house');
    fireEvent.click(keep());
    unmount();
    render(<DataOut />);
    choose('Written as', 'csv');
    choose('Name of this target', 'valley house');
    expect((screen.getByLabelText('Written as') as HTMLSelectElement).value).toBe('json');
    press('Forget');
    expect(screen.queryByRole('button', { name: 'Forget' })).toBeNull();
    expect((screen.getByLabelText('Name of this target') as HTMLInputElement).value).toBe('');
  });

  it('is written by a thread into a file named after the clip', async () => {
    render(<DataOut />);
    choose('Written as', 'csv');
    press(/^Save /);
    await waitFor(() => expect(keepFile).toHaveBeenCalledWith('valley spots.csv', expect.any(Blob)));
    expect(writer.write.mock.calls[0].slice(1, 3)).toEqual(['csv', expect.objectContaining({ unit: 'px' })]);
    expect(writer.stop).toHaveBeenCalledTimes(1);
    expect(screen.queryByRole('status')).toBeNull();
  });

  it('shows how far it is, and is stopped without a file', async () => {
    let settle: (blob: Blob) => void = () => undefined;
    writer.write.mockImplementation(
      (_data, _id, _choices, onDone: (n: number) => void) =>
        new Promise<Blob>((resolve) => {
          settle = resolve;
          onDone(3);
        }),
    );
    render(<DataOut />);
    press(/^Save /);
    expect(screen.getByRole('progressbar')).toHaveProperty('value', 3);
    press('Stop');
    expect(writer.stop).toHaveBeenCalled();
    expect(screen.queryByRole('status')).toBeNull();
    await act(async () => settle(new Blob(['late'])));
    expect(keepFile).not.toHaveBeenCalled();
  });

  it('says why it cannot be written', async () => {
    writer.write.mockRejectedValue(new LurnError('too-large', 'It would be more than four gigabytes.'));
    render(<DataOut />);
    press(/^Save /);
    await waitFor(() =>
      expect(toast.error).toHaveBeenCalledWith('It would be more than four gigabytes.', { id: 'data' }),
    );
    expect(screen.queryByRole('status')).toBeNull();
  });

  it('is copied as a table, and told where the browser does not let it', async () => {
    const writeText = jest.fn(() => Promise.resolve());
    Object.assign(navigator, { clipboard: { writeText } });
    render(<DataOut />);
    await act(async () => press('Copy as a table'));
    expect(writeText).toHaveBeenCalledWith(expect.stringContaining('gable'));
    expect(toast.success).toHaveBeenCalled();
    writeText.mockRejectedValueOnce(new Error('no') as never);
    await act(async () => press('Copy over time'));
    expect(toast.error).toHaveBeenCalledWith(expect.stringContaining('Save the file instead'));
  });
});
