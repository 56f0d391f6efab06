import { zipSync } from 'fflate';
import { encode } from 'fast-png';
import { MapsReader } from './maps';

/** Archives of ST maps as people bring them. */

const SIZE = { width: 32, height: 18 };
/** The map of a picture that stays as it is. */
const plain = (width = SIZE.width, height = SIZE.height) => {
  const data = new Uint16Array(width * height * 3);
  for (let k = 0; k < width * height; k++) {
    data[3 * k] = (65535 * ((k % width) + 0.5)) / width;
    data[3 * k + 1] = 65535 * (1 - (Math.floor(k / width) + 0.5) / height);
    data[3 * k + 2] = 65535;
  }
  return encode({ width, height, data, depth: 16, channels: 3 });
};
const read = (files: Record<string, Uint8Array> | Uint8Array<ArrayBuffer>) => {
  const bytes = files instanceof Uint8Array ? files : new Uint8Array(zipSync(files));
  const file = { name: 'maps.zip', size: bytes.length, arrayBuffer: () => Promise.resolve(bytes.buffer) };
  return new MapsReader().read(file as unknown as File, SIZE);
};

it('are read in the order of their frames, those of the steadied picture where both ways are there', async () => {
  const { maps, size } = await read({ 'back/000003.png': plain(8, 8), 'steady/000004.png': plain(), 'steady/000003.png': plain() }); // prettier-ignore
  expect(size).toEqual(SIZE);
  expect(maps.map((m) => m.frame)).toEqual([3, 4]);
});

it('that say that one unpacks to more than is taken are refused before it is', async () => {
  const bytes = new Uint8Array(zipSync({ 'steady/000001.png': plain() }));
  // What the central directory says of the unpacked size.
  const at = bytes.findIndex((_, k) => [0x50, 0x4b, 1, 2].every((b, i) => bytes[k + i] === b));
  new DataView(bytes.buffer).setUint32(at + 24, 900e6, true);
  await expect(read(bytes)).rejects.toMatchObject({ code: 'too-large', message: expect.stringMatching(/is 900 MB unpacked/) }); // prettier-ignore
});

it.each([
  ['no zip', new Uint8Array(40), 'bad-map', /is no zip/],
  ['nothing of use', { 'read me.txt': new Uint8Array(3) }, 'bad-map', /has no maps in it/],
  ['no frame in a name', { 'steady/first.png': plain() }, 'bad-map', /does not say of which frame/],
  ['two sizes', { '1.png': plain(), '2.png': plain(16, 9) }, 'bad-map', /has another size/],
] as const)('with %s are refused in words', async (_, files, code, told) => {
  await expect(read(files as Record<string, Uint8Array>)).rejects.toMatchObject({ code, message: expect.stringMatching(told) }); // prettier-ignore
});
