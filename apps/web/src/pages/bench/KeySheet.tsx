import { Key } from '../../components/Tip';
import { setBench } from '../../state/bench';
import type { Action } from './keys';

/** All keys of the Bench, by group. */
export function KeySheet({ actions }: { readonly actions: readonly Action[] }) {
  const groups = [...new Set(actions.map((a) => a.group))];
  const close = () => setBench({ keySheet: false });
  return (
    <dialog
      open
      className="modal"
      aria-label="Keys"
      onKeyDown={(e) => e.key === 'Escape' && close()}
      onClick={close}
    >
      <div className="modal-box max-w-4xl bg-base-200 p-4" onClick={(e) => e.stopPropagation()}>
        <div className="columns-3 gap-6">
          {groups.map((group) => (
            <section key={group} className="mb-3 break-inside-avoid">
              <h2 className="mb-1 font-semibold">{group}</h2>
              <ul className="text-xs">
                {actions
                  .filter((a) => a.group === group)
                  .map((a) => (
                    <li key={a.id} className="flex items-center justify-between gap-2 py-px">
                      <span>{a.label}</span>
                      <Key>{a.shown}</Key>
                    </li>
                  ))}
              </ul>
            </section>
          ))}
        </div>
        <p className="quiet text-xs">
          Wheel: zoom about the pointer. Shift-drag or middle button: pan. Keys work whatever has the focus,
          except while typing.
        </p>
        <div className="mt-2 text-right">
          <button type="button" className="btn btn-sm" autoFocus onClick={close}>
            Close
          </button>
        </div>
      </div>
    </dialog>
  );
}
