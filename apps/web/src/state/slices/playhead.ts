import type { Size } from '@lurn/core/plan';

/** Where the playhead is and how it moves. */
export interface PlayheadSlice {
  readonly frame: number;
  /** The frame that the picture shows; it may lag behind `frame`. */
  readonly shown: number;
  /** A picture of the clip has been shown: until then a small one stands for it. */
  readonly pictured: boolean;
  /** Other frames that the picture is made of are still being read. */
  readonly waiting: boolean;
  /** The frame that is waited for because its part of the clip is still being copied; null when none is. */
  readonly awaited: number | null;
  /** Size of the copy that is seen in the full picture's place while the picture moves; null when it is the picture itself. */
  readonly reducedTo: Size | null;
  readonly playing: boolean;
  /** Times the clip's own rate; below 0 it plays back. */
  readonly speed: number;
  readonly muted: boolean;
}

export const BLANK_PLAYHEAD = {
  frame: 0,
  shown: 0,
  pictured: false,
  waiting: false,
  awaited: null,
  reducedTo: null,
  playing: false,
  speed: 1,
  muted: false,
} as const satisfies PlayheadSlice;
