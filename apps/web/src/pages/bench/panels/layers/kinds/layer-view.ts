import type { ComponentType } from 'react';
import type { LucideIcon } from 'lucide-react';

/** How a kind of layer is shown and begun. A new one is a file with such a record, entered in `layer-views.ts`. */
export interface LayerView<L> {
  readonly icon: LucideIcon;
  /** What only layers of the kind have. */
  readonly Fields: ComponentType<{ readonly layer: L }>;
  /** Its button; left out where others make it. */
  readonly begin?: {
    readonly text: string;
    readonly title: string;
    /** By a file, by a shape that is drawn, or at once. */
    readonly by: 'file' | 'drawing' | (() => void);
  };
}
