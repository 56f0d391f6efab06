import { cornersAt } from '../geometry/area.js';
import { apply } from '../geometry/matrix.js';
import { analyse } from '../solve/analysed.js';
import { placedAreas } from '../solve/areas.js';
import { motionMatrix } from '../solve/motion.js';
import { asSpots, farthest, relativeTo, shakes, trackOf } from '../testing/motions.js';
import { PLAIN_GOAL, plainRequest } from '../testing/goal.js';
import { gridOfPlaces, sceneTracks } from '../testing/scene.js';
import { againstHeld } from './against-held.js';
import { firstGoal } from './first-goal.js';
import { heldMotion } from './held-motion.js';
import { planFor } from './plan.js';
import { rehearsed } from './rehearsed.js';

const SIZE = { width: 1280, height: 720, pixelAspect: 1 };
const FRAMES = 40;
const truth = relativeTo(shakes(FRAMES, 5), 0);
const own = relativeTo(shakes(FRAMES, 6), 0);
const inBoard = ({ x, y }: { x: number; y: number }) => Math.abs(x - 640) < 260 && Math.abs(y - 400) < 170;
const wall = gridOfPlaces([0, 0, 1280, 720], 16, 9, inBoard);
const board = gridOfPlaces([400, 250, 880, 550], 8, 6);
const scene = analyse(
  sceneTracks(
    [
      { motion: truth, places: wall },
      { motion: own, places: board },
    ],
    { noise: 0.05 },
  ),
  SIZE,
);
const input = (spots: ReturnType<typeof asSpots>, ref = 0) => ({ frames: FRAMES, ref, spots });
const far = (motion: NonNullable<ReturnType<typeof heldMotion>>['motion'], of: typeof truth) =>
  Math.max(...of.map((m, f) => farthest(motionMatrix(motion, f), m)));

describe('what is held', () => {
  it('is the surroundings where nothing is marked, and any mover that is named', () => {
    const surroundings = heldMotion(input([]), scene, null)!;
    expect(far(surroundings.motion, truth)).toBeLessThan(0.12);
    expect(surroundings.witnesses.length).toBeGreaterThan(12);
    expect(far(heldMotion(input([]), scene, 'scene-2')!.motion, own)).toBeLessThan(0.5);
    expect(heldMotion(input([]), scene, 'another')).toBeNull();
    expect(heldMotion(input([]), null, null)).toBeNull();
  });

  it('is told against the reference frame', () => {
    expect(far(heldMotion(input([], 13), scene, null)!.motion, relativeTo(truth, 13))).toBeLessThan(0.15);
  });

  it('is what the spots tell where they tell all', () => {
    const spots = asSpots([trackOf(own, 420, 260), trackOf(own, 860, 540)]);
    expect(far(heldMotion(input(spots), scene, null)!.motion, own)).toBeLessThan(1e-6);
  });

  it('is not what a spot tells of which one sample is known', () => {
    const spots = asSpots([trackOf(truth, 300, 200, (f) => f === 7)]);
    expect(far(heldMotion(input(spots), scene, null)!.motion, truth)).toBeLessThan(0.12);
    const plan = planFor({ ...request, spots }, scene)!;
    expect(plan.of).toEqual([]);
  });

  it('is filled in, where spots are hidden, by the mover that they move with', () => {
    const seen = (f: number) => f < 12 || f > 26;
    for (const motion of [truth, own]) {
      const spots = asSpots([trackOf(motion, 450, 300, seen), trackOf(motion, 850, 500, seen)]);
      const held = heldMotion(input(spots), scene, null)!.motion;
      expect(far(held, motion)).toBeLessThan(0.5);
      expect([...held.filled!]).toEqual(Array.from({ length: FRAMES }, (_, f) => (seen(f) ? 0 : 1)));
      // Without the scene nobody knows what the camera did meanwhile.
      expect(far(heldMotion(input(spots), null, null)!.motion, motion)).toBeGreaterThan(5);
    }
  });

  it('goes by a spot that is alone, with the turn that the mover tells', () => {
    const spots = asSpots([trackOf(truth, 300, 200), trackOf(truth, 900, 500, (f) => f < 12 || f > 26)]);
    const held = heldMotion(input(spots), scene, null)!.motion;
    expect(far(held, truth)).toBeLessThan(0.3);
    const one = heldMotion(input(spots.slice(0, 1)), scene, null)!.motion;
    expect(far(one, truth)).toBeLessThan(0.3);
  });

  it('has nothing from the scene where spots move with none of its movers', () => {
    const third = relativeTo(shakes(FRAMES, 77), 0);
    const seen = (f: number) => f < 12 || f > 26;
    const spots = asSpots([trackOf(third, 300, 200, seen), trackOf(third, 900, 500, seen)]);
    const [without, given] = [null, scene].map((s) => heldMotion(input(spots), s, null)!.motion);
    expect(given.parts).toEqual(without.parts);
  });
});

const request = plainRequest(SIZE, FRAMES);

describe('a plan without a spot', () => {
  it('stands as still as the tracks can tell, and says so by them', () => {
    const plan = planFor(request, scene)!;
    expect(plan.measure.before).toBeGreaterThan(5);
    expect(plan.measure.after).toBeLessThan(0.12);
    expect(plan.odd).toEqual([]);
  });

  it('smooths each part between cuts by itself', () => {
    const cut = 20;
    const jump = truth.map((m, f) =>
      f < cut ? m : ([...m.slice(0, 2), m[2] + 300, ...m.slice(3)] as unknown as typeof m),
    );
    const cutScene = analyse(
      sceneTracks(
        [
          { motion: jump, places: wall, seen: [0, cut - 1] },
          { motion: jump, places: wall, seen: [cut, FRAMES - 1] },
        ],
        { cuts: [cut], noise: 0 },
      ),
      SIZE,
    );
    const smoothing = { x: 1, y: 1, rotation: 1, scale: 1 };
    for (const method of ['gaussian', 'optimal'] as const) {
      const goal = { ...PLAIN_GOAL, goal: 'calm' as const, calm: { method, smoothing, maxZoom: 1.3 } };
      const plan = planFor({ ...request, goal }, cutScene)!;
      expect(Math.abs(plan.wanted[cut - 1].x)).toBeLessThan(40);
      expect(Math.abs(plan.wanted[cut].x)).toBeLessThan(40);
      expect(plan.fit.zoom).toBeLessThan(1.3);
    }
  });
});

describe('the first goal', () => {
  it('is Still where the camera stands, Calm where it means to move', () => {
    expect(firstGoal(scene, 30)).toMatchObject({ goal: 'still' });
    const pan = truth.map((m, f) => [m[0], m[1], m[2] - 8 * f, ...m.slice(3)] as unknown as typeof m);
    const things = Array.from({ length: 5 }, (_, i) => ({
      motion: pan,
      places: gridOfPlaces([64 * i, 0, 64 * i + 1280, 720], 12, 7),
      seen: [Math.max(0, 8 * i - 8), Math.min(FRAMES - 1, 8 * i + 12)] as const,
    }));
    const moving = analyse(sceneTracks(things), SIZE);
    const goal = firstGoal(moving, 30)!;
    expect(goal.goal).toBe('calm');
    expect(goal.sentence).toMatch(/^Calm: the camera means to move and shakes by \d+\.\d px\./);
    expect(firstGoal(analyse(sceneTracks([{ motion: truth, places: [] }]), SIZE), 30)).toBeNull();
  });
});

describe('suggestions that have been followed', () => {
  const ask = (change: Partial<Parameters<typeof rehearsed>[1]> = {}) =>
    rehearsed(scene, {
      ...{ frame: 10, from: 0, to: FRAMES - 1, mover: 0, count: 4, within: null, taken: [], patch: 15 },
      ...change,
    });

  it('are on the mover, clear of others, and far apart', () => {
    const places = ask();
    expect(places).toHaveLength(4);
    for (const p of places) {
      expect(p.life).toBe(FRAMES);
      expect(p.error).toBeLessThan(0.15);
      const home = { x: p.x - truth[10][2], y: p.y - truth[10][5] };
      expect(Math.abs(home.x - 640) < 230 && Math.abs(home.y - 400) < 140).toBe(false);
    }
    places.forEach((p, i) =>
      places.slice(i + 1).forEach((q) => expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeGreaterThan(200)),
    );
  });

  it('keep to a rectangle, and away from what is there', () => {
    const inside = ask({ within: [0, 0, 500, 300], count: 3 });
    for (const p of inside) expect(p.x <= 500 && p.y <= 300).toBe(true);
    const [first] = ask({ count: 1 });
    const [next] = ask({ count: 1, taken: [first] });
    expect(Math.hypot(first.x - next.x, first.y - next.y)).toBeGreaterThan(45);
  });

  it('are of the mover that is asked for, and none of one that is not there', () => {
    for (const p of ask({ mover: 1, count: 3 })) expect(Math.abs(p.x - 640)).toBeLessThan(330);
    expect(ask({ mover: 7 })).toEqual([]);
  });
});

describe('what is not held', () => {
  it('still moves, by as much as it moves against what is', () => {
    const plan = planFor(request, scene)!;
    const [board, ...more] = againstHeld(scene, plan.corrections, 0, 0, FRAMES - 1);
    expect(more).toEqual([]);
    expect(board.id).toBe('scene-2');
    // The two cameras shake by themselves: what is left of the board is the shake of both.
    expect(board.rms).toBeGreaterThan(0.7 * plan.measure.before);
    expect(board.byFrame).toHaveLength(FRAMES);
    const lone = planFor({ ...request, sceneMover: 'scene-2' }, scene)!;
    expect(againstHeld(scene, lone.corrections, 1, 0, FRAMES - 1).map((a) => a.id)).toEqual(['scene-1']);
    expect(againstHeld(scene, lone.corrections, -1, 0, FRAMES - 1)[1].rms).toBeLessThan(0.5);
  });
});

describe('areas', () => {
  const box = (kind: 'ignore' | 'focus', rides: string | null = null) => ({
    ...{ kind, rides, smooth: false },
    keys: [
      {
        frame: 0,
        shape: [
          [390, 240],
          [890, 240],
          [890, 560],
          [390, 560],
        ] as const,
      },
    ],
  });
  const areasOf = (...areas: ReturnType<typeof box>[]) => ({ ...input([]), areas });

  it('leave the surroundings as they are where something else is ignored', () => {
    const held = heldMotion(areasOf(box('ignore')), scene, null)!;
    expect(held.mover).toBe('scene-1');
    expect(far(held.motion, truth)).toBeLessThan(0.15);
  });

  it('let what is focused on be held', () => {
    const held = heldMotion(areasOf(box('focus', 'scene-2')), scene, null)!;
    expect(held.mover).toBe('scene-2');
    expect(far(held.motion, own)).toBeLessThan(0.5);
  });

  it('ride on a mover: its corners are where it takes them', () => {
    const [area] = placedAreas([box('ignore', 'scene-2')], scene);
    const at = apply(own[FRAMES - 1], 390, 240);
    const [corner] = cornersAt(area, FRAMES - 1);
    expect(Math.hypot(corner.x - at.x, corner.y - at.y)).toBeLessThan(0.5);
    expect(placedAreas([box('ignore', 'gone')], scene)[0].keys).toHaveLength(1);
  });

  it('leave nothing to hold where everything is ignored', () => {
    const all = {
      ...box('ignore'),
      keys: [
        {
          frame: 0,
          shape: [
            [-50, -50],
            [1400, -50],
            [1400, 800],
            [-50, 800],
          ] as const,
        },
      ],
    };
    expect(heldMotion(areasOf(all as never), scene, null)).toBeNull();
    expect(planFor({ ...request, areas: [all as never] }, scene)).toBeNull();
  });
});
