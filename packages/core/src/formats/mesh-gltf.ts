import type { Point } from '../geometry/matrix.js';
import { boundsOf, GltfParts, INDICES, VERTICES } from './gltf-parts.js';
import type { NamedMesh } from './mesh-file.js';

/** Where a mesh's points are on one frame, with the frame's time in seconds. */
export interface TimedPlaces {
  readonly time: number;
  readonly places: readonly Point[];
}

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
  const parts = new GltfParts();
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
