import { gathered, type Growing } from './scene-tracks.js';
import { behindOthers } from './in-front.js';

const SIZE = { width: 960, height: 540 };
const FRAMES = 60;
const [HALF, SPEED] = [90, 12];

/** A wall of features, and a block that goes by before it: of what it covers the tracks end, and begin anew behind it. */
function passing(): { list: Growing[]; group: number[] } {
  const list: Growing[] = [];
  const group: number[] = [];
  const track = (start: number, places: readonly (readonly [number, number])[], of: number) => {
    if (places.length < 3) return;
    const [x, y] = [0, 1].map((axis) => places.map((p) => p[axis]));
    list.push({ start, x, y, confidence: x.map(() => 0.9) });
    group.push(of);
  };
  const middle = (f: number) => 100 + SPEED * f;
  const covered = (x: number, y: number, f: number) =>
    Math.abs(x - middle(f)) < HALF && Math.abs(y - 270) < HALF;
  for (let y = 30; y < 540; y += 48)
    for (let x = 30; x < 960; x += 48) {
      let start = 0;
      for (let f = 0; f <= FRAMES; f++) {
        if (f < FRAMES && !covered(x, y, f)) continue;
        track(
          start,
          Array.from({ length: f - start }, () => [x, y] as const),
          0,
        );
        start = f + 1;
      }
    }
  for (let v = -70; v <= 70; v += 35)
    for (let u = -70; u <= 70; u += 35)
      track(
        0,
        Array.from({ length: FRAMES }, (_, f) => [middle(f) + u, 270 + v] as const),
        1,
      );
  return { list, group };
}

describe('what goes before what', () => {
  const { list, group } = passing();
  const part = { from: 0, to: FRAMES - 1, ...SIZE };

  it('is told by where tracks end: the wall lies behind, whichever comes first', () => {
    const tracks = gathered(list, FRAMES, [], [1, 1]);
    const [wall, block] = behindOthers(tracks, group, 2, part);
    expect(wall).toBeGreaterThan(0.5);
    expect(block).toBeLessThan(-0.5);
    const other = behindOthers(
      tracks,
      group.map((g) => 1 - g),
      2,
      part,
    );
    expect([...other]).toEqual([block, wall]);
  });

  it('is not told where nothing passes, nor of what ends for all at once', () => {
    const wall = list.filter((_, k) => group[k] === 0 && list[k].x.length === FRAMES);
    const halves = gathered(wall, FRAMES, [], [1, 1]);
    expect([
      ...behindOthers(
        halves,
        wall.map(({ x }) => (x[0] < 480 ? 0 : 1)),
        2,
        part,
      ),
    ]).toEqual([0, 0]);
  });
});
