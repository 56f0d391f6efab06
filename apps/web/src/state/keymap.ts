import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import { printed, type Chord } from '../lib/chord';

/** The keys of every action until they are changed. Those that the whole trade shares are as hands know them. */
export const DEFAULT_KEYS = {
  play: ['Space'],
  'shuttle-back': ['J'],
  halt: ['K'],
  'shuttle-on': ['L'],
  first: ['Home'],
  last: ['End'],
  'to-ref': ['W'],
  mute: ['Shift+L'],
  note: ['!'],
  cut: [':'],
  'note-next': [')'],
  'note-previous': ['('],
  next: ['ArrowRight'],
  previous: ['ArrowLeft'],
  next10: ['Shift+ArrowRight'],
  previous10: ['Shift+ArrowLeft'],
  in: ['I'],
  out: ['O'],
  ref: ['R'],
  new: ['N'],
  up: ['Alt+ArrowUp'],
  left: ['Alt+ArrowLeft'],
  down: ['Alt+ArrowDown'],
  right: ['Alt+ArrowRight'],
  up1: ['Alt+Shift+ArrowUp'],
  left1: ['Alt+Shift+ArrowLeft'],
  down1: ['Alt+Shift+ArrowDown'],
  right1: ['Alt+Shift+ArrowRight'],
  'spot-next': ['.'],
  'spot-previous': [','],
  use: ['U'],
  delete: ['Delete', 'Backspace'],
  suggest: ['B'],
  'track-end': ['T'],
  'track-start': ['Shift+T'],
  'track-next': ['G'],
  'track-previous': ['Shift+G'],
  'track-both': ['H'],
  'track-pin': ['Shift+H'],
  'track-between': ['Shift+B'],
  follow: ['A'],
  stop: ['X'],
  'doubt-next': ['Z'],
  'doubt-previous': ['Shift+Z'],
  fine: ['E'],
  check: ['Shift+Q'],
  bridge: ['P'],
  'carry-on': ['Shift+C'],
  'by-hand': ['Shift+N'],
  'delete-here': ['Shift+Delete', 'Shift+Backspace'],
  still: ['Q'],
  calm: ['S'],
  lock: ['D'],
  'goal-key': ['Shift+W'],
  'leave-out': ['Shift+U'],
  worst: ['Shift+E'],
  map: ['M'],
  tint: ['Shift+K'],
  hold: ['Shift+P'],
  'ignore-area': ['Shift+I'],
  'focus-area': ['Shift+O'],
  regroup: ['Shift+J'],
  surface: ['8'],
  soft: ['*'],
  'by-colour': ['_'],
  faces: ['%'],
  points: ['#'],
  edge: ['&'],
  join: ['$'],
  dots: ["'"],
  grid: ['9'],
  misfits: ['0'],
  eye: ['Y'],
  'time-in': [']'],
  'time-out': ['['],
  'time-all': ['\\'],
  compare: ['C'],
  toggle: ['V'],
  fit: ['F'],
  full: ['Shift+F'],
  'zoom-in': ['+', '='],
  'zoom-out': ['-'],
  blink: ['Shift+V'],
  difference: ['Shift+D'],
  onion: ['Shift+A'],
  closer: ['Shift+R'],
  crosshair: ['Shift+X'],
  guides: ['Shift+S'],
  trails: ['Shift+Y'],
  curves: ['Shift+M'],
  leave: ['Escape'],
  undo: ['Mod+Z'],
  redo: ['Mod+Shift+Z', 'Mod+Y'],
  mark: ['1'],
  track: ['2'],
  repair: ['3'],
  steady: ['4'],
  frame: ['5'],
  layers: ['6'],
  handOver: ['7'],
  bare: [';'],
  keys: ['?'],
} as const satisfies Readonly<Record<string, readonly Chord[]>>;

export type ActionId = keyof typeof DEFAULT_KEYS;

/** What of the keys has been changed, by action. */
export type KeyChanges = Readonly<Partial<Record<ActionId, readonly Chord[]>>>;

const IDS = Object.keys(DEFAULT_KEYS) as ActionId[];

export function chordsOf(changes: KeyChanges, id: ActionId): readonly Chord[] {
  return changes[id] ?? DEFAULT_KEYS[id];
}

/** @returns the action that a chord is bound to, or undefined */
export function actionFor(changes: KeyChanges, chord: Chord): ActionId | undefined {
  return IDS.find((id) => chordsOf(changes, id).includes(chord));
}

/** Binds a chord to an action in place of what it had; an action that had the chord loses it. */
export function bound(changes: KeyChanges, id: ActionId, chord: Chord): KeyChanges {
  const loser = IDS.find((other) => other !== id && chordsOf(changes, other).includes(chord));
  const without = loser && chordsOf(changes, loser).filter((c) => c !== chord);
  return { ...changes, ...(loser && { [loser]: without }), [id]: [chord] };
}

/** Gives an action its first keys back; whatever has taken one of them meanwhile loses it. */
export function unbound(changes: KeyChanges, id: ActionId): KeyChanges {
  const { [id]: _, ...others } = changes;
  const next: Partial<Record<ActionId, readonly Chord[]>> = others;
  const own: readonly Chord[] = DEFAULT_KEYS[id];
  for (const other of IDS) {
    const kept = chordsOf(changes, other).filter((c) => !own.includes(c));
    if (other !== id && kept.length < chordsOf(changes, other).length) next[other] = kept;
  }
  return next;
}

/** The keys as they are in this browser. */
export const useKeymap = create<{ readonly changes: KeyChanges }>()(
  persist(() => ({ changes: {} as KeyChanges }), { name: 'lurn.keys' }),
);

export function bindKey(id: ActionId, chord: Chord): void {
  useKeymap.setState(({ changes }) => ({ changes: bound(changes, id, chord) }));
}

export function unbindKey(id: ActionId): void {
  useKeymap.setState(({ changes }) => ({ changes: unbound(changes, id) }));
}

export function unbindAllKeys(): void {
  useKeymap.setState({ changes: {} });
}

/** An action's first key as it is printed; empty when it has none. */
export function useKeyName(id: ActionId | undefined): string {
  return useKeymap(({ changes }) =>
    id && chordsOf(changes, id)[0] ? printed(chordsOf(changes, id)[0]) : '',
  );
}

/** A tooltip that ends with an action's key. */
export function useKeyTip(): (text: string, id: ActionId) => string {
  const changes = useKeymap((s) => s.changes);
  return (text, id) => {
    const [chord] = chordsOf(changes, id);
    return chord ? `${text} (${printed(chord)})` : text;
  };
}
