import { composeSimilarity, apply } from '@lurn/core/geometry';
import { planFrom } from '@lurn/core/plan';
import { solveMotion } from '@lurn/core/solve';
import { EMPTY_TRACK, withSamples } from '@lurn/core/track';
import type { PlanRequest, SolveRequest } from '@lurn/core/plan';
import type { Track } from '@lurn/core/track';
import { NEW_FRAMING, NEW_GOAL } from '@lurn/model';
import { Planner } from './planner';

const frames = 400;
const FRAMING = { ...NEW_FRAMING, delivery: null };
const motions = Array.from({ length: frames }, (_, f) =>
  composeSimilarity(
    {
      x: 0.5 * f + 6 * Math.sin(f / 3),
      y: 5 * Math.cos(f / 4),
      rotation: 0.004 * Math.sin(f / 5),
      logScale: 0,
    },
    { x: 640, y: 360 },
  ),
);
const tracks = [
  [300, 200],
  [900, 500],
  [640, 150],
].map(([x, y]): Track =>
  withSamples(
    EMPTY_TRACK,
    motions.map((m, frame) => ({ frame, ...apply(m, x, y), confidence: 1, state: 'tracked' as const })),
  ),
);
const solve: SolveRequest = {
  ...{ frames, pixelAspect: 1, held: '', ref: 0 },
  spots: tracks.map((track, i) => ({ id: `s${i}`, name: `s${i}`, mover: '', role: 'both', track })),
};
const request = (
  change: Partial<PlanRequest> = {},
  method: 'gaussian' | 'optimal' = 'gaussian',
): PlanRequest => ({
  ...{ size: { width: 1280, height: 720 }, fps: 30, from: 0, to: frames - 1, framing: FRAMING },
  goal: { ...NEW_GOAL, goal: 'calm', calm: { ...NEW_GOAL.calm, method } },
  ...change,
});

describe('planning in the worker', () => {
  it('gives the plan of the core, keeps what was solved, and prices it', async () => {
    const planner = new Planner();
    const plan = await planner.plan(solve, request());
    const wanted = planFrom(solveMotion(solve)!, { ...solve, ...request() });
    expect(plan).toEqual(wanted);
    const again = await planner.plan(null, request({ from: 10, to: 60 }));
    expect(again).toEqual(planFrom(solveMotion(solve)!, { ...solve, ...request({ from: 10, to: 60 }) }));
    const trade = await planner.trade();
    expect(trade).toMatchObject({ kind: 'smoothing' });
  });

  it('plans what else might be held beside, and anew once what it is solved from changes', async () => {
    const planner = new Planner();
    await planner.plan(solve, request());
    const other = { ...solve, spots: solve.spots.slice(0, 2), ref: 9 };
    const beside = await planner.instead({ ...other, ...request() });
    expect(beside).toEqual(planFrom(solveMotion(other)!, { ...other, ...request() }));
    // What is planned stays: the price is still that of it.
    expect(await planner.trade()).toMatchObject({ kind: 'smoothing' });
    // Solved once: another range needs no more than a plan.
    expect(await planner.instead({ ...other, spots: [], ...request({ to: 90 }) })).not.toBeNull();
    await planner.plan(other, request());
    expect(await planner.instead({ ...other, spots: [], ...request() })).toBeNull();
  });

  it('leaves a slow plan when a newer one is wanted, and gives the newer one', async () => {
    const planner = new Planner(0, 0);
    const slow = planner.plan(solve, request({}, 'optimal'));
    planner.newer();
    const next = planner.plan(null, request({ to: 50 }));
    expect(await slow).toBe('superseded');
    expect(await next).toMatchObject({ zooms: expect.any(Float64Array) });
  });

  it('finishes a plan within its patience, so that something is seen while a slider moves on', async () => {
    const planner = new Planner(60_000, 0);
    const plan = planner.plan(solve, request({}, 'optimal'));
    planner.newer();
    expect(await plan).not.toBe('superseded');
  });

  it('leaves prices and borrowed edges at once, and has none before anything is planned', async () => {
    const planner = new Planner(60_000, 0);
    expect(await planner.trade()).toBeNull();
    expect(await planner.borrowed()).toEqual([]);
    await planner.plan(solve, request({ framing: { ...FRAMING, mode: 'none' } }));
    const asked = Promise.all([planner.trade(), planner.borrowed()]);
    planner.newer();
    expect(await asked).toEqual(['superseded', 'superseded']);
  });

  it('plans nothing without a sample', async () => {
    const planner = new Planner();
    const none = { ...solve, spots: solve.spots.map((s) => ({ ...s, track: EMPTY_TRACK })) };
    expect(await planner.plan(none, request())).toBeNull();
    expect(await planner.trade()).toBeNull();
  });
});
