import type { Point } from '../geometry/matrix.js';
import { leadsBy, nearestGroup } from './leads.js';

const grid = (x0: number, y0: number): Point[] =>
  Array.from({ length: 100 }, (_, i) => ({ x: x0 + 10 * (i % 10), y: y0 + 10 * Math.floor(i / 10) }));

/** Turned, grown, and bent a little. */
const moved = ({ x, y }: Point): Point => ({
  x: 40 + 1.1 * x - 0.2 * y + 2 * Math.sin(y / 40),
  y: -10 + 0.2 * x + 1.1 * y + 2 * Math.sin(x / 40),
});

describe('landmarks', () => {
  it('lead vertices between them as they went themselves, whatever is constantly wrong with them', () => {
    const own = grid(100, 100);
    const wrong = ({ x, y }: Point) => ({ x: x + 0.4, y: y - 0.3 });
    const vertices = [{ x: 133, y: 147 }, { x: 171, y: 118 }, { x: 104, y: 104 }]; // prettier-ignore
    const leads = leadsBy(own.map(wrong), own.map(wrong).map(moved), vertices);
    vertices.forEach((v, i) => {
      const lead = leads.get(i)!;
      const truth = moved(v);
      expect(lead.at).toEqual(v);
      expect(Math.hypot(lead.to.x - truth.x, lead.to.y - truth.y)).toBeLessThan(0.1);
      expect(lead.sd).toBeGreaterThan(0.5);
    });
  });

  it('tell nothing of what lies far from all of them', () => {
    const own = grid(100, 100);
    const leads = leadsBy(own, own.map(moved), [{ x: 150, y: 150 }, { x: 260, y: 150 }]); // prettier-ignore
    expect([...leads.keys()]).toEqual([0]);
    expect(leadsBy(own.slice(0, 2), own, [own[0]]).size).toBe(0);
  });

  it('of the one about a mesh are taken, of none where it lies elsewhere', () => {
    const [a, b] = [{ points: grid(100, 100) }, { points: grid(300, 100) }];
    expect(nearestGroup([a, b], [{ x: 320, y: 150 }, null])).toBe(b);
    expect(nearestGroup([a, b], [{ x: 600, y: 400 }])).toBeNull();
    expect(nearestGroup([a, b], [null])).toBeNull();
    expect(nearestGroup([], [{ x: 1, y: 1 }])).toBeNull();
  });
});
