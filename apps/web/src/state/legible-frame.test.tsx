/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, renderHook } from '@testing-library/react';
import { lying, openBench, shotWith, spot } from '../testing/open-bench';
import { setBench } from './bench';
import { useLegibleFrame } from './legible-frame';

/** The frame that numbers are told for. */

it('is the playhead’s at rest, and changes only so often while it plays', () => {
  openBench(shotWith([spot('a'), lying(100, 80, 0, 5)]));
  const now = jest.spyOn(performance, 'now').mockReturnValue(1000);
  const { result } = renderHook(() => useLegibleFrame());
  const goTo = (frame: number, playing: boolean, at: number) => {
    now.mockReturnValue(at);
    act(() => setBench({ frame, playing }));
    return result.current;
  };
  expect([goTo(3, false, 1001), goTo(4, false, 1002)]).toEqual([3, 4]);
  expect([goTo(5, true, 1030), goTo(6, true, 1060)]).toEqual([4, 4]);
  expect(goTo(9, true, 1200)).toBe(9);
  expect(goTo(10, true, 1230)).toBe(9);
  // When it stops the number is that of the frame it has stopped on.
  expect(goTo(11, false, 1240)).toBe(11);
  now.mockRestore();
});
