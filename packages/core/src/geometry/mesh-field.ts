import { borderEdges, type Mesh } from './mesh.js';
import type { Point } from './matrix.js';
import { movingWeights } from './moving-affine.js';
import { subdivided, throughPlaces, type Subdivided } from './subdivision.js';
import type { MeshWarp } from './warp.js';

/** Vertices that what lies beyond a mesh goes with, at the most. */
const MOST_LEADING = 240;

/** What part of a picture a field is made over, in pixels. */
export interface FieldExtent {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/**
 * Where the places of a picture go when a mesh on it moves: inside by the subdivided mesh, beyond it smoothly on. What
 * does not change from frame to frame is worked out once.
 */
export class MeshField {
  private readonly fine: Subdivided;
  /** Of every node within the mesh: four corners of a face of the subdivided mesh, and how much each counts. */
  private readonly inside: {
    readonly node: number;
    readonly corners: readonly number[];
    readonly shares: readonly number[];
  }[] = [];
  /** Of every node beyond it: how much each leading vertex counts. */
  private readonly beyond: { readonly node: number; readonly weights: Float64Array }[] = [];
  private readonly leading: readonly number[];

  /**
   * @param flat     places of the mesh's vertices in the picture
   * @param levels   how often it is subdivided
   * @param extent   what part of the picture it is made over; beyond it the outermost cells go on
   * @param columns  cells that the field is told by, across and down
   */
  constructor(
    faces: Mesh['faces'],
    flat: readonly Point[],
    levels: number,
    private readonly extent: FieldExtent,
    private readonly columns: number,
    private readonly rows: number,
  ) {
    this.fine = subdivided(faces, flat.length, levels);
    const places = throughPlaces(this.fine, flatOf(flat));
    const found = new Uint8Array((columns + 1) * (rows + 1));
    for (const face of this.fine.faces) this.cover(face, places, found);
    this.leading = leadingOf(faces, flat);
    const from = this.leading.map((v) => flat[v]);
    const border = [...new Set(borderEdges(faces).flat())].filter((v) => this.leading.includes(v));
    const near = Math.max(2, spacingOf(faces, flat));
    // At the border vertices it must go on from where they are: what smoothness leaves there dies away beyond.
    const misses = border.map((v) => {
      const weights = movingWeights(flat[v], from, near);
      const miss = weights.map((w) => -w);
      miss[this.leading.indexOf(v)] += 1;
      return { at: flat[v], miss };
    });
    for (let node = 0; node < found.length; node++) {
      if (found[node]) continue;
      const at = this.evaluatorOf(node);
      const weights = movingWeights(at, from, near);
      addMisses(weights, at, misses, near);
      this.beyond.push({ node, weights });
    }
  }

  /** Where the picture's places go when the vertices are at these. */
  warpTo(vertices: readonly Point[]): MeshWarp {
    const { columns, rows, extent } = this;
    const to = new Float64Array(2 * (columns + 1) * (rows + 1));
    const places = throughPlaces(this.fine, flatOf(vertices));
    for (const { node, corners, shares } of this.inside) {
      let [x, y] = [0, 0];
      for (let i = 0; i < corners.length; i++) {
        x += shares[i] * places[2 * corners[i]];
        y += shares[i] * places[2 * corners[i] + 1];
      }
      to[2 * node] = x;
      to[2 * node + 1] = y;
    }
    const lead = this.leading.map((v) => vertices[v]);
    for (const { node, weights } of this.beyond) {
      let [x, y] = [0, 0];
      for (let i = 0; i < lead.length; i++) {
        x += weights[i] * lead[i].x;
        y += weights[i] * lead[i].y;
      }
      to[2 * node] = x;
      to[2 * node + 1] = y;
    }
    const { x: left, y: top, width, height } = extent;
    const before = [1 / width, 0, -left / width, 0, 1 / height, -top / height, 0, 0, 1] as const;
    return { kind: 'mesh', columns, rows, to, before };
  }

  private evaluatorOf(node: number): Point {
    const across = this.columns + 1;
    const [c, r] = [node % across, Math.floor(node / across)];
    const { x, y, width, height } = this.extent;
    return { x: x + (c / this.columns) * width, y: y + (r / this.rows) * height };
  }

  /** The nodes that lie within a face. */
  private cover(face: readonly number[], places: Float64Array, found: Uint8Array): void {
    const { columns, rows, extent } = this;
    const quad = face.map((v) => ({ x: places[2 * v], y: places[2 * v + 1] }));
    const across = quad.map((p) => ((p.x - extent.x) / extent.width) * columns);
    const down = quad.map((p) => ((p.y - extent.y) / extent.height) * rows);
    const first = (at: readonly number[]) => Math.max(0, Math.ceil(Math.min(...at) - 1e-9));
    const last = (at: readonly number[], cells: number) =>
      Math.min(cells, Math.floor(Math.max(...at) + 1e-9));
    const [c0, c1, r0, r1] = [first(across), last(across, columns), first(down), last(down, rows)];
    for (let r = r0; r <= r1; r++) {
      for (let c = c0; c <= c1; c++) {
        const node = r * (columns + 1) + c;
        if (found[node]) continue;
        const shares = sharesIn(quad, this.evaluatorOf(node));
        if (!shares) continue;
        found[node] = 1;
        this.inside.push({ node, corners: face, shares });
      }
    }
  }
}

/** How much each corner of a triangle or quad counts at a place in it (barycentric, or bilinear); null beside it. */
function sharesIn(corners: readonly Point[], at: Point): number[] | null {
  if (corners.length === 3) {
    const [a, b, c] = corners;
    const det = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
    const u = ((at.x - a.x) * (c.y - a.y) - (at.y - a.y) * (c.x - a.x)) / det;
    const v = ((b.x - a.x) * (at.y - a.y) - (b.y - a.y) * (at.x - a.x)) / det;
    return u >= -RIM && v >= -RIM && u + v <= 1 + RIM ? [1 - u - v, u, v] : null;
  }
  const uv = inBilinear(corners, at);
  if (!uv) return null;
  const { u, v } = uv;
  return [(1 - u) * (1 - v), u * (1 - v), u * v, (1 - u) * v];
}

const RIM = 1e-6;
const ROUNDS = 12;

/** Where a place lies in a quad with bilinear coordinates, by Newton's steps; null beside it. */
function inBilinear([a, b, c, d]: readonly Point[], at: Point): { u: number; v: number } | null {
  let [u, v] = [0.5, 0.5];
  for (let round = 0; round < ROUNDS; round++) {
    const x = (1 - v) * ((1 - u) * a.x + u * b.x) + v * ((1 - u) * d.x + u * c.x) - at.x;
    const y = (1 - v) * ((1 - u) * a.y + u * b.y) + v * ((1 - u) * d.y + u * c.y) - at.y;
    const [xu, yu] = [(1 - v) * (b.x - a.x) + v * (c.x - d.x), (1 - v) * (b.y - a.y) + v * (c.y - d.y)];
    const [xv, yv] = [(1 - u) * (d.x - a.x) + u * (c.x - b.x), (1 - u) * (d.y - a.y) + u * (c.y - b.y)];
    const det = xu * yv - xv * yu;
    if (Math.abs(det) < 1e-12) return null;
    const [du, dv] = [(yv * x - xv * y) / det, (xu * y - yu * x) / det];
    u -= du;
    v -= dv;
    if (Math.abs(du) + Math.abs(dv) < 1e-10) break;
  }
  return u >= -RIM && v >= -RIM && u <= 1 + RIM && v <= 1 + RIM ? { u, v } : null;
}

function addMisses(
  weights: Float64Array,
  at: Point,
  misses: readonly { readonly at: Point; readonly miss: Float64Array }[],
  near: number,
): void {
  let total = 0;
  let nearest = Infinity;
  const shares = misses.map(({ at: p }) => {
    const d = (p.x - at.x) ** 2 + (p.y - at.y) ** 2;
    nearest = Math.min(nearest, d);
    const share = 1 / (d * d + 1e-6);
    total += share;
    return share;
  });
  const fade = 1 / (1 + nearest / (9 * near * near));
  misses.forEach(({ miss }, m) => {
    const share = (fade * shares[m]) / total;
    if (share < 1e-4) return;
    for (let i = 0; i < weights.length; i++) weights[i] += share * miss[i];
  });
}

/** The vertices that lead what lies beyond: all, or the border's and some of the others. */
function leadingOf(faces: Mesh['faces'], flat: readonly Point[]): number[] {
  const used = [...new Set(faces.flat())];
  if (used.length <= MOST_LEADING) return used.length > 0 ? used : flat.map((_, i) => i);
  const every = Math.ceil(used.length / MOST_LEADING);
  const border = [...new Set(borderEdges(faces).flat())];
  const thin = Math.ceil((2 * border.length) / MOST_LEADING);
  const kept = new Set(border.filter((_, i) => i % thin === 0));
  used.forEach((v, i) => i % (2 * every) === 0 && kept.add(v));
  return [...kept];
}

/** The mean length of an edge. */
export function spacingOf(faces: Mesh['faces'], at: readonly Point[]): number {
  let [sum, n] = [0, 0];
  for (const face of faces) {
    face.forEach((a, i) => {
      const b = face[(i + 1) % face.length];
      sum += Math.hypot(at[a].x - at[b].x, at[a].y - at[b].y);
      n++;
    });
  }
  return n > 0 ? sum / n : 1;
}

/** Points as numbers, x and y of each. */
export function flatOf(points: readonly Point[]): Float64Array {
  const out = new Float64Array(2 * points.length);
  points.forEach((p, i) => {
    out[2 * i] = p.x;
    out[2 * i + 1] = p.y;
  });
  return out;
}

/** Places of vertices of which some are not known: those go with the others. Null where fewer than three are known. */
export function filledPlaces(flat: readonly Point[], places: readonly (Point | null)[]): Point[] | null {
  const known = places.flatMap((p, i) => (p ? [i] : []));
  if (known.length < 3) return null;
  if (known.length === places.length) return places as Point[];
  const from = known.map((i) => flat[i]);
  const area = areaAbout(from);
  const near = 0.5 * Math.sqrt(area / known.length);
  return places.map((p, i) => {
    if (p) return p;
    const weights = movingWeights(flat[i], from, near);
    let [x, y] = [0, 0];
    known.forEach((k, j) => {
      x += weights[j] * places[k]!.x;
      y += weights[j] * places[k]!.y;
    });
    return { x, y };
  });
}

function areaAbout(points: readonly Point[]): number {
  const [xs, ys] = [points.map((p) => p.x), points.map((p) => p.y)];
  const [w, h] = [Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)];
  return Math.max(1, w * h);
}
