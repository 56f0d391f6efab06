import type { Raster } from '@lurn/core/compose';
import { NEW_EDGE, NEW_TEXT_STYLE, type RasterSource } from '@lurn/model';
import { Rasters } from './rasters';

/** What layers show, as it comes and goes. */

const raster: Raster = { width: 1, height: 1, data: new Uint8Array(4) };
const text = (key: string): RasterSource => ({
  ...{ kind: 'text', key, text: key, style: NEW_TEXT_STYLE, edge: NEW_EDGE, side: 0 },
});
const settled = () => new Promise((resume) => setTimeout(resume));

describe('rasters', () => {
  it('are asked for once, told of when they are there, and forgotten when no layer shows them', async () => {
    const ask = jest.fn(() => Promise.resolve(raster));
    const made = jest.fn();
    const rasters = new Rasters(made, jest.fn(), ask);
    rasters.want([text('a')]);
    expect(rasters.get('a')).toBeNull();
    rasters.want([text('a'), text('b')]);
    await settled();
    expect([ask.mock.calls.length, made.mock.calls.length, rasters.get('a')]).toEqual([2, 2, raster]);
    rasters.want([text('b')]);
    expect(rasters.get('a')).toBeNull();
  });

  it('that come when nobody wants them any more are not kept, and those that fail are asked for anew', async () => {
    const ask = jest.fn(() => Promise.resolve(raster));
    const failed = jest.fn();
    const rasters = new Rasters(jest.fn(), failed, ask);
    rasters.want([text('a')]);
    rasters.want([]);
    await settled();
    expect(rasters.get('a')).toBeNull();
    ask.mockImplementationOnce(() => Promise.reject(new Error('it has gone')));
    rasters.want([text('c')]);
    await settled();
    expect(failed).toHaveBeenCalledWith(text('c'), 'it has gone');
    rasters.want([text('c')]);
    await settled();
    expect(rasters.get('c')).toBe(raster);
  });

  it('of strokes are painted at once', () => {
    const rasters = new Rasters(jest.fn(), jest.fn(), jest.fn());
    const box = { left: 0, top: 0, width: 10, height: 10 };
    const stroke = {
      ...({ tool: 'brush', colour: [255, 0, 0], size: 8, hardness: 1, flow: 1 } as const),
      points: [[5, 5, 1]] as const,
    };
    rasters.want([{ kind: 'strokes', key: 's', strokes: [stroke], box, scale: 1 }]);
    expect(rasters.get('s')!.data[4 * 55 + 3]).toBe(255);
  });
});
