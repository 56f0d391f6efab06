import type { LookContent } from '@lurn/core/compose';
import { movedKeys } from '../outline.js';
import type { LayerOutline } from './layer-outline.js';
import { ALWAYS, type ShownLayer } from './layer-rules.js';
import { middleOf } from './placed-layer.js';

/** Something within a drawn shape; all over where it has none. */
interface Outlined {
  readonly outline: LayerOutline | null;
}

/** What is the same for every layer that is drawn as a closed shape. */
export const OUTLINED = {
  moved: ({ outline }: Outlined, move: (place: readonly [number, number]) => readonly [number, number]) =>
    outline ? { outline: { ...outline, keys: movedKeys(outline.keys, move) } } : {},
  files: () => [],
};

export function showOutlined({ outline }: Outlined, content: LookContent, margin = 0): ShownLayer {
  const middle = outline ? middleOf(outline.keys[0].shape) : { x: 0, y: 0 };
  return { content: [{ content, span: ALWAYS }], rasters: [], outline, middle, margin };
}
