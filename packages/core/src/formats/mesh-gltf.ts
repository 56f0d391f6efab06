import type { Point } from '../geometry/matrix.js';
import type { NamedMesh } from './mesh-file.js';

/** Where a mesh's points are on one frame, with the frame's time in seconds. */
export interface TimedPlaces {
  readonly time: number;
  readonly places: readonly Point[];
}

const [FLOAT, UNSIGNED_INT] = [5126, 5125];
const [VERTICES, INDICES] = [34962, 34963];

/**
 * A mesh with its motion as glTF 2.0 (Khronos 2017): a morph target a frame, of which an animation shows one after the
 * other. A unit is a pixel; x to the right, y up, the origin at the picture's bottom left; texture places are those of its
 * own frame.
 */
export function meshGltf(
  { name, mesh }: Pick<NamedMesh, 'name' | 'mesh'>,
  frames: readonly TimedPlaces[],
  { width, height }: { readonly width: number; readonly height: number },
): string {
  const n = mesh.vertices.length;
  const parts = new Parts();
  const up = ({ x, y }: Point) => [x, height - y, 0] as const;
  const rest = Float32Array.from(mesh.vertices.flatMap(up));
  const bounds = boundsOf(rest);
  const position = parts.add(rest, 'VEC3', n, VERTICES, bounds);
  const uv = Float32Array.from(mesh.vertices.flatMap((p) => [p.x / width, p.y / height]));
  const texture = parts.add(uv, 'VEC2', n, VERTICES);
  // Clockwise where y goes down is anticlockwise where it goes up, seen from the front.
  const triangles = mesh.faces.flatMap((f) => (f.length === 3 ? [f] : [[f[0], f[1], f[2]], [f[0], f[2], f[3]]])); // prettier-ignore
  const index = Uint32Array.from(triangles.flatMap(([a, b, c]) => [a, c, b]));
  const indices = parts.add(index, 'SCALAR', index.length, INDICES);
  const targets = frames.map(({ places }) => {
    const moved = Float32Array.from(places.flatMap(up), (v, k) => v - rest[k]);
    return { POSITION: parts.add(moved, 'VEC3', n, VERTICES, boundsOf(moved)) };
  });
  const times = Float32Array.from(frames, (f) => f.time);
  const count = frames.length;
  const input = parts.add(times, 'SCALAR', count, null, { min: [times[0]], max: [times[count - 1]] });
  const weights = new Float32Array(count * count);
  for (let k = 0; k < count; k++) weights[k * count + k] = 1;
  const output = parts.add(weights, 'SCALAR', weights.length, null);
  return JSON.stringify({
    asset: { version: '2.0', generator: 'Lurn' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ name, mesh: 0 }],
    meshes: [
      {
        name,
        primitives: [{ attributes: { POSITION: position, TEXCOORD_0: texture }, indices, targets }],
        weights: Array.from({ length: count }, (_, k) => (k === 0 ? 1 : 0)),
      },
    ],
    animations: [
      {
        name: `${name} moves`,
        samplers: [{ input, output, interpolation: 'STEP' }],
        channels: [{ sampler: 0, target: { node: 0, path: 'weights' } }],
      },
    ],
    ...parts.told(),
  });
}

function boundsOf(values: Float32Array): { min: number[]; max: number[] } {
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  values.forEach((v, k) => {
    min[k % 3] = Math.min(min[k % 3], v);
    max[k % 3] = Math.max(max[k % 3], v);
  });
  return { min, max };
}

/** Numbers of one buffer, with what tells where they lie. */
class Parts {
  private readonly bytes: Uint8Array[] = [];
  private length = 0;
  private readonly views: object[] = [];
  private readonly accessors: object[] = [];

  add(
    values: Float32Array | Uint32Array,
    type: 'SCALAR' | 'VEC2' | 'VEC3',
    count: number,
    target: number | null,
    bounds: object = {},
  ): number {
    this.bytes.push(new Uint8Array(values.buffer, values.byteOffset, values.byteLength));
    this.views.push({
      ...{ buffer: 0, byteOffset: this.length, byteLength: values.byteLength },
      ...(target !== null && { target }),
    });
    this.length += values.byteLength;
    const componentType = values instanceof Float32Array ? FLOAT : UNSIGNED_INT;
    this.accessors.push({ bufferView: this.views.length - 1, componentType, count, type, ...bounds });
    return this.accessors.length - 1;
  }

  told(): object {
    const all = new Uint8Array(this.length);
    let at = 0;
    for (const part of this.bytes) {
      all.set(part, at);
      at += part.length;
    }
    const uri = `data:application/octet-stream;base64,${base64(all)}`;
    return {
      bufferViews: this.views,
      accessors: this.accessors,
      buffers: [{ byteLength: this.length, uri }],
    };
  }
}

const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** Bytes as base64 (RFC 4648): core knows neither the browser's way nor Node's. */
function base64(bytes: Uint8Array): string {
  const out: string[] = [];
  for (let i = 0; i < bytes.length; i += 3) {
    const [a, b = 0, c = 0] = [bytes[i], bytes[i + 1], bytes[i + 2]];
    const bits = (a << 16) | (b << 8) | c;
    out.push(
      LETTERS[bits >> 18] + LETTERS[(bits >> 12) & 63],
      i + 1 < bytes.length ? LETTERS[(bits >> 6) & 63] : '=',
      i + 2 < bytes.length ? LETTERS[bits & 63] : '=',
    );
  }
  return out.join('');
}
