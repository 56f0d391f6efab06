import { apply, decomposeSimilarity, invert, multiply, type Matrix3, type Point } from '@lurn/core/geometry';
import { energyAbove } from '@lurn/core/measure';
import { planFor, smoothGaussian, type GoalSettings, type Size, type Plan } from '@lurn/core/plan';
import { motionMatrix, solveMotion } from '@lurn/core/solve';
import {
  defaultSettings,
  EMPTY_TRACK,
  samplesOf,
  trackSpots,
  withoutSamples,
  withSamples,
  type FrameSource,
  type Track,
} from '@lurn/core/track';
import { FileFrames, indexClip } from '@lurn/engine';
import { NEW_FRAMING, NEW_GOAL } from '@lurn/model';
import { asSpots, readTruth, rms, STATION, type Truth } from './accuracy.js';
import { FRAMES, goodPlaces, HEIGHT, InMemory, makeUp, WIDTH } from './made-up.js';
import { speed } from './solve-speed.js';
import type { Show } from './tracking.js';

/** From tracks to the steadied picture: what is left, what it costs, and how long it takes; spots tracked for real. */

const RIDGE = 'demo/shots/ridge.mp4';
const GONDOLA = 'demo/shots/gondola.mp4';
const TEXTURES = ['other speckle', 'other signs', 'other masonry'];

export async function motion(show: Show, part?: string): Promise<void> {
  const parts = { still, calm, lock, speed };
  for (const [name, measure] of Object.entries(parts)) if (!part || part === name) await measure(show);
}

/** A spot that is pinned where it is first seen. */
interface Pinned extends Point {
  readonly frame: number;
}

async function follow(
  source: FrameSource,
  pins: readonly Pinned[],
  height: number,
  frames: number,
  mover = 'thing',
): Promise<Track[]> {
  const tracks = pins.map((p) => withSamples(EMPTY_TRACK, [{ ...p, confidence: 1, state: 'pinned' }]));
  const starts = [...new Set(pins.map((p) => p.frame))].sort((a, b) => a - b);
  for (const [k, from] of starts.entries()) {
    // Those seen so far are tracked on together, up to where the next ones come in.
    const to = (starts[k + 1] ?? frames) - 1 + (k + 1 < starts.length ? 1 : 0);
    const spots = pins.flatMap(({ frame }, i) =>
      frame <= from
        ? [
            {
              id: String(i),
              name: String(i),
              mover,
              joins: [],
              settings: defaultSettings(height),
              track: tracks[i],
            },
          ]
        : [],
    );
    for await (const step of trackSpots(source, { spots, from, to })) {
      for (const { id, sample } of step.samples)
        tracks[Number(id)] = withSamples(tracks[Number(id)], [sample]);
      for (const { id, since, frame } of step.stopped)
        tracks[Number(id)] = withoutSamples(tracks[Number(id)], since, frame);
    }
  }
  return tracks;
}

/** Follows the features of a shot that are on one thing, each pinned to the truth where it first comes into view. */
async function followFile(file: string, on: string): Promise<{ tracks: Track[]; truth: Truth; size: Size }> {
  const clip = await indexClip(file);
  const truth = readTruth(file);
  const { width, height, frames } = clip.info;
  const margin = 3 * defaultSettings(height).patch[0];
  const pins = truth.features
    .filter((f) => f.on === on)
    .map(({ positions }): Pinned => {
      const frame = positions.findIndex(
        ([x, y]) => x > margin && y > margin && x < width - margin && y < height - margin,
      );
      return { frame, x: positions[frame][0], y: positions[frame][1] };
    });
  const source = new FileFrames(file, clip.info);
  const tracks = await follow(source, pins, height, frames, on);
  source.close();
  return { tracks, truth, size: { width, height } };
}

function planOf(tracks: readonly Track[], size: Size, frames: number, goal: Partial<GoalSettings>): Plan {
  return planFor({
    size,
    frames,
    pixelAspect: 1,
    fps: 30,
    spots: asSpots(tracks),
    held: '',
    ref: 0,
    from: 0,
    to: frames - 1,
    goal: { ...NEW_GOAL, ...goal },
    framing: { ...NEW_FRAMING, delivery: null },
  })!;
}

/** RMS distance of places of the held thing from their mean, after the correction. */
function leftOf(plan: Plan, places: readonly Point[], truth: (at: Point, frame: number) => Point): number {
  const strays = places.flatMap((at) => {
    const path = plan.corrections.map((s, f) => {
      const p = truth(at, f);
      return apply(s, p.x, p.y);
    });
    const mean = { x: average(path.map((p) => p.x)), y: average(path.map((p) => p.y)) };
    return path.map((p) => Math.hypot(p.x - mean.x, p.y - mean.y));
  });
  return rms(strays);
}

const average = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length;

async function still(show: Show): Promise<void> {
  const grid = [0.3, 0.5, 0.7].flatMap((u) => [0.3, 0.5, 0.7].map((v) => ({ x: u * WIDTH, y: v * HEIGHT })));
  for (const [kind, limit] of [
    ['clean', 0.05],
    ['moderate', 0.05],
    ['heavy', 0.35],
  ] as const) {
    const left: number[] = [];
    let step = 0;
    for (const texture of TEXTURES) {
      const shot = await makeUp(texture, kind);
      const clean = await makeUp(texture, 'clean');
      const places = goodPlaces(clean.planes[0], 4);
      const pins = places.map((p) => ({ ...p, frame: 0 }));
      const tracks = await follow(new InMemory(shot.planes), pins, 720, FRAMES);
      const plan = planOf(tracks, { width: WIDTH, height: HEIGHT }, FRAMES, {});
      left.push(leftOf(plan, grid, shot.truth));
      tracks.forEach((_, k) => (step = Math.max(step, stepOf(tracks, k, grid))));
    }
    show(
      `made up, ${kind}: left of the held thing after Still, four spots (${left.map((l) => l.toFixed(3)).join(', ')})`,
      `${Math.max(...left).toFixed(3)} px`,
      kind === 'moderate' ? '-' : `<= ${limit}`,
    );
    show(
      `made up, ${kind}: step where one of four spots enters or leaves`,
      `${step.toFixed(3)} px`,
      '<= 0.05',
    );
  }
  const { tracks, truth, size } = await followFile(STATION, 'station');
  const plan = planOf(tracks.slice(0, 4), size, 180, {});
  const places = [420, 660, 900].flatMap((x) => [250, 400, 500].map((y) => ({ x, y })));
  const back = invert(truth.motion.station[0]);
  const left = leftOf(plan, places, (at, f) => {
    const p = apply(back, at.x, at.y);
    return apply(truth.motion.station[f], p.x, p.y);
  });
  show(
    'station (H.264, crf 18): left of the building after Still, four spots near its top',
    `${left.toFixed(3)} px`,
    '-',
  );
}

/**
 * The step that a spot causes where it enters and where it leaves: by how much more the picture moves between those
 * two frames than it would if the spot were never there.
 */
function stepOf(tracks: readonly Track[], k: number, grid: readonly Point[]): number {
  const [enters, leaves] = [50, 100];
  const present = tracks.map((t, i) =>
    i === k ? withoutSamples(withoutSamples(t, 0, enters - 1), leaves + 1, FRAMES - 1) : t,
  );
  const never = tracks.filter((_, i) => i !== k);
  const [a, b] = [never, present].map((list) =>
    solveMotion({ frames: FRAMES, ref: 0, spots: asSpots(list) })!,
  );
  const apart = (f: number) =>
    grid.map((p) => {
      const seen = apply(motionMatrix(a, f), p.x, p.y);
      const [u, v] = [a, b].map((m) => apply(invert(motionMatrix(m, f)), seen.x, seen.y));
      return { x: v.x - u.x, y: v.y - u.y };
    });
  return Math.max(
    ...[enters, leaves + 1].flatMap((f) => {
      const [before, after] = [apart(f - 1), apart(f)];
      return before.map((p, i) => Math.hypot(after[i].x - p.x, after[i].y - p.y));
    }),
  );
}

const PARTS = [
  ['x', 'across', 1, 'px'],
  ['y', 'up-down', 1, 'px'],
  ['rotation', 'rotation', 180 / Math.PI, '°'],
  ['logScale', 'scale', 100, '%'],
] as const;

async function calm(show: Show): Promise<void> {
  const { tracks, truth, size } = await followFile(RIDGE, 'ridge');
  const frames = truth.motion.ridge.length;
  const { pivot } = planOf(tracks, size, frames, {}).motion;
  const about = (m: Matrix3) => decomposeSimilarity(m, pivot);
  const from0 = (list: readonly Matrix3[]) =>
    list.map((m) => about(multiply(m, invert(truth.motion.ridge[0]))));
  const shot = from0(truth.motion.ridge);
  const meant = from0(truth.meant!.ridge);
  const pan = Math.hypot(meant[frames - 1].x - meant[0].x, meant[frames - 1].y - meant[0].y);
  for (const [name, settings, limit] of [
    ['Gaussian 1 s', { ...NEW_GOAL.calm }, null],
    ['optimal, 106 %', { ...NEW_GOAL.calm, method: 'optimal', maxZoom: 1.06 }, 1.06],
    ['optimal, 112 %', { ...NEW_GOAL.calm, method: 'optimal', maxZoom: 1.12 }, 1.12],
  ] as const) {
    const plan = planOf(tracks, size, frames, { goal: 'calm', calm: settings });
    const seen = from0(truth.motion.ridge.map((m, f) => multiply(plan.corrections[f], m)));
    for (const [key, part, times, unit] of PARTS) {
      const shake = (path: typeof shot) =>
        energyAbove(
          path.map((p, i) => (p[key] - meant[i][key]) * times),
          30,
          1,
        );
      const [before, after] = [shake(shot), shake(seen)];
      show(
        `ridge, Calm (${name}): ${part}, energy above 1 Hz gone (of ${Math.sqrt(before).toFixed(3)} ${unit})`,
        `${(100 * (1 - after / before)).toFixed(2)} %`,
        '>= 97 %',
      );
    }
    const off = seen.map((p, i) => Math.hypot(p.x - meant[i].x, p.y - meant[i].y));
    const beyond = (way: Float64Array) =>
      Math.max(
        0,
        Math.max(...way) - Math.max(meant[0].x, meant[frames - 1].x),
        Math.min(meant[0].x, meant[frames - 1].x) - Math.min(...way),
      );
    const over = beyond(Float64Array.from(seen, (p) => p.x));
    show(
      `ridge, Calm (${name}): path off the meant pan of ${pan.toFixed(0)} px at the most, RMS ${((100 * rms(off)) / pan).toFixed(2)} %`,
      `${((100 * Math.max(...off)) / pan).toFixed(2)} %`,
      '<= 2 %',
    );
    show(
      `ridge, Calm (${name}): beyond either end of the meant pan, with what is left of the slow shake`,
      `${over.toFixed(1)} px`,
      '-',
    );
    if (settings.method === 'gaussian') {
      const sigma = (settings.smoothing.x * 30) / (2 * Math.sqrt(2 * Math.LN2));
      const alone = smoothGaussian(
        meant.map((p) => p.x),
        sigma,
      );
      show(
        `ridge, Calm (${name}): beyond either end, of the meant pan without its shake`,
        `${beyond(alone).toFixed(1)} px`,
        'none to see',
      );
    }
    show(
      `ridge, Calm (${name}): zoom needed`,
      `${(100 * plan.fit.zoom).toFixed(2)} %`,
      limit ? `<= ${Math.round(100 * limit)} %` : '-',
    );
  }
}

async function lock(show: Show): Promise<void> {
  const { tracks, truth, size } = await followFile(GONDOLA, 'gondola');
  const frames = truth.motion.gondola.length;
  const plan = planOf(tracks, size, frames, { goal: 'lock' });
  const coasted = Array.from({ length: frames }, (_, f) =>
    tracks.some((t) => [...samplesOf(t)].some((s) => s.frame === f && s.state === 'coasted')),
  );
  const places = truth.features.filter((f) => f.on === 'gondola').map((f) => f.positions);
  const paths = places.map((positions) => positions.map(([x, y], f) => apply(plan.corrections[f], x, y)));
  const visible = paths.flatMap((path) => {
    const kept = path.filter((_, f) => !coasted[f]);
    const mean = { x: average(kept.map((p) => p.x)), y: average(kept.map((p) => p.y)) };
    return kept.map((p) => Math.hypot(p.x - mean.x, p.y - mean.y));
  });
  show('gondola, Lock: RMS from its place while visible', `${rms(visible).toFixed(3)} px`, '<= 0.3');
  // What the camera does to the picture: a jerk of the correction is a jerk of the whole view.
  const middle = plan.corrections.map((s) => {
    const p = plan.motion.pivot;
    return apply(s, p.x, p.y);
  });
  const bend = middle.map((p, f) => {
    const [a, b] = [middle[f - 1] ?? p, middle[f + 1] ?? p];
    return f === 0 || f === frames - 1 ? 0 : Math.hypot(a.x - 2 * p.x + b.x, a.y - 2 * p.y + b.y);
  });
  const most = (where: boolean) => Math.max(...bend.filter((_, f) => coasted[f] === where));
  show(
    `gondola, Lock: the view's acceleration while coasted (${coasted.filter(Boolean).length} frames); before and after ${most(false).toFixed(2)}`,
    `${most(true).toFixed(2)} px/f²`,
    'no greater',
  );
  const gone = paths[0].filter((_, f) => coasted[f]);
  const home = paths[0].filter((_, f) => !coasted[f]);
  const mean = { x: average(home.map((p) => p.x)), y: average(home.map((p) => p.y)) };
  show(
    'gondola, Lock: from its place while it is hidden, at the most (nobody sees it)',
    `${Math.max(...gone.map((p) => Math.hypot(p.x - mean.x, p.y - mean.y))).toFixed(2)} px`,
    '-',
  );
}
