import { neededZoom, type Size } from '../framing/framing.js';
import { invert, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import { composeSimilarity, NO_MOTION, type SimilarityParts } from '../geometry/similarity.js';
import { lastThatHolds } from '../numbers.js';
import { smoothGaussian } from '../smooth/gaussian.js';
import { inOneGo, type Steps } from '../steps.js';
import {
  approach,
  gentle,
  stateAt,
  type Amounts,
  type Goal,
  type GoalSettings,
  type LockSettings,
  type Stage,
} from './goals.js';
import { motionMatrix, type Motion } from '../solve/motion.js';
import { optimalParts } from './optimal-parts.js';

export interface Path {
  /** The motion that is wanted in place of the measured one. */
  readonly wanted: readonly SimilarityParts[];
  /** The motion that is kept: from the measured one towards the wanted by the amounts. */
  readonly kept: readonly SimilarityParts[];
  /** S of every frame: kept times the inverse of measured. */
  readonly corrections: readonly Matrix3[];
}

/** Width of a Gaussian at half its height over its sigma. */
const WIDTH_TO_SIGMA = 2 * Math.sqrt(2 * Math.LN2);

/**
 * From the measured motion to the correction: the wanted motion by goal, approached by the amounts, component by
 * component. Outside the range the difference of its nearest end is held, so that nothing jumps there.
 * Cost: linear in frames.
 */
export function pathFor(motion: Motion, settings: GoalSettings, stage: Stage): Path {
  return inOneGo(pathSteps(motion, settings, stage));
}

/** The same in steps: the optimal path of a long shot takes seconds. */
export function* pathSteps(motion: Motion, settings: GoalSettings, stage: Stage): Steps<Path> {
  const { parts, pivot, pixelAspect } = motion;
  const states = parts.map((_, f) => stateAt(settings, clampTo(f, stage)));
  const amounts = states.map(({ amounts, goal, next, share }, f) =>
    easedAmounts(amounts, settings.lock, stage, f, lockShare(goal, next, share)),
  );
  const used = new Set(states.flatMap((s) => (s.share > 0 ? [s.goal, s.next] : [s.goal])));
  const paths = new Map<Goal, readonly SimilarityParts[]>();
  for (const goal of used) paths.set(goal, yield* wantedFor(goal, motion, settings, stage, amounts));
  const wanted = states.map(({ goal, next, share }, f) => {
    const here = paths.get(goal)![f];
    return share > 0 && next !== goal ? mixParts(here, paths.get(next)![f], share) : here;
  });
  const kept = parts.map((m, f) => approach(m, wanted[f], amounts[f]));
  const limited = (f: number) =>
    settings.calm.method === 'optimal' && states[f].goal === 'calm' && states[f].share === 0;
  const corrections = parts.map((m, f) => {
    const back = invert(motionMatrix(motion, f));
    const correct = (l: SimilarityParts) => multiply(composeSimilarity(l, pivot, pixelAspect), back);
    const inRange = f >= stage.from && f <= stage.to;
    if (inRange && limited(f)) kept[f] = withinZoom(m, kept[f], correct, settings.calm.maxZoom, stage);
    return correct(kept[f]);
  });
  return { wanted, kept, corrections };
}

function clampTo(frame: number, { from, to }: Stage): number {
  return Math.min(to, Math.max(from, frame));
}

function lockShare(goal: Goal, next: Goal, share: number): number {
  return (goal === 'lock' ? 1 - share : 0) + (next === 'lock' ? share : 0);
}

/** The amounts with the lock's ease in and out. */
function easedAmounts(
  amounts: Amounts,
  lock: LockSettings,
  stage: Stage,
  frame: number,
  share: number,
): Amounts {
  if (share === 0 || (lock.easeIn <= 0 && lock.easeOut <= 0)) return amounts;
  const seconds = (frames: number) => frames / stage.fps;
  const rise = lock.easeIn > 0 ? gentle(seconds(frame - stage.from) / lock.easeIn) : 1;
  const fall = lock.easeOut > 0 ? gentle(seconds(stage.to - frame) / lock.easeOut) : 1;
  const k = 1 - share * (1 - rise * fall);
  return { x: k * amounts.x, y: k * amounts.y, rotation: k * amounts.rotation, scale: k * amounts.scale };
}

function mixParts(a: SimilarityParts, b: SimilarityParts, t: number): SimilarityParts {
  return approach(a, b, { x: t, y: t, rotation: t, scale: t });
}

function* wantedFor(
  goal: Goal,
  motion: Motion,
  settings: GoalSettings,
  stage: Stage,
  amounts: readonly Amounts[],
): Steps<SimilarityParts[]> {
  switch (goal) {
    case 'still': {
      const wanted: SimilarityParts[] = motion.parts.map(() => NO_MOTION);
      if (settings.pose === 'frame') return wanted;
      const poses = partsOfRange(motion, stage).map((part) => ({
        to: part.to,
        pose: averagePose(motion, part),
      }));
      const last = poses[poses.length - 1];
      return wanted.map((_, f) => (poses.find((p) => f <= p.to) ?? last).pose);
    }
    case 'calm': {
      const path: SimilarityParts[] = [];
      for (const part of partsOfRange(motion, stage)) {
        const smooth = smoothed(motion, settings.calm.smoothing, part);
        const best = settings.calm.method === 'optimal' && part.to > part.from;
        path.push(
          ...(best ? yield* optimalParts(motion, smooth, amounts, settings.calm.maxZoom, part) : smooth),
        );
      }
      return beyondRange(motion, path, stage);
    }
    case 'lock':
      return lockedPath(motion, settings, stage);
  }
}

/** The parts of the range between cuts, found or set by hand, each as a stage of its own. */
function partsOfRange({ cuts = [] }: Motion, stage: Stage): Stage[] {
  const all = [...new Set([...cuts, ...(stage.cuts ?? [])])].sort((a, b) => a - b);
  const starts = [stage.from, ...all.filter((c) => c > stage.from && c <= stage.to)];
  return starts.map((from, i) => ({ ...stage, from, to: (starts[i + 1] ?? stage.to + 1) - 1 }));
}

/** The mean of the parts over those frames of the range that were measured. */
export function averagePose({ parts, support }: Motion, { from, to }: Stage): SimilarityParts {
  const sum = { x: 0, y: 0, rotation: 0, logScale: 0 };
  let n = 0;
  for (let f = from; f <= to; f++) {
    if (support[f] === 'none') continue;
    n++;
    sum.x += parts[f].x;
    sum.y += parts[f].y;
    sum.rotation += parts[f].rotation;
    sum.logScale += parts[f].logScale;
  }
  n ||= 1;
  return { x: sum.x / n, y: sum.y / n, rotation: sum.rotation / n, logScale: sum.logScale / n };
}

/** The range's parts, each component smoothed on its own. */
function smoothed({ parts }: Motion, smoothing: Amounts, { from, to, fps }: Stage): SimilarityParts[] {
  const range = parts.slice(from, to + 1);
  const smooth = (key: keyof SimilarityParts, seconds: number) =>
    smoothGaussian(
      range.map((p) => p[key]),
      (seconds * fps) / WIDTH_TO_SIGMA,
    );
  const [x, y] = [smooth('x', smoothing.x), smooth('y', smoothing.y)];
  const [rotation, logScale] = [smooth('rotation', smoothing.rotation), smooth('logScale', smoothing.scale)];
  return range.map((_, i) => ({ x: x[i], y: y[i], rotation: rotation[i], logScale: logScale[i] }));
}

/** A path over the range carried on beyond it: the difference from the measured motion is held. */
function beyondRange({ parts }: Motion, range: readonly SimilarityParts[], stage: Stage): SimilarityParts[] {
  return parts.map((m, f) => {
    const end = clampTo(f, stage);
    const w = range[end - stage.from];
    if (end === f) return w;
    const e = parts[end];
    return {
      x: m.x + w.x - e.x,
      y: m.y + w.y - e.y,
      rotation: m.rotation + w.rotation - e.rotation,
      logScale: m.logScale + w.logScale - e.logScale,
    };
  });
}

/**
 * Where the subject is wanted. Within the tolerance it may follow its own smoothed course, softly limited
 * (hyperbolic tangent): small slow moves pass nearly whole, large ones come to rest at the tolerance, and at no
 * moment is there a corner. With tolerance 0 the subject is nailed to its place.
 */
function lockedPath(motion: Motion, settings: GoalSettings, stage: Stage): SimilarityParts[] {
  const { lock, calm } = settings;
  const place = lockPlace(motion, lock, stage.size);
  const target = { ...NO_MOTION, x: place.x - motion.pivot.x, y: place.y - motion.pivot.y };
  if (!(lock.tolerance > 0)) return motion.parts.map(() => target);
  const course = partsOfRange(motion, stage).flatMap((part) => smoothed(motion, calm.smoothing, part));
  return beyondRange(motion, course, stage).map((s) => {
    const dx = s.x - target.x;
    const dy = s.y - target.y;
    const far = Math.hypot(dx, dy) / lock.tolerance;
    const k = far > 1e-6 ? Math.tanh(far) / far : 1;
    return { ...target, x: target.x + k * dx, y: target.y + k * dy };
  });
}

/** Where the middle of the subject is held, in steadied coordinates. */
export function lockPlace(
  { pivot }: Pick<Motion, 'pivot'>,
  { place, x, y }: LockSettings,
  size: Size,
): Point {
  switch (place) {
    case 'reference':
      return pivot;
    case 'middle':
      return { x: size.width / 2, y: size.height / 2 };
    case 'given':
      return { x, y };
  }
}

/** As near to `wanted` as the zoom limit allows, on the way from the picture as shot. */
function withinZoom(
  measured: SimilarityParts,
  wanted: SimilarityParts,
  correct: (parts: SimilarityParts) => Matrix3,
  maxZoom: number,
  { shift, size, window }: Stage,
): SimilarityParts {
  const fits = (p: SimilarityParts) => neededZoom(correct(p), shift, size, window) <= maxZoom;
  if (fits(wanted)) return wanted;
  const share = lastThatHolds(0, 1, (t) => fits(mixParts(measured, wanted, t)));
  return mixParts(measured, wanted, share);
}
