import { packColumns, toJson } from '@lurn/core/formats';
import { EMPTY_TRACK, withSamples } from '@lurn/core/track';
import { newDocument } from './document.js';
import { readColumns, readShotBody, shotBodyHead } from './shot-body.js';

const track = withSamples(EMPTY_TRACK, [{ frame: 2, x: 10.5, y: 20.25, confidence: 0.9, state: 'tracked' }]);
const document = {
  ...newDocument({ width: 640, height: 360, frames: 50 }),
  movers: [{ id: 'm', name: 'Gerüst – 雪' }],
};

function bodyOf(columns: ReadonlyMap<string, Uint8Array>): Uint8Array {
  return Uint8Array.from(
    [shotBodyHead({ revision: 3, document, columns }), ...columns.values()].flatMap((b) => [...b]),
  );
}

describe('a shot in bytes', () => {
  it('comes back as it was, names of any script included', () => {
    const columns = new Map([
      ['a', packColumns(track)],
      ['b', packColumns(EMPTY_TRACK)],
    ]);
    const read = readShotBody(bodyOf(columns));
    expect(read).toMatchObject({ revision: 3, document });
    expect([...read.columns.keys()]).toEqual(['a', 'b']);
    expect(readColumns(read.columns.get('a')!)).toEqual(track);
    expect(readColumns(read.columns.get('b')!)).toEqual(EMPTY_TRACK);
  });

  it('lies anywhere in a larger buffer', () => {
    const bytes = bodyOf(new Map([['a', packColumns(track)]]));
    const larger = new Uint8Array(bytes.length + 9);
    larger.set(bytes, 5);
    expect(readShotBody(larger.subarray(5, 5 + bytes.length)).columns.size).toBe(1);
  });

  it('that is cut off, too long or something else is refused', () => {
    const bytes = bodyOf(new Map([['a', packColumns(track)]]));
    for (const odd of [
      new Uint8Array(0),
      bytes.subarray(0, 3),
      bytes.subarray(0, 40),
      bytes.subarray(0, bytes.length - 1),
      Uint8Array.of(...bytes, 0),
      Uint8Array.from('{"revision":1}', (c) => c.charCodeAt(0)),
      Uint8Array.of(2, 0, 0, 0, 123, 125),
    ])
      expect(() => readShotBody(odd)).toThrow(expect.objectContaining({ code: 'bad-request' }));
  });

  it('has columns of every version', () => {
    const text = (value: unknown) => Uint8Array.from(JSON.stringify(value), (c) => c.charCodeAt(0));
    expect(readColumns(text(toJson(track)))).toEqual(track);
    const before = { start: 2, state: 't', confidence: [0.9], x: [10.5], y: [20.25] };
    expect(readColumns(text(before))).toEqual(track);
  });
});
