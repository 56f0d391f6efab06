import type { Doubt, DoubtReason } from './doubts.js';
import { groupDoubts, orderDoubts, sameDoubt } from './group-doubts.js';

const doubt = (spot: string, reason: DoubtReason, from: number, to: number, severity: number): Doubt => ({
  ...{ spot, reason, from, to, worst: from, severity, sentence: '' },
});

describe('doubts by their cause', () => {
  it('are one entry where several reasons show on the same frames, named by the worst', () => {
    const [group, ...rest] = groupDoubts([
      doubt('a', 'weak-match', 10, 14, 0.4),
      doubt('a', 'jump', 12, 12, 0.9),
      doubt('a', 'disagrees', 13, 30, 0.7),
    ]);
    expect(rest).toEqual([]);
    expect(group.lead.reason).toBe('jump');
    expect(group.doubts.map((d) => d.reason)).toEqual(['jump', 'disagrees', 'weak-match']);
  });

  it('are one entry where one thing shows again and again, and two for two spots', () => {
    const many = Array.from({ length: 27 }, (_, i) => [
      doubt('a', 'disagrees', 20 * i, 20 * i + 3, 0.9),
      doubt('b', 'disagrees', 20 * i, 20 * i + 3, 1),
    ]).flat();
    const groups = groupDoubts(many);
    expect(groups.map((g) => [g.lead.spot, g.doubts.length])).toEqual([
      ['b', 27],
      ['a', 27],
    ]);
    expect(
      orderDoubts(many)
        .slice(0, 27)
        .every((d) => d.spot === 'b'),
    ).toBe(true);
  });

  it('stay apart where their reasons and their frames are', () => {
    const groups = groupDoubts([doubt('a', 'coasted', 0, 9, 0.5), doubt('a', 'jump', 60, 60, 0.6)]);
    expect(groups.map((g) => g.lead.reason)).toEqual(['jump', 'coasted']);
    expect(groupDoubts([])).toEqual([]);
  });

  it('are known again after a change though their frames have moved', () => {
    expect(sameDoubt(doubt('a', 'jump', 5, 8, 1), doubt('a', 'jump', 7, 12, 0.2))).toBe(true);
    expect(sameDoubt(doubt('a', 'jump', 5, 8, 1), doubt('a', 'jump', 9, 12, 1))).toBe(false);
    expect(sameDoubt(doubt('a', 'jump', 5, 8, 1), doubt('b', 'jump', 5, 8, 1))).toBe(false);
  });
});
