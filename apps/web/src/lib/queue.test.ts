import type { ClipSummary, QueuedRender, QueueSummary } from '@lurn/model';
import { allSecondsLeft, clipsWith, movedBefore, queueWith } from './queue';

const render = (id: string, more: Partial<QueuedRender> = {}) =>
  ({ id, clipId: 'c', clip: 'ridge', status: 'waiting', done: 0, total: 100, secondsLeft: null, ...more }) as QueuedRender; // prettier-ignore

describe('what is told of a render', () => {
  const clips = [{ id: 'b', renders: [] }, { id: 'c', renders: [render('x', { status: 'running' })] }] as unknown as ClipSummary[]; // prettier-ignore
  const queue = { renders: [render('x', { status: 'running' }), render('y')], workers: [] } as unknown as QueueSummary; // prettier-ignore

  it('is put where it belongs without asking for the lists anew, and the others stay as they are', () => {
    const now = clipsWith(clips, render('x', { status: 'running', done: 7 }))!;
    expect(now[1].renders[0].done).toBe(7);
    expect(now[0]).toBe(clips[0]);
    const next = queueWith(queue, render('x', { status: 'running', done: 7 }))!;
    expect(next.renders[0]).toMatchObject({ done: 7, clip: 'ridge' });
    expect(next.renders[1]).toBe(queue.renders[1]);
  });

  it('asks for them where it begins, ends, or is new', () => {
    expect(clipsWith(clips, render('x', { status: 'done' }))).toBeNull();
    expect(clipsWith(clips, render('z'))).toBeNull();
    expect(queueWith(queue, render('y', { status: 'running' }))).toBeNull();
  });
});

it('a render is put before another, or last', () => {
  const waiting = ['a', 'b', 'c'].map((id) => render(id));
  expect(movedBefore(waiting, 'c', 'a')).toEqual(['c', 'a', 'b']);
  expect(movedBefore(waiting, 'a', null)).toEqual(['b', 'c', 'a']);
  expect(movedBefore(waiting, 'a', 'gone')).toEqual(['a', 'b', 'c']);
});

it('the time that all of it takes is told by the pace of what runs', () => {
  const renders = [render('a', { status: 'running', done: 50, secondsLeft: 5 }), render('b'), render('c', { status: 'done' })]; // prettier-ignore
  expect(allSecondsLeft(renders)).toBeCloseTo(15);
  expect(allSecondsLeft([render('b')])).toBeNull();
});
