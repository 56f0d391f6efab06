import { useEffect } from 'react';
import { chordOf } from '../../../lib/chord';
import { actionFor, useKeymap } from '../../../state/keymap';
import type { Action } from './action';

/** Runs actions by their keys, whatever has the focus, except while something is typed. */
export function useKeys(actions: readonly Action[]): void {
  useEffect(() => {
    const onKeyDown = (e: KeyboardEvent) => {
      if (e.defaultPrevented || belongsToField(e)) return;
      const chord = chordOf(e);
      const id = chord && actionFor(useKeymap.getState().changes, chord);
      const action = actions.find((a) => a.id === id);
      if (!action) return;
      e.preventDefault();
      action.run();
    };
    document.addEventListener('keydown', onKeyDown);
    return () => document.removeEventListener('keydown', onKeyDown);
  }, [actions]);
}

/** True for keys that the focused field needs itself: all of them while typing, few on switches and sliders. */
export function belongsToField({ target, key }: Pick<KeyboardEvent, 'target' | 'key'>): boolean {
  if (target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement) return true;
  if (!(target instanceof HTMLInputElement)) return false;
  if (target.type === 'checkbox' || target.type === 'radio')
    return key === ' ' || (target.type === 'radio' && key.startsWith('Arrow'));
  return target.type === 'range' ? /^(Arrow|Home|End|Page)/.test(key) : true;
}
