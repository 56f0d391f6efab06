import { firstGoal } from '@lurn/core/plan';
import { newDocument, type ClipScene, type ClipSummary } from '@lurn/model';
import { api } from '../lib/api';
import { madeScene } from '../testing/made-scene';
import { INFO, lying, openBench, shotWith, spot } from '../testing/open-bench';
import { bench, setBench } from './bench';
import { heldPlace, holdAt, keepScene } from './scene';
import { shotDocument, undo } from './shot';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), success: jest.fn(), error: jest.fn() } }));

const scene = madeScene();
const calm = { ...firstGoal(scene, 25)!, goal: 'calm' as const, smoothing: 2 };
const known: ClipScene = { movers: scene.movers, cuts: [], first: calm };
const clip = (made: ClipScene | null) =>
  ({
    ...bench().clip,
    made: { copy: null, reduced: null, film: null, wave: false, scene: made },
  }) as ClipSummary;
const settle = () => new Promise((resume) => setTimeout(resume));

let stop: () => void = () => undefined;
beforeEach(() => jest.spyOn(api, 'scene').mockResolvedValue(scene));
afterEach(() => {
  stop();
  jest.restoreAllMocks();
  setBench({ scene: null, savedRevision: 0 });
});

describe('what is known of the whole picture', () => {
  it('is fetched when the clip is opened, which is then seen steadied', async () => {
    openBench();
    setBench({ clip: clip(known), savedRevision: 0 });
    stop = keepScene();
    await settle();
    expect(bench().scene).toBe(scene);
    expect(bench().station).toBe('steady');
    expect(shotDocument().goal).toMatchObject({ goal: 'calm', calm: { smoothing: { x: 2 } } });
  });

  it('is fetched once it has been found out, and changes nothing that somebody has chosen', async () => {
    openBench(shotWith([spot('a'), lying(100, 80, 0, 5)]));
    setBench({ clip: clip(null), savedRevision: 3 });
    stop = keepScene();
    await settle();
    expect(api.scene).not.toHaveBeenCalled();
    setBench({ clip: clip(known) });
    await settle();
    expect(bench().scene).toBe(scene);
    expect(bench().station).toBe('mark');
    expect(shotDocument().goal.goal).toBe('still');
    setBench({ clip: clip(known) });
    await settle();
    expect(api.scene).toHaveBeenCalledTimes(1);
  });

  it('that could not be fetched is asked for again', async () => {
    jest.mocked(api.scene).mockRejectedValueOnce(new Error('The server does not answer.'));
    openBench();
    setBench({ clip: clip(known) });
    stop = keepScene();
    await settle();
    expect(bench().scene).toBeNull();
    setBench({ clip: clip(known) });
    await settle();
    expect(bench().scene).toBe(scene);
  });

  it('of other frames than the clip has is not taken', async () => {
    openBench();
    setBench({ clip: clip(known), info: { ...INFO, frames: 7 } });
    stop = keepScene();
    await settle();
    expect(bench().scene).toBeNull();
  });
});

describe('holding what is pointed at', () => {
  it('holds the mover there, in one step of undo, and the surroundings by holding nothing else', () => {
    openBench();
    setBench({ scene });
    expect(holdAt({ x: 320, y: 200 }, 4)).toBe(true);
    expect(shotDocument()).toMatchObject({
      held: 'scene-2',
      movers: [{}, { id: 'scene-2', name: 'mover 2' }],
    });
    expect(heldPlace(scene, shotDocument().held)).toBe(1);
    undo();
    expect(shotDocument()).toMatchObject(newDocument(INFO));
    holdAt({ x: 320, y: 200 }, 4);
    holdAt({ x: 20, y: 20 }, 4);
    expect(shotDocument().held).toBeNull();
    expect(heldPlace(scene, null)).toBe(0);
    expect(heldPlace(scene, 'mover-9')).toBe(-1);
  });

  it('says so where nothing is known to move', () => {
    openBench();
    setBench({ scene: null });
    expect(holdAt({ x: 320, y: 200 }, 4)).toBe(false);
    expect(shotDocument().held).toBeNull();
  });
});
