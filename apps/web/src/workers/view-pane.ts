import type { Laying, Pane } from '@lurn/media';
import type { Scene } from '@lurn/core/compose';
import type { Matrix3, Warp } from '@lurn/core/geometry';

/** A part of the canvas, and the scene that is seen in it. */
export interface ViewPane extends Pick<Pane, 'x' | 'y' | 'width' | 'height' | 'quality'> {
  readonly scene: Scene;
  /** Pane pixels to those of the scene. */
  readonly toScene: Matrix3;
  /** Another frame laid half over this one: the reference frame, as it is (onion) or as a negative (difference). */
  readonly over: {
    readonly frame: number;
    /** Pixels of the scene to upright source pixels. */
    readonly toSource: Warp;
    readonly laying: Exclude<Laying, 'over'>;
  } | null;
}
