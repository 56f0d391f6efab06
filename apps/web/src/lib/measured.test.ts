import type { Plan } from '@lurn/core/plan';
import { isMeasured } from './measured';

type Asked = Parameters<typeof isMeasured>[0];
const plan = (of: readonly string[], model: Plan['motion']['model']) =>
  ({ of, motion: { model } }) as unknown as Asked;

it('what is left is measured where more was seen than was fitted', () => {
  expect(isMeasured(plan(['a'], 'similarity'))).toBe(false);
  expect(isMeasured(plan(['a', 'b'], 'similarity'))).toBe(false);
  expect(isMeasured(plan(['a', 'b', 'c'], 'similarity'))).toBe(true);
  // By what moves in the whole picture, and by a surface.
  expect(isMeasured(plan([], 'similarity'))).toBe(true);
  expect(isMeasured(plan(['sign'], 'homography'))).toBe(true);
});
