import { AskedParts } from './asked-parts.js';

/** Parts that are made out of turn because somebody looks at them. */

/** Makes what is asked for when it is let, one after the other. */
function workshop() {
  const made: string[] = [];
  const busy: boolean[] = [];
  let finish: () => void = () => undefined;
  const parts = new AskedParts((b) => busy.push(b));
  const want = (key: string) =>
    parts.want(key, async () => {
      made.push(key);
      await new Promise<void>((resolve) => (finish = resolve));
    });
  const next = async () => {
    finish();
    await new Promise((resume) => setImmediate(resume));
  };
  return { made, busy, want, next, parts };
}

it('are made one at a time, the one asked for last first, and none twice at once', async () => {
  const { made, busy, want, next } = workshop();
  for (const key of ['a', 'b', 'c', 'a']) want(key);
  expect(made).toEqual(['a']);
  await next();
  expect(made).toEqual(['a', 'c']);
  want('d');
  await next();
  await next();
  expect(made).toEqual(['a', 'c', 'd', 'b']);
  await next();
  expect(busy).toEqual([true, false]);
});

it('are not begun when nobody has asked for a while', async () => {
  jest.useFakeTimers({ doNotFake: ['setImmediate'] });
  try {
    const { made, want, next } = workshop();
    for (const key of ['a', 'left', 'b']) want(key);
    jest.advanceTimersByTime(5000);
    want('b');
    await next();
    await next();
    expect(made).toEqual(['a', 'b']);
  } finally {
    jest.useRealTimers();
  }
});

it('that cannot be made hold nothing up', async () => {
  const { busy, parts } = workshop();
  parts.want('broken', () => Promise.reject(new Error('no')));
  await new Promise((resume) => setImmediate(resume));
  expect(busy).toEqual([true, false]);
});
