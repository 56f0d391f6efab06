/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { setBench } from '../../../state/bench';
import { shotState } from '../../../state/shot';
import { openBench } from '../../../testing/open-bench';
import type { View } from '../../../workers/picture.worker';
import { DrawQueue } from './draw-queue';

const asked: boolean[] = [];
const show = jest.fn((view: View) => {
  asked.push(view.draft);
  return Promise.resolve(1);
});
let queue: DrawQueue;

beforeEach(() => {
  jest.useFakeTimers();
  openBench();
  asked.length = 0;
  queue = new DrawQueue({ show } as never);
  queue.size = { width: 200, height: 100 };
});
afterEach(() => {
  queue.close();
  jest.useRealTimers();
});

it('drafts at once, and draws exactly when nothing changes any more', async () => {
  setBench({ steadyOf: shotState() });
  queue.show();
  await jest.advanceTimersByTimeAsync(100);
  expect(asked).toEqual([true]);
  queue.show();
  await jest.advanceTimersByTimeAsync(400);
  expect(asked).toEqual([true, true, false]);
});

it('does not draw exactly what the motion under way will have drawn again', async () => {
  queue.show();
  await jest.advanceTimersByTimeAsync(1000);
  expect(asked).toEqual([true]);
  setBench({ steadyOf: shotState() });
  await jest.advanceTimersByTimeAsync(200);
  expect(asked).toEqual([true, false]);
});

it('... but waits no longer than some seconds for it', async () => {
  queue.show();
  await jest.advanceTimersByTimeAsync(4000);
  expect(asked).toEqual([true, false]);
});
