/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { LurnError } from '@lurn/core';
import { sampleAt } from '@lurn/core/track';
import {
  changeDocument,
  changeSpot,
  setMeasured,
  spotById,
  trackOf,
  type RevisedShot,
  type ShotState,
} from '@lurn/model';
import { api } from '../lib/api';
import { INFO, lying, openBench, shotWith, spot } from '../testing/open-bench';
import { bench, setBench } from './bench';
import { Saver } from './saving';
import { edit, shotDocument, shotState } from './shot';

jest.mock('sonner', () => ({ toast: { error: jest.fn() } }));

/** The server's side of a shot: one state with its number, refused to those who know an older one. */
class FakeServer {
  revision = 0;
  readonly saves: RevisedShot[] = [];
  fails: Error | null = null;
  constructor(public state: ShotState) {
    jest
      .spyOn(api, 'saveShot')
      .mockImplementation((_, save) => Promise.resolve().then(() => this.save(save)));
    jest.spyOn(api, 'shot').mockImplementation(() => Promise.resolve(this.saved as never));
  }
  get saved() {
    return { revision: this.revision, ...this.state };
  }
  /** What another tab does. */
  change(next: (state: ShotState) => ShotState): void {
    this.state = next(this.state);
    this.revision++;
  }
  private save(save: RevisedShot): { revision: number } {
    if (this.fails) throw this.fails;
    if (save.revision !== this.revision) throw new LurnError('conflict', 'It was changed elsewhere.');
    this.saves.push(save);
    return { revision: ++this.revision };
  }
}

const start = shotWith([spot('a'), lying(100, 80, 0, 5)], [spot('b'), lying(200, 90, 0, 5)]);
const rename = (id: string, name: string) => (state: ShotState) => changeSpot(state, id, { name });
const later = async (ms = 500) => {
  jest.advanceTimersByTime(ms);
  for (let i = 0; i < 20; i++) await Promise.resolve();
};
let server: FakeServer;
let saver: Saver;
const open = (state = start) => {
  openBench(state);
  server = new FakeServer(state);
  saver = new Saver('c', state, 0);
};
beforeEach(() => {
  jest.useFakeTimers({ doNotFake: ['nextTick', 'queueMicrotask', 'setImmediate'] });
  localStorage.clear();
});
afterEach(async () => {
  saver.close();
  await later();
  jest.useRealTimers();
  jest.restoreAllMocks();
});

describe('saving', () => {
  it('comes a moment after a change, with what was measured anew and nothing else', async () => {
    open();
    edit((state) => setMeasured(state, { b: lying(210, 90, 0, 5) }));
    expect(bench().saving).toBe('unsaved');
    await later();
    expect(server.saves.map((s) => [s.revision, Object.keys(s.measured)])).toEqual([[0, ['b']]]);
    expect(bench()).toMatchObject({ saving: 'saved', savedRevision: 1 });
  });

  it('is put off while it is being tracked, and comes at once when that has ended', async () => {
    open();
    const tracking = { from: 0, to: 4, frame: 2, done: 2, total: 4, startedAt: 0 };
    setBench({ tracking });
    edit((state) => setMeasured(state, { b: lying(210, 90, 0, 5) }));
    await later(1000);
    expect(server.saves).toHaveLength(0);
    setBench({ tracking: null });
    await later(0);
    expect(server.saves).toHaveLength(1);
    // ... and a long one is saved on the way.
    setBench({ tracking });
    edit((state) => setMeasured(state, { b: lying(220, 90, 0, 5) }));
    await later(3000);
    expect(server.saves).toHaveLength(2);
  });

  it('goes on with what was changed while a slow one was under way', async () => {
    open();
    let answer: () => void = () => undefined;
    const slow = new Promise<void>((resolve) => (answer = resolve));
    jest.mocked(api.saveShot).mockImplementationOnce(async () => {
      await slow;
      return { revision: ++server.revision };
    });
    edit(rename('a', 'gable'));
    await later();
    edit(rename('b', 'door'));
    await later(1000);
    edit(rename('b', 'porch'));
    await later(1000);
    answer();
    await later();
    await later();
    expect(server.saves.map((s) => s.document.trackers.map((t) => t.name))).toEqual([['gable', 'porch']]);
    expect(bench()).toMatchObject({ saving: 'saved', savedRevision: 2 });
  });

  it('that fails is said, kept in this browser, and tried again', async () => {
    open();
    server.fails = new LurnError('disk-full', 'The disk is full.');
    edit(rename('a', 'gable'));
    await later();
    expect(bench().saving).toBe('failed');
    expect(localStorage.getItem('lurn.unsaved.c')).toContain('gable');
    server.fails = null;
    await later(4000);
    expect(bench().saving).toBe('saved');
    expect(localStorage.getItem('lurn.unsaved.c')).toBeNull();
  });

  it('joins what another tab has saved meanwhile with what was done here, field by field', async () => {
    open();
    server.change((s) => changeDocument(rename('b', 'door')(s), { ref: 7 }));
    edit((state) => changeSpot(state, 'b', { colour: 3 }));
    await later();
    await later();
    expect(shotDocument().ref).toBe(7);
    expect(spotById(shotDocument(), 'b')).toMatchObject({ name: 'door', colour: 3 });
    expect(server.saves.map((s) => s.revision)).toEqual([1]);
    expect(bench()).toMatchObject({ saving: 'saved', savedRevision: 2 });
  });

  it('goes on when the server is gone in the middle of joining', async () => {
    open();
    server.change(rename('b', 'door'));
    const gone = jest
      .spyOn(api, 'shot')
      .mockRejectedValueOnce(new LurnError('offline', 'It does not answer.'));
    edit(rename('a', 'gable'));
    await later();
    expect(gone).toHaveBeenCalledTimes(1);
    expect(bench().saving).toBe('failed');
    await later(4000);
    await later();
    expect(spotById(shotDocument(), 'b')!.name).toBe('door');
    expect(spotById(shotDocument(), 'a')!.name).toBe('gable');
    expect(bench().saving).toBe('saved');
  });

  it('takes over what another tab has done when nothing was done here', async () => {
    open();
    server.change(rename('a', 'gable'));
    await saver.follow(1);
    expect(spotById(shotDocument(), 'a')!.name).toBe('gable');
    expect(bench().saving).toBe('saved');
    await later();
    expect(server.saves).toEqual([]);
  });
});

describe('a page that went away unsaved', () => {
  /** What its browser gives back when the clip is opened again. */
  const recovered = () => Saver.recover('c', server.state, server.revision, INFO);

  it('is whole again', () => {
    open();
    edit(rename('a', 'gable'));
    edit((state) => setMeasured(state, { a: lying(101, 80, 0, 9) }));
    window.dispatchEvent(new Event('pagehide'));
    const state = recovered();
    expect(spotById(state.document, 'a')!.name).toBe('gable');
    expect(sampleAt(trackOf(state, 'a'), 9)).toMatchObject({ x: 101 });
    expect(sampleAt(trackOf(state, 'b'), 5)).toMatchObject({ x: 200 });
  });

  it('does not overwrite what another tab saved since: each change of either is there', () => {
    open();
    edit(rename('a', 'gable'));
    window.dispatchEvent(new Event('pagehide'));
    server.change((s) => changeDocument(changeSpot(rename('b', 'door')(s), 'a', { colour: 4 }), { ref: 3 }));
    const state = recovered();
    expect(spotById(state.document, 'a')).toMatchObject({ name: 'gable', colour: 4 });
    expect(spotById(state.document, 'b')!.name).toBe('door');
    expect(state.document.ref).toBe(3);
  });

  it('and what is kept of it cannot be read: the server’s state stands', () => {
    open();
    localStorage.setItem('lurn.unsaved.c', '{"revision":');
    expect(recovered()).toBe(server.state);
    expect(localStorage.getItem('lurn.unsaved.c')).toBeNull();
  });

  it('left nothing when it was saved', async () => {
    open();
    edit(rename('a', 'gable'));
    await later();
    window.dispatchEvent(new Event('pagehide'));
    expect(localStorage.getItem('lurn.unsaved.c')).toBeNull();
    expect(shotState()).not.toBe(start);
  });
});
