import { EMPTY_TRACK, withSamples, type Track } from '@lurn/core/track';
import {
  changeDocument,
  changeGoal,
  FIRST_MOVER,
  newDocument,
  NEW_SPOT,
  type ClipInfo,
  type ShotState,
} from '@lurn/model';
import { Planner } from '../workers/planner';
import { bench, setBench } from './bench';
import { edit, openShot, undo } from './shot';
import { keepSolved } from './solving';

/** The page's part of planning, with the worker's part run beside it. */

const frames = 60;
const size = { width: 1280, height: 720 };
const shaken = (x: number, y: number): Track =>
  withSamples(
    EMPTY_TRACK,
    Array.from({ length: frames }, (_, frame) => ({
      ...{ frame, x: x + 9 * Math.sin(frame / 2), y: y + 7 * Math.cos(frame / 3) },
      ...{ confidence: 1, state: 'tracked' as const },
    })),
  );
const shot: ShotState = {
  document: {
    ...newDocument({ ...size, frames }),
    trackers: ['a', 'b', 'c'].map((id, colour) => ({
      ...NEW_SPOT,
      ...{
        id,
        name: id,
        mover: FIRST_MOVER.id,
        colour,
        patch: [15, 15],
        reach: [32, 24],
        minConfidence: 0.5,
      },
    })),
  },
  measured: { a: shaken(300, 200), b: shaken(900, 500), c: shaken(640, 150) },
};

/** Waits until something holds, as messages from a worker would arrive. */
async function until(holds: () => boolean): Promise<void> {
  for (let round = 0; round < 1000 && !holds(); round++) await new Promise((resume) => setTimeout(resume));
  expect(holds()).toBe(true);
}

let planner: Planner;
let closed: boolean;
let stop: () => void;

beforeEach(() => {
  openShot(shot);
  const info = { ...size, frames, fps: 30, pixelAspect: 1 } as ClipInfo;
  setBench({ info, steady: null, trade: null, borrowed: [], station: 'steady', spotDoubts: [] });
  planner = new Planner(0, 0);
  closed = false;
  stop = keepSolved({ api: planner, close: () => (closed = true) });
});
afterEach(() => stop());

describe('keeping the plan in step with the shot', () => {
  it('plans what is opened, follows every edit and undo, and ends its worker', async () => {
    await until(() => bench().steady !== null);
    const first = bench().steady!;
    expect(first.fit.zoom).toBeGreaterThan(1.01);
    edit((s) => changeGoal(s, { amounts: { x: 0, y: 0, rotation: 0, scale: 0 } }));
    await until(() => bench().steady !== first);
    expect(bench().steady!.fit.zoom).toBe(1);
    undo();
    await until(() => bench().steady!.fit.zoom === first.fit.zoom);
    stop();
    expect(closed).toBe(true);
  });

  it('ends with the newest of many changes, however many plans were left on the way', async () => {
    await until(() => bench().steady !== null);
    for (let k = 0; k <= 20; k++) {
      const share = 1 - k / 20;
      edit((s) => changeGoal(s, { amounts: { x: share, y: share, rotation: share, scale: share } }));
      if (k % 5 === 0) await new Promise((resume) => setTimeout(resume));
    }
    await until(() => bench().steady!.fit.zoom === 1);
    expect(bench().planning).toBe(false);
  });

  it('works out prices once nothing changes any more', async () => {
    await until(() => bench().trade !== null);
    expect(bench().trade!.kind).toBe('share');
    expect(bench().trade!.points.length).toBeGreaterThan(5);
  });

  it('has edges that show as doubts, and none once they are filled', async () => {
    edit((s) => changeDocument(s, { framing: { ...s.document.framing, mode: 'none' } }));
    await until(() => bench().edgeDoubts.length > 0);
    expect(bench().doubts.some((d) => /An edge shows on/.test(d.sentence))).toBe(true);
    edit((s) => changeDocument(s, { edges: { ...s.document.edges, mode: 'mirrored' } }));
    await until(() => bench().edgeDoubts.length === 0);
  });

  it('plans on after a plan that failed', async () => {
    stop();
    const failing = new Planner(0, 0);
    failing.plan = () => Promise.reject(new Error('out of memory'));
    const api = { current: failing };
    const through = new Proxy(planner, {
      get: (_, name: keyof Planner) => {
        const found = api.current[name];
        return typeof found === 'function' ? found.bind(api.current) : found;
      },
    });
    setBench({ steady: null });
    stop = keepSolved({ api: through, close: () => undefined });
    await until(() => !bench().planning);
    expect(bench().steady).toBeNull();
    api.current = planner;
    edit((s) => changeGoal(s, { goal: 'calm' }));
    await until(() => bench().steady !== null);
  });

  it('has no plan without samples', async () => {
    await until(() => bench().steady !== null);
    openShot({ ...shot, measured: {} });
    await until(() => bench().steady === null);
  });
});
