import { EMPTY_SOFT_TRACK, softSample, withSoftSamples } from '../soft/soft-track.js';
import { meshGltf } from './mesh-gltf.js';
import { meshObj, parseMeshes, writeMeshes } from './mesh-file.js';

const mesh = {
  vertices: [
    { x: 0, y: 0 },
    { x: 10, y: 0 },
    { x: 10, y: 8.12345 },
    { x: 0, y: 8 },
  ],
  faces: [
    [0, 1, 2],
    [0, 2, 3],
  ],
};
const track = withSoftSamples(EMPTY_SOFT_TRACK, [
  softSample(4, [{ x: 1, y: 2, confidence: 0.91, state: 'tracked' }, null, null, { x: 3, y: 4, confidence: 1, state: 'pinned' }]), // prettier-ignore
]);
const text = writeMeshes([{ name: 'flag', frame: 2, mesh, track }]);

it('a mesh goes out as it is agreed, and comes in as the same numbers', () => {
  expect(parseMeshes(text)).toEqual([
    {
      name: 'flag',
      frame: 2,
      vertices: [[0, 0], [10, 0], [10, 8.1235], [0, 8]], // prettier-ignore
      faces: mesh.faces,
      frames: [{ frame: 4, vertices: [[1, 2], null, null, [3, 4]], confidence: [0.91, 0, 0, 1] }],
    },
  ]);
});

it('a file that is none says where and what', () => {
  const odd = (change: (m: Record<string, unknown>) => void) => {
    const root = JSON.parse(text) as { meshes: Record<string, unknown>[] };
    change(root.meshes[0]);
    return () => parseMeshes(JSON.stringify(root));
  };
  expect(() => parseMeshes('{')).toThrow('it is not JSON');
  expect(() => parseMeshes('{}')).toThrow('it must be { "meshes"');
  expect(odd((m) => (m.faces = [[0, 1, 9]]))).toThrow(
    'meshes[0].faces must be lists of numbers of its 4 vertices',
  );
  expect(odd((m) => (m.frames = [{ frame: 1, vertices: [[1, 2]], confidence: [1] }]))).toThrow(
    'meshes[0].frames[0].vertices must be 4 times',
  );
  expect(odd((m) => (m.vertices = [[1, 'x']]))).toThrow('meshes[0].vertices');
});

it('as an object it is seen from the front, y up', () => {
  const lines = meshObj({ mesh, name: 'the flag' }, mesh.vertices, { width: 20, height: 10 }).split('\n');
  expect(lines[0]).toBe('o the_flag');
  expect(lines[1]).toBe('v 0 10 0');
  expect(lines[5]).toBe('vt 0.000000 1.000000');
  expect(lines[9]).toBe('f 3/3 2/2 1/1');
});

it('as glTF it has a target a frame, shown one after the other', () => {
  const moved = mesh.vertices.map((p) => ({ x: p.x + 3, y: p.y - 1 }));
  const frames = [mesh.vertices, moved].map((places, k) => ({ time: k / 25, places }));
  const gltf = JSON.parse(meshGltf({ mesh, name: 'flag' }, frames, { width: 20, height: 10 })) as {
    accessors: { min?: number[]; max?: number[]; count: number; bufferView: number }[];
    bufferViews: { byteOffset: number; byteLength: number }[];
    buffers: { uri: string; byteLength: number }[];
    meshes: { primitives: { targets: { POSITION: number }[]; attributes: { POSITION: number } }[] }[];
    animations: { samplers: { input: number; output: number }[] }[];
  };
  const bytes = Buffer.from(gltf.buffers[0].uri.split(',')[1], 'base64');
  expect(bytes).toHaveLength(gltf.buffers[0].byteLength);
  const [primitive] = gltf.meshes[0].primitives;
  const floats = (k: number) => {
    const { byteOffset, byteLength } = gltf.bufferViews[gltf.accessors[k].bufferView];
    return Array.from({ length: byteLength / 4 }, (_, i) => bytes.readFloatLE(byteOffset + 4 * i));
  };
  expect(floats(primitive.attributes.POSITION).slice(0, 3)).toEqual([0, 10, 0]);
  expect(floats(primitive.targets[1].POSITION).slice(0, 3)).toEqual([3, 1, 0]);
  expect(gltf.accessors[primitive.targets[1].POSITION]).toMatchObject({ min: [3, 1, 0], max: [3, 1, 0] });
  const [{ input, output }] = gltf.animations[0].samplers;
  expect(floats(input).map((t) => t.toFixed(2))).toEqual(['0.00', '0.04']);
  expect(floats(output)).toEqual([1, 0, 0, 1]);
});
