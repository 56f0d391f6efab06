import type { VideoSample } from 'mediabunny';

/** A decoded picture, which whoever takes it closes. */
export interface DecodedFrame {
  readonly frame: number;
  readonly sample: VideoSample;
}
