import { analyse, LurnError, SceneTracker, type AnalysedScene, type Plane } from '@lurn/core';
import type { ClipInfo } from '@lurn/model';
import { indexClip, type IndexedClip } from './frame-index.js';

/** Samples of luma that the whole picture is analysed on, at the most. */
export const SCENE_SAMPLES = 960 * 540;

/** Follows the whole picture while a clip is read. */
export class SceneReader {
  private readonly tracker = new SceneTracker();
  private size = { width: 1, height: 1 };

  /** Takes the next frame, whose samples are overwritten afterwards. */
  add(luma: Plane): void {
    this.size = luma;
    // It keeps what it is given until the next frame: it gets its own copy.
    this.tracker.add({ ...luma, data: luma.data.slice() });
  }

  /** What moves in the clip; null where its frames turned out to be others. */
  finish({ width, height, pixelAspect, frames }: ClipInfo): AnalysedScene | null {
    const tracks = this.tracker.finish([width / this.size.width, height / this.size.height]);
    return tracks.frames === frames ? analyse(tracks, { width, height, pixelAspect }) : null;
  }
}

/**
 * Indexes a clip and analyses its whole picture, in one pass.
 *
 * @throws LurnError as {@link indexClip} does, and `no-scene` where nothing in it can be held
 */
export async function readScene(
  path: string,
  signal?: AbortSignal,
  onFrame?: (frame: number, expected: number) => void,
): Promise<{ clip: IndexedClip; scene: AnalysedScene }> {
  const reader = new SceneReader();
  let expected = 0;
  const clip = await indexClip(path, {
    signal,
    beside: (facts) => {
      expected = facts.expected;
      return Promise.resolve({ sidelines: [], samples: SCENE_SAMPLES });
    },
    look: (luma, frame) => {
      reader.add(luma);
      onFrame?.(frame + 1, expected);
    },
  });
  const scene = reader.finish(clip.info);
  if (!scene || scene.movers.length === 0 || !scene.motions[0]) {
    throw new LurnError(
      'no-scene',
      'Nothing in the picture can be held: it has no texture that stays from frame to frame. Mark spots instead.',
    );
  }
  return { clip, scene };
}
