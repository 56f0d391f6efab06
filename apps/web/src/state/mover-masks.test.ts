import type { MoverMasks } from '@lurn/core/solve';
import { addRegroup } from '@lurn/model';
import { madeScene } from '../testing/made-scene';
import { openBench } from '../testing/open-bench';
import { bench, setBench } from './bench';
import { keepMasks, masksHere } from './mover-masks';
import { holdAt, sceneNow } from './scene';
import { edit, shotDocument } from './shot';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), success: jest.fn(), error: jest.fn() } }));

const scene = madeScene();
/** Two by one samples: the left half is one mover's, the right half the other's. */
const halves: MoverMasks = { width: 2, height: 1, mover: Uint8Array.of(1, 0) };
const make = jest.fn(() => Promise.resolve(halves));
const rest = () => jest.advanceTimersByTimeAsync(200);
let stop: () => void = () => undefined;

beforeEach(() => {
  jest.useFakeTimers();
  make.mockClear();
  openBench();
  setBench({ scene, masks: null, shown: 0, tint: false, tool: { id: 'mark' }, playing: false });
  stop = keepMasks(make);
});
afterEach(() => {
  stop();
  jest.useRealTimers();
  setBench({ scene: null, masks: null, tint: false });
});

describe('masks of movers', () => {
  it('are made once for a frame, where movers are told apart and the playhead rests', async () => {
    await rest();
    expect(make).not.toHaveBeenCalled();
    setBench({ tint: true, playing: true });
    await rest();
    expect(make).not.toHaveBeenCalled();
    setBench({ playing: false });
    setBench({ shown: 3 });
    await jest.advanceTimersByTimeAsync(100);
    setBench({ shown: 4 });
    await rest();
    expect(make.mock.calls).toEqual([[scene, 4]]);
    expect(masksHere(bench(), scene)).toBe(halves);
    setBench({ tint: false });
    setBench({ tint: true });
    await rest();
    expect(make).toHaveBeenCalledTimes(1);
  });

  it('of another frame, or of other movers, are not shown', async () => {
    setBench({ tint: true });
    await rest();
    expect(masksHere(bench(), scene)).toBe(halves);
    setBench({ shown: 1 });
    expect(masksHere(bench(), scene)).toBeNull();
    setBench({ shown: 0 });
    const shape = [
      [0, 0],
      [50, 0],
      [50, 50],
    ] as const;
    edit((s) => addRegroup(s, { frame: 0, shape }, scene.movers[1].id));
    expect(masksHere(bench(), sceneNow())).toBeNull();
    await rest();
    expect(make).toHaveBeenLastCalledWith(sceneNow(), 0);
  });

  it('that come too late are dropped, and those that cannot be made are done without', async () => {
    let give: (masks: MoverMasks) => void = () => undefined;
    make.mockImplementationOnce(() => new Promise((resolve) => (give = resolve)));
    setBench({ tint: true });
    await rest();
    setBench({ shown: 2 });
    give(halves);
    make.mockRejectedValueOnce(new Error('It cannot be read.'));
    await rest();
    expect(bench().masks).toBeNull();
  });

  it('say what is pointed at', async () => {
    setBench({ tool: { id: 'hold' } });
    await rest();
    const { width, height } = scene.size;
    expect(holdAt({ x: 0.25 * width, y: height / 2 }, 0)).toBe(true);
    expect(shotDocument().held).toBe(scene.movers[1].id);
    expect(holdAt({ x: 0.75 * width, y: height / 2 }, 0)).toBe(true);
    expect(shotDocument().held).toBeNull();
  });
});
