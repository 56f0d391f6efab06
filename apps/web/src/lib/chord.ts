/**
 * What was typed, as a binding has it: a character, or the name of a key, with the modifiers that are held:
 * `T`, `Shift+T`, `Mod+Z`, `?`, `Alt+ArrowLeft`. `Mod` is Ctrl, on a Mac the command key.
 *
 * Keys are told by what they type, not by where they lie: on a German keyboard Z is Z, and `?` is `?` whatever has to be
 * held for it. Shift therefore counts with letters and named keys only, and Alt Gr never does.
 */
export type Chord = string;

export type Typed = Pick<
  KeyboardEvent,
  'key' | 'code' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey' | 'isComposing' | 'getModifierState'
>;

const SILENT = new Set([
  ...['Shift', 'Control', 'Alt', 'AltGraph', 'Meta', 'CapsLock', 'NumLock', 'Fn'],
  ...['Dead', 'Process', 'Unidentified', 'Compose'],
]);

/** @returns null for what types nothing by itself: modifiers, dead keys, and a word that is being composed */
export function chordOf(e: Typed): Chord | null {
  if (e.isComposing || SILENT.has(e.key)) return null;
  const altGraph = e.getModifierState('AltGraph');
  const mod = !altGraph && (e.ctrlKey || e.metaKey);
  const alt = !altGraph && e.altKey;
  const key = nameOf(e);
  if (key.length === 1 && !isLetter(key)) return mod ? `Mod+${key}` : key;
  return `${mod ? 'Mod+' : ''}${alt ? 'Alt+' : ''}${e.shiftKey ? 'Shift+' : ''}${key}`;
}

function nameOf({ key, code }: Typed): string {
  if (key === ' ' || key === '\u00a0') return 'Space';
  if (key.length > 1) return key;
  // On a keyboard of another script the letter that the key bears in Latin, as these keyboards print it too.
  if (isLetter(key) && !/\p{Script=Latin}/u.test(key) && code.startsWith('Key')) return code.slice(3);
  return key.toUpperCase();
}

const isLetter = (key: string) => /^\p{L}$/u.test(key);

const PRINTED: Readonly<Record<string, string>> = {
  Mod: 'Ctrl',
  ArrowLeft: '←',
  ArrowRight: '→',
  ArrowUp: '↑',
  ArrowDown: '↓',
  Escape: 'Esc',
  Delete: 'Del',
};

/** As it is printed in tooltips and on the sheet. */
export function printed(chord: Chord): string {
  // A plus that is typed is the last part itself.
  const parts = chord.endsWith('+')
    ? [...chord.slice(0, -1).split('+').filter(Boolean), '+']
    : chord.split('+');
  return parts.map((p) => PRINTED[p] ?? p).join(' ');
}
