import { gathered } from '@lurn/core/scene';
import { analyse, type AnalysedScene } from '@lurn/core/solve';
import { FRAMES, INFO } from './open-bench';

/** Features of a wall that shakes, and of a board before it that sways, over the Bench's clip. */
export function madeScene(): AnalysedScene {
  const board = (x: number, y: number) => Math.abs(x - 320) < 120 && Math.abs(y - 200) < 90;
  const places = Array.from({ length: 12 * 8 }, (_, k) => ({
    x: 25 + 53 * (k % 12) + (k % 5),
    y: 20 + 45 * Math.floor(k / 12) + (k % 3),
  }));
  const tracks = places.map(({ x, y }) => {
    const sway = board(x, y) ? 15 : 0;
    const at = Array.from({ length: FRAMES }, (_, f) => ({
      x: x + 4 * Math.sin(f / 2) + sway * Math.sin(f / 7),
      y: y + 3 * Math.cos(f / 3) - 3,
    }));
    return { start: 0, x: at.map((p) => p.x), y: at.map((p) => p.y), confidence: at.map(() => 0.9) };
  });
  return analyse(gathered(tracks, FRAMES, [], [1, 1]), {
    width: INFO.width,
    height: INFO.height,
    pixelAspect: 1,
  });
}
