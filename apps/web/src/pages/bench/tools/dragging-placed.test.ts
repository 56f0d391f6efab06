import { rectangle, type Quad } from '@lurn/core/geometry';
import { placeMoved } from './dragging-placed';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), error: jest.fn(), warning: jest.fn() } }));

/** What a drag of each part does to a placed rectangle. */

const placed = rectangle(100, 50, 300, 150);
const from = { x: 0, y: 0 };
const flat = (quad: Quad | null) => quad!.flatMap(({ x, y }) => [x, y]);
const closeTo = (numbers: readonly number[]) => numbers.map((n) => expect.closeTo(n, 6) as number);

describe('a placed layer', () => {
  it('is moved by its body, and one corner alone by the ring beyond it', () => {
    expect(flat(placeMoved(placed, 'body', 0, from, { x: 5, y: -4 }))).toEqual([
      105, 46, 305, 46, 305, 146, 105, 146,
    ]);
    expect(flat(placeMoved(placed, 'place', 2, from, { x: 5, y: -4 }))).toEqual([
      100, 50, 300, 50, 305, 146, 100, 150,
    ]);
  });

  it('is sized by a corner about the opposite one, in proportion, and never to nothing', () => {
    const half = placeMoved(placed, 'corner', 2, { x: 300, y: 150 }, { x: 200, y: 100 });
    expect(flat(half)).toEqual(closeTo([100, 50, 200, 50, 200, 100, 100, 100]));
    const [, b] = placeMoved(placed, 'corner', 2, { x: 300, y: 150 }, { x: 100, y: 50 })!;
    expect(b.x - 100).toBeCloseTo(4, 6);
  });

  it('is stretched by a side, the one across from it staying', () => {
    const wider = placeMoved(placed, 'side', 1, { x: 300, y: 100 }, { x: 350, y: 120 });
    expect(flat(wider)).toEqual(closeTo([100, 50, 350, 50, 350, 150, 100, 150]));
    const lower = placeMoved(placed, 'side', 0, { x: 200, y: 50 }, { x: 230, y: 75 });
    expect(flat(lower)).toEqual(closeTo([100, 75, 300, 75, 300, 150, 100, 150]));
  });

  it('is turned about its middle', () => {
    const turned = placeMoved(placed, 'turn', 0, { x: 200, y: 20 }, { x: 280, y: 100 });
    expect(flat(turned)).toEqual(closeTo([250, 0, 250, 200, 150, 200, 150, 0]));
  });
});
