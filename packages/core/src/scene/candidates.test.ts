import { candidatesOf, reasonsFor } from './candidates.js';
import type { SceneMover } from './movers.js';

const mover = (id: string, more: Partial<SceneMover> = {}): SceneMover => ({
  ...{ id, name: id, share: 0.2, spread: 0.3, rim: 0.3, frames: 100, overlay: false },
  ...more,
});
const evidence = { reach: 0.9, presence: 1, behind: 0.5, slide: 1 };

describe('what a person may want to hold', () => {
  it('is the likeliest three that are large and seen for long, and no title', () => {
    const movers = [
      mover('wall'),
      mover('mark', { overlay: true }),
      mover('bird', { frames: 20 }),
      mover('speck', { share: 0.01 }),
      ...['person', 'car', 'tree'].map((id) => mover(id)),
    ];
    expect(candidatesOf({ movers }).map((m) => m.id)).toEqual(['wall', 'person', 'car']);
    expect(candidatesOf({ movers: [] })).toEqual([]);
  });

  it('is said with what speaks for it', () => {
    const wall = mover('wall', { evidence });
    const person = mover('person', { evidence: { reach: 0.2, presence: 0.7, behind: -0.4, slide: 30 } });
    expect(reasonsFor(wall, [wall, person])).toBe(
      'is there throughout, lies all over the picture, lies behind the rest, slides least',
    );
    expect(reasonsFor(person, [wall, person])).toBe('goes before the rest');
    // Read by an older version: nothing is known.
    expect(reasonsFor(mover('old'), [wall])).toBeNull();
  });
});
