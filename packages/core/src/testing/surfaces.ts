import { nearby, randomNumbers, speckledSurface, type Surface } from './footage.js';

/** Brightness that goes from 0 to 1 across an edge about a pixel wide. */
const edge = (d: number) => (d > 5 ? 1 : 1 / (1 + Math.exp(-3.4 * d)));

/** Turned boards and signs with straight edges and corners, one over the other, on a field that repeats. */
export function signedSurface(seed: number, field = 400): Surface {
  const random = randomNumbers(seed);
  const boards = Array.from({ length: Math.round((field * field) / 260) }, () => {
    const [x, y, w, h] = [random() * field, random() * field, 3 + 12 * random(), 3 + 9 * random()];
    const turn = (random() - 0.5) * 1.2;
    return [x, y, Math.cos(turn), Math.sin(turn), w, h, 35 + 185 * random()];
  });
  const near = nearby(boards, field, ([, , , , w, h]) => Math.hypot(w + 4, h + 4));
  return (x, y) => {
    const u = x - field * Math.floor(x / field);
    const v = y - field * Math.floor(y / field);
    const cell = near(u, v);
    let value = 110;
    for (let k = 0; k < cell.length; k += 7) {
      const dx = u - cell[k];
      const dy = v - cell[k + 1];
      const p = cell[k + 4] - Math.abs(cell[k + 2] * dx + cell[k + 3] * dy);
      if (p < -4) continue;
      const q = cell[k + 5] - Math.abs(cell[k + 2] * dy - cell[k + 3] * dx);
      if (q < -4) continue;
      value += (cell[k + 6] - value) * edge(p) * edge(q);
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
    const joint = edge(Math.min(fx - 1.2, 22.8 - fx, fy - 1.2, 12.8 - fy));
    const shade = shades[(((row * 131 + column * 17) % 997) + 997) % 997];
    return 60 + (shade - 60) * joint + 0.25 * (speckle(x, y) - 120);
  };
}
