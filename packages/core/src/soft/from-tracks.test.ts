import { EMPTY_TRACK, withSamples, type Track } from '../track/track.js';
import { meshFromTracks, tracksOfMesh } from './from-tracks.js';
import { softAt } from './soft-track.js';

const at = (x: number, y: number, from = 0, to = 9): Track =>
  withSamples(
    EMPTY_TRACK,
    Array.from({ length: to - from + 1 }, (_, i) => ({
      ...{ frame: from + i, x: x + 2 * (from + i), y, confidence: 0.8, state: 'tracked' as const },
    })),
  );

it('tracks become a mesh where most of them are known, and tracks again', () => {
  const tracks = [at(0, 0), at(50, 0), at(50, 50), at(0, 50), at(25, 20, 4, 7)];
  const { frame, mesh, track } = meshFromTracks(tracks);
  expect([frame, mesh.vertices.length, mesh.faces.length]).toEqual([4, 5, 4]);
  expect(softAt(track, 2)!.vertices[4]).toBeNull();
  expect(tracksOfMesh(track)).toEqual(tracks);
});

it('too few, or all in a line, are told of', () => {
  expect(() => meshFromTracks([at(0, 0), at(5, 5), at(9, 0)])).toThrow('here there are 3');
  expect(() => meshFromTracks([at(0, 0), at(5, 0), at(9, 0), at(20, 0)])).toThrow('on one line');
});
