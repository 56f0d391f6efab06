import { LurnError } from '@lurn/core';
import { newDocument, type ClipSummary, type RevisedShot } from '@lurn/model';
import { toast } from 'sonner';
import { api } from '../../lib/api';
import { steadyClips } from './steady-clips';

jest.mock('sonner', () => ({ toast: { success: jest.fn(), error: jest.fn() } }));

const clip = (name: string, status = 'ready') => ({ id: name, name, status }) as ClipSummary;
const shots = new Map<string, RevisedShot>();
const rendered: [string, number, number][] = [];
beforeEach(() => {
  const size = { width: 640, height: 360, frames: 50 };
  for (const [name, revision] of [
    ['pylon', 0],
    ['ridge', 4],
  ] as const)
    shots.set(name, { revision, document: newDocument(size), measured: {} });
  rendered.length = 0;
  jest.spyOn(api, 'shot').mockImplementation((id) => Promise.resolve(shots.get(id)!));
  jest.spyOn(api, 'saveShot').mockImplementation((id, shot) => {
    shots.set(id, { ...shot, revision: shot.revision + 1 });
    return Promise.resolve({ revision: shot.revision + 1 });
  });
  jest.spyOn(api, 'render').mockImplementation((id, revision, crf) => {
    if (id === 'ridge' && shots.get(id)!.document.goal.goal === 'still')
      return Promise.reject(new LurnError('nothing-to-render', 'There is nothing to hold.'));
    rendered.push([id, revision, crf]);
    return Promise.resolve({} as never);
  });
});
afterEach(() => jest.restoreAllMocks());

describe('several shots at once', () => {
  it('are given a goal and rendered as they are saved then', async () => {
    const refresh = jest.fn();
    await steadyClips([clip('pylon'), clip('ridge')], 'calm', refresh);
    expect([...shots.values()].map((s) => s.document.goal.goal)).toEqual(['calm', 'calm']);
    expect(rendered).toEqual([
      ['pylon', 1, 18],
      ['ridge', 5, 18],
    ]);
    expect(refresh).toHaveBeenCalledTimes(1);
    expect(toast.success).toHaveBeenCalledWith(expect.stringContaining('2 renders queued'));
  });

  it('stay as each is set where that is asked for', async () => {
    await steadyClips([clip('pylon')], 'own', () => undefined);
    expect(api.saveShot).not.toHaveBeenCalled();
    expect(rendered).toEqual([['pylon', 0, 18]]);
  });

  it('are not held up by one that cannot be: it is named, with the reason', async () => {
    await steadyClips([clip('ridge'), clip('valley', 'reading'), clip('pylon')], 'still', () => undefined);
    expect(rendered.map(([id]) => id)).toEqual(['pylon']);
    expect(toast.error).toHaveBeenCalledWith(
      expect.stringMatching(/"ridge": There is nothing to hold\. "valley": it has not been read yet\./),
      expect.anything(),
    );
  });
});
