import { gathered } from '../scene/scene-tracks.js';
import type { SceneMover } from '../scene/movers.js';
import { nothingToHold } from './nothing-to-hold.js';

const track = { start: 0, x: [1, 2], y: [1, 2], confidence: [1, 1] };
const mover = (more: Partial<SceneMover>): SceneMover => ({
  ...{ id: 'a', name: 'a', share: 0.6, spread: 0.5, rim: 0.5, frames: 90, overlay: false },
  ...more,
});
const scene = (movers: SceneMover[], frames = 90, tracks = [track]) => ({
  ...{ tracks: gathered(tracks, frames, [], [1, 1]), movers, moverOf: new Int16Array(0) },
  motions: movers.map(() => ({})),
});

describe('nothing to hold', () => {
  it.each([
    ['few frames', scene([], 3), /only 3 frames/],
    ['no texture', scene([], 90, []), /no texture/],
    ['what does not last', scene([]), /stays the same/],
    ['water', scene([mover({ share: 0.05, frames: 18 })]), /moves by itself/],
  ])('is said of %s', (_, of, words) => expect(nothingToHold(of)).toMatch(words));

  it.each([
    ['surroundings', mover({})],
    ['a few features of a wall', mover({ share: 0.04 })],
    ['what is seen for a third of the time, and is most of what there is', mover({ frames: 30 })],
  ])('is not said of %s', (_, first) => expect(nothingToHold(scene([first]))).toBeNull());
});
