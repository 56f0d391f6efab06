import { filmKey, type Raster } from '@lurn/core/compose';
import { Films } from './films';

const raster = (frame: number): Raster => ({ width: 1, height: 1, data: Uint8Array.of(frame, 0, 0, 255) });
const source = { kind: 'film', key: filmKey('ab'), hash: 'ab', width: 1, height: 1, frames: 20 } as const;
const settled = () => new Promise((resume) => setTimeout(resume));
const key = (frame: number) => filmKey('ab', frame);

describe('films of layers', () => {
  it('are asked for frame by frame, a few ahead, and the last one stands in meanwhile', async () => {
    const asked: number[] = [];
    const made = jest.fn();
    const films = new Films(made, jest.fn(), (_, frame) => {
      asked.push(frame);
      return Promise.resolve(raster(frame));
    });
    films.want([source]);
    expect(films.get(key(3))).toBeNull();
    expect(asked).toEqual([3, 4, 5, 6, 7]);
    await settled();
    expect([made.mock.calls.length, films.get(key(3))?.data[0]]).toEqual([1, 3]);
    expect(films.get(key(4))?.data[0]).toBe(4);
    expect(films.get(key(15))?.data[0]).toBe(4);
    await settled();
    expect(films.get(key(15))?.data[0]).toBe(15);
    expect(asked).toEqual([3, 4, 5, 6, 7, 8, 15, 16, 17, 18, 19]);
  });

  it('that were asked for ahead are drawn when they come, if they are seen by then', async () => {
    const come: (() => void)[] = [];
    const made = jest.fn();
    const films = new Films(made, jest.fn(), (_, frame) => {
      return new Promise((resolve) => come.push(() => resolve(raster(frame))));
    });
    films.want([source]);
    films.get(key(0));
    films.get(key(1));
    come[2]();
    await settled();
    expect(made).not.toHaveBeenCalled();
    come[1]();
    await settled();
    expect([made.mock.calls.length, films.get(key(1))?.data[0]]).toEqual([1, 1]);
  });

  it('that nobody wants, and rasters that are none, are not there', () => {
    const ask = jest.fn(() => Promise.resolve(raster(0)));
    const films = new Films(jest.fn(), jest.fn(), ask);
    expect([films.get(key(0)), films.get('asset ab')]).toEqual([null, null]);
    expect(ask).not.toHaveBeenCalled();
  });

  it('say what cannot be had, once for the frame that is shown', async () => {
    const failed = jest.fn();
    const films = new Films(jest.fn(), failed, () => Promise.reject(new Error('gone')));
    films.want([source]);
    films.get(key(0));
    await settled();
    expect(failed.mock.calls).toEqual([[source, 'gone']]);
  });
});
