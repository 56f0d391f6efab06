import { judgeSpots } from '@lurn/core/doubt';
import { apply, composeSimilarity } from '@lurn/core/geometry';
import { pathFor, planFrom } from '@lurn/core/plan';
import { solveMotion } from '@lurn/core/solve';
import { EMPTY_TRACK, withSamples, type Track } from '@lurn/core/track';
import { NEW_FRAMING, NEW_GOAL } from '@lurn/model';
import { asSpots } from './accuracy.js';
import type { Show } from './tracking.js';

/** Many spots over a long shot: time for the solve and the smoothing, and for half of it. */
export function speed(show: Show): Promise<void> {
  const seconds = (frames: number, spots: number, method: 'gaussian' | 'optimal' = 'gaussian') => {
    const tracks = manyTracks(frames, spots);
    const request = {
      size: { width: 1920, height: 1080 },
      frames,
      pixelAspect: 1,
      fps: 30,
      spots: asSpots(tracks),
      held: '',
      ref: 0,
      from: 0,
      to: frames - 1,
      goal: { ...NEW_GOAL, goal: 'calm' as const, calm: { ...NEW_GOAL.calm, method } },
      framing: { ...NEW_FRAMING, delivery: null },
    };
    const marks = [performance.now()];
    const mark = () => marks.push(performance.now());
    const solved = solveMotion(request)!;
    mark();
    pathFor(solved, request.goal, { ...request, window: request.size, shift: NEW_FRAMING });
    mark();
    planFrom(solved, request);
    mark();
    return marks.slice(1).map((t, i) => (t - marks[i]) / 1000);
  };
  seconds(500, 50);
  const whole = seconds(10_000, 200);
  const [shorter, fewer] = [seconds(5_000, 200), seconds(10_000, 100)];
  const both = ([solve, smooth]: readonly number[]) => solve + smooth;
  show(
    `10 000 frames, 200 spots on each: solve ${whole[0].toFixed(2)} s, smooth ${whole[1].toFixed(2)} s, together`,
    `${both(whole).toFixed(2)} s`,
    '< 2 s',
  );
  show(
    'the whole plan after the solve: path, zooms, worst frames, what is left, odd spots',
    `${whole[2].toFixed(2)} s`,
    '-',
  );
  const [, path] = seconds(10_000, 4, 'optimal');
  const [, half] = seconds(5_000, 4, 'optimal');
  show('10 000 frames: the optimal path', `${path.toFixed(2)} s`, 'seconds');
  show('time of the optimal path / of half the frames', (path / half).toFixed(2), 'about 2');
  show('time of the whole / of half the frames', (both(whole) / both(shorter)).toFixed(2), 'about 2');
  show('time of the whole / of half the spots', (both(whole) / both(fewer)).toFixed(2), 'at most 2');
  const judged = (count: number) => {
    const spots = manyTracks(3000, count).map((track, i) => ({
      ...{ id: String(i), name: String(i), mover: '', patch: [15, 15] as const, track },
    }));
    const start = performance.now();
    judgeSpots(spots, { width: 1920, height: 1080 });
    return (performance.now() - start) / 1000;
  };
  judged(50);
  const [all, some] = [judged(500), judged(250)];
  show('doubts of 500 spots on 3000 frames', `${all.toFixed(2)} s`, 'about 1 s');
  show('time of the doubts / of half the spots', (all / some).toFixed(2), 'about 2');
  return Promise.resolve();
}

function manyTracks(frames: number, spots: number): Track[] {
  const matrices = Array.from({ length: frames }, (_, f) =>
    composeSimilarity(
      {
        x: 0.4 * f + 9 * Math.sin(f / 3),
        y: 7 * Math.cos(f / 4),
        rotation: 0.01 * Math.sin(f / 5),
        logScale: 0.005 * Math.sin(f / 9),
      },
      { x: 960, y: 540 },
    ),
  );
  return Array.from({ length: spots }, (_, s) => {
    const at = { x: 300 + ((s * 577) % 1300), y: 200 + ((s * 331) % 700) };
    const places = matrices.map((m) => apply(m, at.x, at.y));
    return withSamples(
      EMPTY_TRACK,
      places.map((p, frame) => ({ frame, ...p, confidence: 1, state: 'tracked' as const })),
    );
  });
}
