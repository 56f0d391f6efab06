import { labelSides, type Labelled } from './labels';

const mark = (x: number, y: number, length = 10): Labelled => ({ x, y, w: 6, h: 6, length });

describe('names beside marks', () => {
  it('stand at the right where there is room', () => {
    expect(labelSides([mark(100, 100), mark(100, 160), mark(400, 100)])).toEqual(['right', 'right', 'right']);
  });

  it('give way to a neighbour’s mark and name', () => {
    // The first name would lie over the second mark; the second name is free.
    expect(labelSides([mark(100, 100, 11), mark(148, 100, 12)])).toEqual(['left', 'right']);
    // Two marks above each other: the names would lie over each other.
    expect(labelSides([mark(100, 100), mark(108, 104)])).toEqual(['right', 'left']);
  });

  it('stay at the right where neither side is free', () => {
    const crowd = [mark(30, 100), mark(100, 100), mark(170, 100)];
    expect(labelSides(crowd)[2]).toBe('right');
    expect(labelSides([])).toEqual([]);
  });
});
