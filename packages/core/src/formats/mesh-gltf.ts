import type { Point } from '../geometry/matrix.js';
import { placesOfMesh, pointsOf } from './data/kinds/mesh-data.js';
import type { MovingThing } from './data/moving-data.js';
import { boundsOf, GltfParts, INDICES, VERTICES } from './gltf-parts.js';

/**
 * Meshes with their motion as glTF 2.0 (Khronos 2017): a morph target a frame, of which an animation shows one after the
 * other. A unit is a pixel; x to the right, y up, the origin at the picture's bottom left; texture places are those of a
 * mesh's own frame.
 */
export function meshGltf(
  things: readonly MovingThing[],
  { width, height }: { readonly width: number; readonly height: number },
): string {
  const parts = new GltfParts();
  const up = ({ x, y }: Point) => [x, height - y, 0] as const;
  const made = things.map((thing, k) => {
    const { name, mesh } = thing;
    const vertices = pointsOf(mesh!.vertices) as Point[];
    const frames = placesOfMesh(thing);
    const n = vertices.length;
    const rest = Float32Array.from(vertices.flatMap(up));
    const position = parts.add(rest, 'VEC3', n, VERTICES, boundsOf(rest));
    const uv = Float32Array.from(vertices.flatMap((p) => [p.x / width, p.y / height]));
    const texture = parts.add(uv, 'VEC2', n, VERTICES);
    // Clockwise where y goes down is anticlockwise where it goes up, seen from the front; a face of more is a fan.
    const index = Uint32Array.from(
      mesh!.faces.flatMap(([a, ...others]) => others.slice(1).flatMap((c, i) => [a, c, others[i]])),
    );
    const indices = parts.add(index, 'SCALAR', index.length, INDICES);
    const targets = frames.map(({ places }) => {
      const moved = Float32Array.from(places.flatMap(up), (v, i) => v - rest[i]);
      return { POSITION: parts.add(moved, 'VEC3', n, VERTICES, boundsOf(moved)) };
    });
    const count = frames.length;
    const times = Float32Array.from(frames, ({ frame }) => frame.time);
    const input = parts.add(times, 'SCALAR', count, null, { min: [times[0]], max: [times[count - 1]] });
    const weights = new Float32Array(count * count);
    for (let f = 0; f < count; f++) weights[f * count + f] = 1;
    const output = parts.add(weights, 'SCALAR', weights.length, null);
    return {
      node: { name, mesh: k },
      mesh: {
        name,
        primitives: [{ attributes: { POSITION: position, TEXCOORD_0: texture }, indices, targets }],
        weights: Array.from({ length: count }, (_, f) => (f === 0 ? 1 : 0)),
      },
      animation: {
        name: `${name} moves`,
        samplers: [{ input, output, interpolation: 'STEP' }],
        channels: [{ sampler: 0, target: { node: k, path: 'weights' } }],
      },
    };
  });
  return JSON.stringify({
    asset: { version: '2.0', generator: 'Lurn' },
    scene: 0,
    scenes: [{ nodes: made.map((_, k) => k) }],
    nodes: made.map((m) => m.node),
    meshes: made.map((m) => m.mesh),
    animations: made.map((m) => m.animation),
    ...parts.told(),
  });
}
