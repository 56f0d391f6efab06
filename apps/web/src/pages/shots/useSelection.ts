import { useState } from 'react';

/** Several of a list, by their ids; what is not in the list any more is not selected either. */
export function useSelection(list: readonly string[]) {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [last, setLast] = useState<string | null>(null);
  const selected = new Set(list.filter((id) => chosen.has(id)));
  return {
    size: selected.size,
    has: (id: string) => selected.has(id),
    clear: () => setChosen(new Set()),
    all: () => setChosen(new Set(list)),
    /** @param range  also everything between it and the one before */
    toggle(id: string, range: boolean) {
      const next = new Set(selected);
      const [from, to] = [list.indexOf(last ?? ''), list.indexOf(id)].sort((a, b) => a - b);
      if (range && from >= 0) list.slice(from, to + 1).forEach((other) => next.add(other));
      else if (!next.delete(id)) next.add(id);
      setChosen(next);
      setLast(id);
    },
  };
}
