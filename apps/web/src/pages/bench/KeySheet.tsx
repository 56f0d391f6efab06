import { RotateCcw } from 'lucide-react';
import { useEffect, useState } from 'react';
import { Key } from '../../components/Tip';
import { chordOf, printed } from '../../lib/chord';
import { setBench } from '../../state/bench';
import {
  actionFor,
  bindKey,
  chordsOf,
  unbindAllKeys,
  unbindKey,
  useKeymap,
  type ActionId,
} from '../../state/keymap';
import type { Action } from './keys';

const close = () => setBench({ keySheet: false });

/** All keys of the Bench, by group; each can be changed. */
export function KeySheet({ actions }: { readonly actions: readonly Action[] }) {
  const groups = [...new Set(actions.map((a) => a.group))];
  const [asking, setAsking] = useState<ActionId | null>(null);
  const [lost, setLost] = useState<string | null>(null);
  const changes = useKeymap((s) => s.changes);

  useEffect(() => {
    // Before anything else hears of it: nothing on the Bench is to happen while its keys are on the table.
    const onKeyDown = (e: KeyboardEvent) => {
      e.stopPropagation();
      const chord = chordOf(e);
      if (!asking) {
        if (e.key === 'Escape' || (chord && actionFor(useKeymap.getState().changes, chord) === 'keys'))
          close();
        return;
      }
      e.preventDefault();
      if (e.key === 'Escape') setAsking(null);
      else if (chord) {
        const loser = actions.find((a) => a.id === actionFor(useKeymap.getState().changes, chord));
        bindKey(asking, chord);
        setLost(loser && loser.id !== asking ? `"${loser.label}" has lost ${printed(chord)}.` : null);
        setAsking(null);
      }
    };
    document.addEventListener('keydown', onKeyDown, true);
    return () => document.removeEventListener('keydown', onKeyDown, true);
  }, [asking, actions]);

  return (
    <dialog open className="modal" aria-label="Keys" onClick={close}>
      {/* It has the focus itself, so that it opens at its top. */}
      <div
        className="modal-box max-w-5xl bg-base-200 p-4 outline-none"
        tabIndex={-1}
        ref={focused}
        onClick={(e) => e.stopPropagation()}
      >
        <div className="columns-3 gap-6">
          {groups.map((group) => (
            <section key={group} className="mb-3 break-inside-avoid">
              <h2 className="mb-1 font-semibold">{group}</h2>
              <ul className="text-xs">
                {actions
                  .filter((a) => a.group === group)
                  .map((a) => (
                    <li key={a.id} className="flex items-center gap-1">
                      <span className="grow">{a.label}</span>
                      {a.id in changes && (
                        <button
                          type="button"
                          className="btn btn-ghost btn-xs h-5 min-h-0 px-1"
                          aria-label={`${a.label}: back to the first key`}
                          title="Back to the first key"
                          onClick={() => unbindKey(a.id)}
                        >
                          <RotateCcw size={11} />
                        </button>
                      )}
                      <button
                        type="button"
                        className="btn btn-ghost btn-xs h-5 min-h-0 shrink-0 px-0.5"
                        aria-label={`Change the key of: ${a.label}`}
                        title="Press to change it"
                        onClick={() => {
                          setLost(null);
                          setAsking(a.id);
                        }}
                      >
                        <Key>{asking === a.id ? 'press a key' : nameOf(changes, a.id)}</Key>
                      </button>
                    </li>
                  ))}
              </ul>
            </section>
          ))}
        </div>
        <p className="text-xs" role="status">
          {asking
            ? 'Press the new key, with Shift, Alt or Ctrl if it is to have them. Esc keeps the old one.'
            : lost}
        </p>
        <p className="quiet text-xs">
          Press a key above to change it. Wheel: zoom about the pointer. Double press on a spot: zoom to it.
          Shift-drag or middle button: pan. Keys work whatever has the focus, except while typing, and are
          kept in this browser.
        </p>
        <div className="mt-2 flex justify-end gap-2">
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={Object.keys(changes).length === 0}
            onClick={unbindAllKeys}
          >
            All keys as they were first
          </button>
          <button type="button" className="btn btn-sm" onClick={close}>
            Close
          </button>
        </div>
      </div>
    </dialog>
  );
}

const focused = (element: HTMLElement | null) => element?.focus({ preventScroll: true });

function nameOf(changes: Parameters<typeof chordsOf>[0], id: ActionId): string {
  return chordsOf(changes, id).map(printed).join(', ') || '–';
}
