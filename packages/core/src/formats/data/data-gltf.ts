import type { Point } from '../../geometry/matrix.js';
import { meshGltf } from '../mesh-gltf.js';
import { boundsOf, GltfParts, INDICES, VERTICES } from '../gltf-parts.js';
import { sizeFor } from './choices.js';
import type { DataExport } from './data-export.js';
import { placesOfMesh } from './kinds/mesh-data.js';
import { outlinesOf, type KeyedOutline } from './keyed-outlines.js';

/**
 * glTF 2.0 (Khronos 2017): a node with its path for every spot; for a surface, or the picture as it is steadied, a
 * textured quad whose corners are joints with a path each. Key times are the frames' own; a unit is a pixel, y up, the
 * origin at the picture's bottom left.
 */
export const gltfExport: DataExport = {
  ...{ id: 'gltf', name: 'glTF 2.0', extension: 'gltf' },
  of: ['tracks', 'corners', 'motion', 'movers', 'meshes'],
  heeds: [],
  *files(data) {
    const size = sizeFor(data.clip, 'glTF, where y goes up,');
    const { height } = size;
    if (data.kind === 'meshes') {
      const seen = data.things.filter((t) => placesOfMesh(t).length > 0);
      yield { name: 'data.gltf', content: meshGltf(seen, size) };
      return;
    }
    const up = ({ x, y }: Point) => [x, height - y, 0];
    const scene = new SceneOfPaths(up);
    for (const outline of outlinesOf(data)) if (outline.keys.length > 0) scene.add(outline);
    yield { name: 'data.gltf', content: `${JSON.stringify(scene.told())}\n` };
  },
};

class SceneOfPaths {
  private readonly parts = new GltfParts();
  private readonly nodes: object[] = [];
  private readonly roots: number[] = [];
  private readonly meshes: object[] = [];
  private readonly skins: object[] = [];
  private readonly samplers: object[] = [];
  private readonly channels: object[] = [];

  constructor(private readonly up: (p: Point) => number[]) {}

  add(outline: KeyedOutline): void {
    const { name, keys } = outline;
    const times = Float32Array.from(keys, (k) => k.time);
    const bounds = { min: [times[0]], max: [times[times.length - 1]] };
    const input = this.parts.add(times, 'SCALAR', times.length, null, bounds);
    const corners = keys[0].at.length;
    const joints = Array.from({ length: corners }, (_, c) => this.path(outline, c, input));
    this.roots.push(...joints);
    if (corners < 4) return;
    this.roots.push(this.nodes.length);
    this.nodes.push({ name, mesh: this.meshes.length, skin: this.skins.length });
    this.quad(outline, joints);
  }

  /** A node that goes where a point of the outline goes. */
  private path({ name, keys }: KeyedOutline, corner: number, input: number): number {
    const places = Float32Array.from(keys.flatMap((k) => this.up(k.at[corner])));
    const output = this.parts.add(places, 'VEC3', keys.length, null);
    const node = this.nodes.length;
    const own = keys[0].at.length > 1 ? `${name} ${corner + 1}` : name;
    this.nodes.push({ name: own, translation: Array.from(places.slice(0, 3)) });
    this.channels.push({ sampler: this.samplers.length, target: { node, path: 'translation' } });
    this.samplers.push({ input, output, interpolation: 'STEP' });
    return node;
  }

  /** A quad whose every vertex hangs on one joint. */
  private quad({ name }: KeyedOutline, joints: readonly number[]): void {
    const { parts } = this;
    const none = new Float32Array(12);
    const position = parts.add(none, 'VEC3', 4, VERTICES, boundsOf(none));
    const texture = parts.add(Float32Array.from([0, 0, 1, 0, 1, 1, 0, 1]), 'VEC2', 4, VERTICES);
    const joint = Uint8Array.from([0, 0, 0, 0, 1, 0, 0, 0, 2, 0, 0, 0, 3, 0, 0, 0]);
    const weight = Float32Array.from([1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0]);
    // Clockwise where y goes down is anticlockwise where it goes up, seen from the front.
    const indices = parts.add(Uint32Array.from([0, 2, 1, 0, 3, 2]), 'SCALAR', 6, INDICES);
    this.meshes.push({
      name,
      primitives: [
        {
          attributes: {
            ...{ POSITION: position, TEXCOORD_0: texture },
            JOINTS_0: parts.add(joint, 'VEC4', 4, VERTICES),
            WEIGHTS_0: parts.add(weight, 'VEC4', 4, VERTICES),
          },
          indices,
        },
      ],
    });
    this.skins.push({ joints });
  }

  told(): object {
    const { nodes, roots, meshes, skins, samplers, channels } = this;
    return {
      asset: { version: '2.0', generator: 'Lurn' },
      scene: 0,
      scenes: [{ nodes: roots }],
      nodes,
      ...(meshes.length > 0 && { meshes, skins }),
      animations: [{ name: 'motion', samplers, channels }],
      ...this.parts.told(),
    };
  }
}
