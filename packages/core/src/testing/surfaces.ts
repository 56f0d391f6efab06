import { nearby, randomNumbers, speckledSurface, type Surface } from './footage.js';

/** Brightness that goes from 0 to 1 across an edge about a pixel wide. */
const edge = (d: number) => 1 / (1 + Math.exp(-3.4 * d));

/** Turned boards and signs with straight edges and corners, one over the other, on a field that repeats. */
export function signedSurface(seed: number, field = 400): Surface {
  const random = randomNumbers(seed);
  const boards = Array.from({ length: Math.round((field * field) / 260) }, () => ({
    x: random() * field,
    y: random() * field,
    w: 3 + 12 * random(),
    h: 3 + 9 * random(),
    turn: (random() - 0.5) * 1.2,
    value: 35 + 185 * random(),
  }));
  const near = nearby(boards, field);
  const wrap = (d: number) => d - field * Math.round(d / field);
  return (x, y) => {
    const u = ((x % field) + field) % field;
    const v = ((y % field) + field) % field;
    let value = 110;
    for (const b of near(u, v)) {
      const [dx, dy] = [wrap(u - b.x), wrap(v - b.y)];
      const [c, s] = [Math.cos(b.turn), Math.sin(b.turn)];
      const [p, q] = [c * dx + s * dy, c * dy - s * dx];
      if (Math.abs(p) > b.w + 4 || Math.abs(q) > b.h + 4) continue;
      const cover = edge(b.w - Math.abs(p)) * edge(b.h - Math.abs(q));
      value += (b.value - value) * cover;
    }
    return value;
  };
}

/** Courses of stone, each stone of its own brightness: rows of near-lookalikes. */
export function masonrySurface(seed: number): Surface {
  const random = randomNumbers(seed);
  const shades = Array.from({ length: 997 }, () => 90 + 90 * random());
  const speckle = speckledSurface(seed + 1);
  return (x, y) => {
    const row = Math.floor(y / 14);
    const shift = (row & 1) * 12;
    const column = Math.floor((x + shift) / 24);
    const fx = x + shift - 24 * column;
    const fy = y - 14 * row;
    const joint = Math.min(edge(fx - 1.2), edge(22.8 - fx), edge(fy - 1.2), edge(12.8 - fy));
    const shade = shades[(((row * 131 + column * 17) % 997) + 997) % 997];
    return 60 + (shade - 60) * joint + 0.25 * (speckle(x, y) - 120);
  };
}
