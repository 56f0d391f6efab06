import { tmpdir } from 'node:os';
import { Logger } from '@nestjs/common';
import { demandRoom, whenThereIsRoom } from './full-disk.js';

const full = () => Promise.reject(Object.assign(new Error('write failed'), { code: 'SQLITE_FULL' }));
const log = () => ({ warn: jest.fn(), error: jest.fn() }) as unknown as Logger & { warn: jest.Mock };

describe('a full disk', () => {
  beforeEach(() => jest.useFakeTimers());
  afterEach(() => jest.useRealTimers());

  it('is told in words when the server starts, and what was to be written is, once there is room', async () => {
    const said = log();
    const work = jest
      .fn<Promise<void>, []>()
      .mockImplementationOnce(full)
      .mockImplementationOnce(full)
      .mockResolvedValue();
    await whenThereIsRoom(said, work);
    expect(said.warn).toHaveBeenCalledWith(expect.stringMatching(/^The disk is full\. Free some space/));
    await jest.advanceTimersByTimeAsync(30_000);
    await jest.advanceTimersByTimeAsync(30_000);
    await jest.advanceTimersByTimeAsync(90_000);
    expect(work).toHaveBeenCalledTimes(3);
  });

  it('is the only thing that is waited out', async () => {
    await expect(whenThereIsRoom(log(), () => Promise.reject(new Error('other')))).rejects.toThrow('other');
  });
});

it('a file for which there is no room, with what saving needs, is refused by name and size', async () => {
  await expect(demandRoom(tmpdir(), 1e16, 'summit.mov')).rejects.toMatchObject({
    code: 'disk-full',
    message: expect.stringMatching(/^"summit.mov" has 10000000000 MB, and there is room for \d+ MB/),
  });
  await expect(demandRoom(tmpdir(), 1000, 'crest.svg')).resolves.toBeUndefined();
});
