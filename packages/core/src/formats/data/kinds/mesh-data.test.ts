import { EMPTY_SOFT_TRACK, softSample, withSoftSamples } from '../../../soft/soft-track.js';
import { dataOfMeshes, dataExportById, handOver, readData, type DataFile } from '../index.js';

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
const clip = { width: 20, height: 10, frames: 8, fps: 25 };
const data = dataOfMeshes([{ name: 'flag', frame: 2, mesh, track }], [0, 1, 2, 3, 4].map((f) => f / 25), clip);
const filesOf = (as: string, of = data) => [...handOver(of, dataExportById(as))] as (DataFile & { content: string })[];
const text = filesOf('json')[0].content;
const all = { x: 1, y: 0, confidence: 1, state: 'tracked' } as const;

it('a mesh goes out as it is agreed, and comes in as the same numbers', () => {
  expect((JSON.parse(text) as { meshes: object[] }).meshes).toEqual([
    {
      name: 'flag',
      frame: 2,
      vertices: [[0, 0], [10, 0], [10, 8.1235], [0, 8]], // prettier-ignore
      faces: mesh.faces,
      frames: [{ frame: 4, vertices: [[1, 2], null, null, [3, 4]], confidence: [0.91, 0, 0, 1] }],
    },
  ]);
  const again = readData(text);
  expect(again).toMatchObject({ kind: 'meshes', things: [{ name: 'flag', mesh: { frame: 2, faces: mesh.faces } }] });
  expect(filesOf('json', again)[0].content).toBe(text);
});

it('as a table each point that is known is a track', () => {
  expect(filesOf('csv')[0].content.split('\n').slice(0, 3)).toEqual([
    'spot,frame,time_s,x_px,y_px,confidence,state',
    'flag 0,4,0.16,1,2,0.91,tracked',
    'flag 3,4,0.16,3,4,1,pinned',
  ]);
});

it('a file that is none says where and what', () => {
  const odd = (change: (m: Record<string, unknown>) => void) => {
    const root = JSON.parse(text) as { meshes: Record<string, unknown>[] };
    change(root.meshes[0]);
    return () => readData(JSON.stringify(root));
  };
  expect(odd((m) => (m.faces = [[0, 1, 9]]))).toThrow(
    'meshes[0].faces must be lists of numbers of its 4 vertices',
  );
  expect(odd((m) => (m.frames = [{ frame: 1, vertices: [[1, 2]], confidence: [1] }]))).toThrow(
    'meshes[0].frames[0].vertices must be 4 times',
  );
  expect(odd((m) => (m.vertices = [[1, 'x']]))).toThrow('meshes[0].vertices');
});

const moving = () => {
  const places = (dx: number, dy: number) =>
    mesh.vertices.map((p) => ({ ...all, x: p.x + dx, y: p.y + dy }));
  const own = withSoftSamples(EMPTY_SOFT_TRACK, [softSample(0, places(0, 0)), softSample(1, places(3, -1))]);
  return dataOfMeshes([{ name: 'the flag', frame: 2, mesh, track: own }], [0, 0.04], clip);
};

it('as an object a frame it is seen from the front, y up', () => {
  const files = filesOf('obj', moving());
  expect(files.map((f) => f.name)).toEqual(['000000.obj', '000001.obj']);
  const lines = files[0].content.split('\n');
  expect(lines[0]).toBe('o the_flag');
  expect(lines[1]).toBe('v 0 10 0');
  expect(lines[5]).toBe('vt 0.000000 1.000000');
  expect(lines[9]).toBe('f 3/3 2/2 1/1');
});

it('as glTF it has a target a frame, shown one after the other', () => {
  const gltf = JSON.parse(filesOf('gltf', moving())[0].content) as {
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
