import { chordOf, printed, type Typed } from './chord';

const typed = (key: string, code: string, held: Partial<Typed> & { altGraph?: boolean } = {}): Typed => {
  const { altGraph = false, ...rest } = held;
  return {
    ...{ key, code, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, isComposing: false },
    ...rest,
    getModifierState: (name) => name === 'AltGraph' && altGraph,
  };
};

describe('what is typed', () => {
  it('is told by its letter, on whatever key that lies', () => {
    expect(chordOf(typed('z', 'KeyZ'))).toBe('Z'); // US
    expect(chordOf(typed('z', 'KeyY'))).toBe('Z'); // German
    expect(chordOf(typed('a', 'KeyQ'))).toBe('A'); // French
    expect(chordOf(typed('Z', 'KeyY', { shiftKey: true }))).toBe('Shift+Z');
    expect(chordOf(typed('z', 'KeyY', { ctrlKey: true }))).toBe('Mod+Z');
    expect(chordOf(typed('Z', 'KeyZ', { metaKey: true, shiftKey: true }))).toBe('Mod+Shift+Z');
  });

  it('is a sign, whatever has to be held for it', () => {
    expect(chordOf(typed('?', 'Slash', { shiftKey: true }))).toBe('?'); // US
    expect(chordOf(typed('?', 'Minus', { shiftKey: true }))).toBe('?'); // German
    expect(chordOf(typed('?', 'KeyM', { shiftKey: true }))).toBe('?'); // French
    expect(chordOf(typed('[', 'BracketLeft'))).toBe('[');
    const altGr = { ctrlKey: true, altKey: true, altGraph: true };
    expect(chordOf(typed('[', 'Digit8', altGr))).toBe('['); // German
    expect(chordOf(typed('\\', 'Digit8', altGr))).toBe('\\'); // French
    expect(chordOf(typed('1', 'Digit1'))).toBe('1');
    expect(chordOf(typed('1', 'Digit1', { shiftKey: true }))).toBe('1'); // French
    expect(chordOf(typed('&', 'Digit1'))).toBe('&'); // French, and nothing of ours
    expect(chordOf(typed('+', 'BracketRight'))).toBe('+'); // German
  });

  it('is a named key with what is held', () => {
    expect(chordOf(typed('ArrowLeft', 'ArrowLeft', { altKey: true, shiftKey: true }))).toBe(
      'Alt+Shift+ArrowLeft',
    );
    expect(chordOf(typed(' ', 'Space'))).toBe('Space');
    expect(chordOf(typed('Home', 'Home'))).toBe('Home');
  });

  it('has the Latin letter of a key on keyboards of other scripts, which bear both', () => {
    expect(chordOf(typed('\u0435', 'KeyT'))).toBe('T');
    expect(chordOf(typed('\u00e9', 'Digit2'))).toBe('\u00c9'); // French, a letter of its own
  });

  it('is nothing while a word is composed, or a modifier or dead key is pressed', () => {
    expect(chordOf(typed('Shift', 'ShiftLeft', { shiftKey: true }))).toBeNull();
    expect(chordOf(typed('Dead', 'BracketLeft'))).toBeNull();
    expect(chordOf(typed('k', 'KeyK', { isComposing: true }))).toBeNull();
  });

  it('is printed as keyboards have it', () => {
    expect(['Mod+Shift+Z', 'Alt+ArrowUp', '+', 'Mod++', '?'].map(printed)).toEqual([
      ...['Ctrl Shift Z', 'Alt ↑', '+', 'Ctrl +', '?'],
    ]);
  });
});
