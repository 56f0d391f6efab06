import { evaluate } from './arithmetic';
import { bytes, percent, pixels, timeCode } from './format';

describe('typed arithmetic', () => {
  it.each([
    ['12.5', 12.5],
    ['12,5 px', 12.5],
    ['108 %', 108],
    ['4*3+1', 13],
    ['-(2+3)/2', -2.5],
    ['2 - -1', 3],
  ])('%s is %d', (text, value) => expect(evaluate(text)).toBe(value));

  it.each(['', 'abc', '1 2', '(1', '1/0', '3+'])('"%s" is no number', (text) =>
    expect(evaluate(text)).toBeNull(),
  );
});

describe('formats', () => {
  it('time code counts frames at the nominal rate', () => {
    expect(timeCode(0, 30)).toBe('00:00:00:00');
    expect(timeCode(29 / 30, 30)).toBe('00:00:00:29');
    expect(timeCode(61 + 12 / 25, 25)).toBe('00:01:01:12');
    expect(timeCode(1001 / 30000, 30000 / 1001)).toBe('00:00:00:01');
  });

  it('units go with the size', () => {
    expect(bytes(1_491_368)).toBe('1.5 MB');
    expect(pixels(0.0724)).toBe('0.072 px');
    expect(percent(1.0754)).toBe('107.5 %');
  });
});
