import type { Point } from '@lurn/core/geometry';
import type { PaneRect } from '../../../lib/view';
import type { OutlineRef } from '../../../state/outlines';

/** What the pointer is over when it goes down. */
export type Target =
  | { readonly kind: 'empty' }
  | { readonly kind: 'spot'; readonly id: string }
  | { readonly kind: 'patch' | 'reach'; readonly id: string }
  | {
      /** A drawn outline, whatever it belongs to. */
      readonly kind: 'outline';
      readonly outline: OutlineRef;
      readonly part: 'line' | 'corner' | 'edge';
      readonly index: number;
    }
  /** A corner of a surface's quad. */
  | { readonly kind: 'quad'; readonly surface: string; readonly index: number }
  /** A point of a soft surface's mesh, by its number. */
  | { readonly kind: 'vertex'; readonly soft: string; readonly index: number }
  /** A corner of the rectangle that a soft surface is laid to. */
  | { readonly kind: 'laid'; readonly soft: string; readonly index: number }
  | {
      /** A layer that is placed by its corners. */
      readonly kind: 'placed';
      readonly layer: string;
      readonly part: 'body' | 'place' | 'side' | 'turn' | 'corner';
      readonly index: number;
    }
  | { readonly kind: 'crosshair' | 'lock' };

export interface PointerAt {
  /** In picture pixels of the pane that it went down in. */
  readonly picture: Point;
  /** In CSS pixels of the twin view. */
  readonly screen: Point;
  /** How hard a pen presses, 0 to 1; missing for what cannot tell. */
  readonly pressure?: number;
}

export interface Press {
  readonly at: PointerAt;
  readonly target: Target;
  readonly pane: PaneRect;
  /** The press asks for panning, whatever lies under it. */
  readonly pans: boolean;
  /** Alt is held. */
  readonly alt: boolean;
}

/** One thing done with the pointer held down, from press to release. */
export interface Drag {
  move(at: PointerAt): void;
  up(): void;
  /** The pointer was taken away, or Escape was pressed: all is as it was before. */
  cancel(): void;
}

/**
 * What is in the hand: a small state machine. At rest it waits for a press; a press leads to a drag; its release, or its
 * cancelling, leads back to rest.
 */
export abstract class Tool {
  private drag: Drag | null = null;

  /** What is said over the picture while it is in the hand; null for nothing. */
  abstract hint(): string | null;
  /** What a press leads to; null where nothing does. */
  protected abstract press(press: Press): Drag | null;

  enter(): void {
    // Nothing to prepare, as a rule.
  }

  down(press: Press): void {
    this.cancel();
    this.drag = this.press(press);
  }

  move(at: PointerAt): void {
    this.drag?.move(at);
  }

  up(): void {
    const { drag } = this;
    this.drag = null;
    drag?.up();
  }

  cancel(): void {
    const { drag } = this;
    this.drag = null;
    drag?.cancel();
  }

  /** @returns true when the key was the tool's own: Escape gives a drag up */
  key(key: string): boolean {
    if (key !== 'Escape' || !this.drag) return false;
    this.cancel();
    return true;
  }

  /** It is laid down: what is under way is given up. */
  exit(): void {
    this.cancel();
  }
}
