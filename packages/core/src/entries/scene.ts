/** The whole picture: features all over it, what moves together, cuts and fades. */

export { candidatesOf, reasonsFor } from '../scene/candidates.js';
export { SceneTracker } from '../scene/scene-tracker.js';
export type { SceneMover } from '../scene/movers.js';
export type { Fade } from '../scene/fades.js';
export { gathered, sampleIndex } from '../scene/scene-tracks.js';
