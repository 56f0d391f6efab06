import { actionFor, bound, chordsOf, DEFAULT_KEYS, unbound, type ActionId } from './keymap';

const ids = Object.keys(DEFAULT_KEYS) as ActionId[];

describe('the keys', () => {
  it('are each bound to one action', () => {
    const all = ids.flatMap((id) => [...DEFAULT_KEYS[id]]);
    expect(all.filter((chord, i) => all.indexOf(chord) !== i)).toEqual([]);
    for (const id of ids) for (const chord of DEFAULT_KEYS[id]) expect(actionFor({}, chord)).toBe(id);
  });

  it('of the trade are where hands expect them', () => {
    const trade = ['Space', 'J', 'K', 'L', 'I', 'O', 'Home', 'End', 'ArrowLeft', 'ArrowRight', 'Alt+ArrowUp'];
    expect(trade.map((chord) => actionFor({}, chord))).toEqual([
      ...[
        'play',
        'shuttle-back',
        'halt',
        'shuttle-on',
        'in',
        'out',
        'first',
        'last',
        'previous',
        'next',
        'up',
      ],
    ]);
  });

  it('can be changed: the new one does it, the old one nothing, and who had it before has none', () => {
    const changes = bound({}, 'track-end', 'J');
    expect(actionFor(changes, 'J')).toBe('track-end');
    expect(actionFor(changes, 'T')).toBeUndefined();
    expect(chordsOf(changes, 'shuttle-back')).toEqual([]);
  });

  it('come back one by one, taken from whoever has them now', () => {
    const moved = bound(bound({}, 'track-end', 'J'), 'fit', 'T');
    const back = unbound(moved, 'track-end');
    expect(actionFor(back, 'T')).toBe('track-end');
    expect(chordsOf(back, 'fit')).toEqual([]);
    expect(unbound(unbound(back, 'fit'), 'shuttle-back')).toEqual({});
  });

  it('keep others than the one that was lost', () => {
    const changes = bound({}, 'fit', '=');
    expect(chordsOf(changes, 'zoom-in')).toEqual(['+']);
  });
});
