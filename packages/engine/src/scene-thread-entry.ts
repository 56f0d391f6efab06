import { parentPort } from 'node:worker_threads';
import { toWire } from '@lurn/core';
import { planeOver } from '@lurn/core/picture';
import { SceneTracker } from '@lurn/core/scene';
import { analyse } from '@lurn/core/solve';
import type { ScenePlane, SceneRequest } from './scene.js';

let tracker = new SceneTracker();
let size = { width: 1, height: 1 };
/** What the tracker kept until this frame. */
let before: ArrayBuffer | null = null;

/**
 * The thread of {@link SceneReader}: follows the pictures it gets, gives their memory back, answers in the end, and is
 * ready for the next clip.
 */
parentPort!.on('message', (message: ScenePlane | SceneRequest) => {
  if ('finish' in message) {
    answer(message);
    return;
  }
  const { memory, width, height } = message;
  size = { width, height };
  tracker.add(planeOver(new Uint8Array(memory), width, height));
  // A picture is looked back at once: its memory is free a frame later.
  parentPort!.postMessage({ spare: before }, before ? [before] : []);
  before = memory;
});

function answer({ finish: { width, height, pixelAspect, frames, turns } }: SceneRequest): void {
  try {
    const tracks = tracker.finish([width / size.width, height / size.height]);
    const sideways = turns % 2 === 1;
    const scene = tracks.frames === frames ? analyse(tracks, { width, height, pixelAspect, sideways }) : null;
    parentPort!.postMessage({ scene });
  } catch (error) {
    parentPort!.postMessage({ error: toWire(error) });
  }
  tracker = new SceneTracker();
  before = null;
}
