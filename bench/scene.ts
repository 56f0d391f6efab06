import { execFile } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { apply, invert, multiply, type Matrix3 } from '@lurn/core/geometry';
import { halvedPlane, type Plane } from '@lurn/core/picture';
import { heldMotion, planFor, planFrom, type ShotRequest, rehearsed, steadiedPlace } from '@lurn/core/plan';
import { candidatesOf, SceneTracker, type SceneMover } from '@lurn/core/scene';
import { analyse, motionMatrix, solveMotion, type AnalysedScene } from '@lurn/core/solve';
import { defaultSettings, EMPTY_TRACK, trackSpots, withSamples, type Track } from '@lurn/core/track';
import { ffmpegPath, ingestInThread, readyToIngest } from '@lurn/engine';
import { NEW_FRAMING, NEW_GOAL } from '@lurn/model';
import { asSpots } from './accuracy.js';
import { InMemory } from './made-up.js';
import { median } from './median.js';
import { planesOf } from './planes.js';
import {
  AIMED_AT,
  HEIGHT,
  HELD_BY_PEOPLE,
  KIND_NAMES,
  sceneClip,
  WIDTH,
  type SceneClip,
} from './scene-clips.js';
import { speedClip } from './speed-clips.js';
import type { Show } from './tracking.js';

/**
 * The whole picture, without a mark: what is left of the surroundings after Still against truth, how many tracks are on
 * the right mover, what the program's own suggestions make of it, and what all that costs. `-- scene [left|kind|place|hold|rows|speed]`
 */

const run = promisify(execFile);
const PEER = process.env.LURN_PEER ?? '../shared/peers/opencv.py';
const PYTHON = '/usr/bin/python3';
const GOALS: Record<string, number> = {
  handheld: 0.03,
  turning: 0.15,
  heavy: 0.25,
  pan: 0.05,
  'two depths': 0.08,
  zoom: 0.06,
  crossing: 0.06,
  swaying: 0.3,
  cut: 0.05,
};
const SUGGESTED: Record<string, number> = { 'two depths': 0.15, crossing: 0.15, swaying: 0.3, heavy: 0.5 };
const SEEDS = [3, 12];

export async function scene(show: Show, part?: string): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-scene-'));
  try {
    if (!part || part === 'left') await left(show, folder);
    else if (KIND_NAMES.includes(part)) await left(show, folder, part);
    if (!part || part === 'place') await place(show);
    if (!part || part === 'hold') await hold(show);
    if (!part || part === 'rows') await rows(show);
    if (!part || part === 'speed') await speed(show, folder);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

function analysed(planes: readonly Plane[], scale = 1): AnalysedScene {
  const tracker = new SceneTracker();
  for (const plane of planes) tracker.add(plane);
  const [{ width, height }] = planes;
  const size = { width: width * scale, height: height * scale, pixelAspect: 1 };
  return analyse(tracker.finish([scale, scale]), size);
}

/** Root mean square distance over the whole picture and all frames, each part against its own first frame. */
function leftOf(motion: readonly Matrix3[], clip: SceneClip): number {
  const truth = clip.layers[0].motion;
  let [sum, n] = [0, 0];
  motion.forEach((m, f) => {
    const [ours, right] = [invert(m), invert(truth[f])];
    for (const u of [0.05, 0.28, 0.5, 0.72, 0.95]) {
      for (const v of [0.05, 0.28, 0.5, 0.72, 0.95]) {
        const [a, b] = [apply(ours, u * WIDTH, v * HEIGHT), apply(right, u * WIDTH, v * HEIGHT)];
        sum += (a.x - b.x) ** 2 + (a.y - b.y) ** 2;
        n++;
      }
    }
  });
  return Math.sqrt(sum / n);
}

/** The share of tracks of a second or more that are on the right mover. */
function onTheRight({ tracks, moverOf }: AnalysedScene, clip: SceneClip): number {
  let [right, all] = [0, 0];
  for (let k = 0; k < moverOf.length; k++) {
    const [from, length] = [tracks.first[k], tracks.first[k + 1] - tracks.first[k]];
    if (length < 12) continue;
    const [x, y, frame] = [tracks.x[from], tracks.y[from], tracks.start[k]];
    const layer = Math.max(
      0,
      clip.layers.findIndex((l) => l.covers?.(x, y, frame)),
    );
    all++;
    if (moverOf[k] === layer) right++;
  }
  return right / all;
}

async function left(show: Show, folder: string, only?: string): Promise<void> {
  for (const kind of only ? [only] : KIND_NAMES) {
    const [ours, theirs, shares, suggested]: number[][] = [[], [], [], []];
    let cuts = true;
    for (const seed of SEEDS) {
      const clip = await sceneClip(kind, seed);
      const planes = await planesOf(clip.file);
      const found = analysed(planes);
      cuts &&= JSON.stringify([...found.tracks.cuts]) === JSON.stringify(clip.cuts);
      const { motion } = heldMotion({ frames: clip.frames, ref: 0, spots: [] }, found, null)!;
      ours.push(
        leftOf(
          motion.parts.map((_, f) => motionMatrix(motion, f)),
          clip,
        ),
      );
      shares.push(onTheRight(found, clip));
      const other = await peer(clip, folder);
      if (other) theirs.push(other);
      if (kind in SUGGESTED) suggested.push(await bySuggestions(found, planes, clip));
    }
    const each = (list: number[]) => list.map((v) => v.toFixed(3)).join(', ');
    const beside = theirs.length > 0 ? ` (native OpenCV ${each(theirs)})` : '';
    show(`${kind}: left of the surroundings after Still${beside}`, `${each(ours)} px`, `<= ${GOALS[kind]}`);
    show(`${kind}: tracks on the right mover`, `${(100 * Math.min(...shares)).toFixed(1)} %`, '>= 98 %');
    if (!cuts) show(`${kind}: cuts`, 'on wrong frames', 'on theirs');
    if (suggested.length > 0)
      show(
        `${kind}: the same by four suggestions, tracked`,
        `${each(suggested)} px`,
        `<= ${SUGGESTED[kind]}`,
      );
  }
}

/** A camera that travels, aimed at a tower: what is left of the tower by itself, and by the program's own suggestions. */
async function place(show: Show): Promise<void> {
  const [ours, suggested, shot]: number[][] = [[], [], []];
  let strangers = 0;
  for (const seed of SEEDS) {
    const clip = await sceneClip('travelling', seed);
    const planes = await planesOf(clip.file);
    const found = analysed(planes);
    strangers += found.movers.filter((m) => !m.place && m.share > 0.02).length;
    const { motion } = heldMotion({ frames: clip.frames, ref: 0, spots: [] }, found, null)!;
    const truth = clip.layers[AIMED_AT.layer].motion;
    const left = (m: (f: number) => Matrix3) =>
      Math.sqrt(
        mean(
          truth.flatMap((right, f) =>
            AIMED_AT.places.map(([x, y]) => {
              const [u, v] = [WIDTH / 2 + x, HEIGHT / 2 + y];
              const [there, home] = [apply(right, u, v), { x: u, y: v }];
              const back = apply(invert(m(f)), there.x, there.y);
              return (back.x - home.x) ** 2 + (back.y - home.y) ** 2;
            }),
          ),
        ),
      );
    ours.push(left((f) => motionMatrix(motion, f)));
    shot.push(left(() => [1, 0, 0, 0, 1, 0, 0, 0, 1]));
    const solved = await solvedBySuggestions(found, planes, clip);
    suggested.push(solved ? left((f) => motionMatrix(solved, f)) : Infinity);
  }
  const each = (list: number[]) => list.map((v) => v.toFixed(3)).join(', ');
  show(
    `travelling, aimed at a tower: left of it after Still, of ${each(shot)}`,
    `${each(ours)} px`,
    '<= 0.5',
  );
  show('travelling: the same by four suggestions, tracked', `${each(suggested)} px`, '<= 0.5');
  show('travelling: movers that are no depth of the place', String(strangers), '0');
}

/** Half of the clips are for fitting what is held, the other half are kept apart and judged here. */
const FITTED = [1, 3];
const JUDGED = [2, 4];
/** Tracks of what is held of which so many are on what a person would hold. */
const MOSTLY = 0.7;

/** Whether what a person would hold is held by itself, or among the three that are offered; of a presenter, what is left of the wall. */
async function hold(show: Show): Promise<void> {
  for (const [seeds, what] of [
    [FITTED, 'fitted on'],
    [JUDGED, 'kept apart'],
  ] as const) {
    let [first, among, all] = [0, 0, 0];
    const [walls, walkers, wrong]: [number[], number[], string[]] = [[], [], []];
    for (const [kind, wanted] of Object.entries(HELD_BY_PEOPLE)) {
      for (const seed of seeds) {
        const clip = await sceneClip(kind, seed);
        const found = analysed(await planesOf(clip.file));
        const right = (mover: SceneMover) => goesWith(found, found.movers.indexOf(mover), clip, wanted);
        const offered = candidatesOf(found);
        all++;
        if (offered.some(right)) among++;
        if (offered.length > 0 && right(offered[0])) first++;
        else wrong.push(`${kind} ${seed}`);
        if (kind === 'post') walkers.push(...walkerOf(found, clip));
        if (kind !== 'presenter') continue;
        const { motion } = heldMotion({ frames: clip.frames, ref: 0, spots: [] }, found, null)!;
        walls.push(leftOf(motion.parts.map((_, f) => motionMatrix(motion, f)), clip)); // prettier-ignore
      }
    }
    const named = wrong.length > 0 ? ` (not ${wrong.join(', ')})` : '';
    const of = (n: number) => `${n} of ${all}, ${((100 * n) / all).toFixed(0)} %`;
    show(`what a person would hold is held, clips ${what}${named}`, of(first), '>= 90 %');
    show(`... is among those that are offered`, of(among), '100 %');
    show(`behind a post, clips ${what}: off its place by the motion from before it, one mover each`, `${walkers.map((v) => v.toFixed(3)).join(', ')} px`, '<= 0.3, 2 movers'); // prettier-ignore
    show(`presenter, clips ${what}: left of the wall after Still`, `${walls.map((v) => v.toFixed(3)).join(', ')} px`, '<= 0.3'); // prettier-ignore
  }
}

/** A mover's motion is that of a layer where it is within so many pixels of it: root mean square, where its tracks begin. */
const THE_SAME = 1;

/** Whether a mover goes as one of some layers does, against the first frame on which it is seen. */
function goesWith(
  { tracks, moverOf, motions }: AnalysedScene,
  mover: number,
  { layers }: SceneClip,
  wanted: readonly number[],
): boolean {
  const motion = motions[mover];
  if (!motion) return false;
  const seen = motion.support.flatMap((s, f) => (s === 'full' ? [f] : []));
  const places = [...moverOf.keys()].flatMap((k) =>
    moverOf[k] === mover ? [{ x: tracks.x[tracks.first[k]], y: tracks.y[tracks.first[k]] }] : [],
  );
  const since = (m: (f: number) => Matrix3, f: number) => multiply(m(f), invert(m(seen[0])));
  return wanted.some((l) => {
    const off = seen.flatMap((f) => {
      const [ours, truth] = [since((g) => motionMatrix(motion, g), f), since((g) => layers[l].motion[g], f)];
      return places.map(({ x, y }) => {
        const [p, q] = [apply(ours, x, y), apply(truth, x, y)];
        return (p.x - q.x) ** 2 + (p.y - q.y) ** 2;
      });
    });
    return Math.sqrt(mean(off)) < THE_SAME;
  });
}

/** The layer of a clip that passes behind a post. */
const WALKER = 1;

/** How far each mover that is what passes behind a post is off after it, by its motion since it was seen first, in pixels. */
function walkerOf(found: AnalysedScene, clip: SceneClip): number[] {
  const truth = clip.layers[WALKER].motion;
  return found.movers.flatMap((_, m) => {
    const motion = found.motions[m];
    if (!motion || shareOn(found, m, clip, [WALKER]) < MOSTLY) return [];
    const seen = motion.support.flatMap((s, f) => (s === 'full' ? [f] : []));
    const home = { x: 150, y: 340 };
    const off = (f: number) => {
      const at = apply(truth[seen[0]], home.x, home.y);
      const there = apply(
        multiply(motionMatrix(motion, f), invert(motionMatrix(motion, seen[0]))),
        at.x,
        at.y,
      );
      const right = apply(truth[f], home.x, home.y);
      return Math.hypot(there.x - right.x, there.y - right.y);
    };
    return [Math.max(...seen.filter((f) => f > clip.frames / 2).map(off))];
  });
}

/** The share of a mover's tracks that are on some layers, by where they begin. */
function shareOn(
  { tracks, moverOf }: AnalysedScene,
  mover: number,
  { layers }: SceneClip,
  wanted: readonly number[],
): number {
  let [right, all] = [0, 0];
  moverOf.forEach((m, k) => {
    if (m !== mover) return;
    const at = tracks.first[k];
    const frame = tracks.start[k];
    let on = 0;
    layers.forEach((layer, l) => layer.covers?.(tracks.x[at], tracks.y[at], frame) && (on = l));
    all++;
    if (wanted.includes(on)) right++;
  });
  return all > 0 ? right / all : 0;
}

/** What is left at the first and last rows of pictures that are read out in 25 ms, with the rows as they are and put straight. */
async function rows(show: Show): Promise<void> {
  for (const seed of SEEDS) {
    const clip = await sceneClip('rolling', seed);
    const found = analysed(await planesOf(clip.file));
    const { readout } = found;
    const left = (['similarity', 'lean', 'rows'] as const).map((how) => {
      const request = {
        ...{ size: found.size, frames: clip.frames, pixelAspect: 1, fps: 30, spots: [], held: '', ref: 0 },
        ...{ from: 0, to: clip.frames - 1, goal: NEW_GOAL, rowByRow: how === 'rows' },
        framing: { ...NEW_FRAMING, mode: 'none', delivery: null },
      } satisfies ShotRequest;
      // How rows shear a picture as a whole is a lean, too: a similarity knows of neither.
      const plan = how === 'similarity' ? planFrom(found.motions[0]!, request) : planFor(request, found)!;
      // About their own mean: frame 0 is sheared, too.
      const errors: number[] = [];
      for (const y of [2, HEIGHT - 2]) {
        for (const x of [20, WIDTH / 2, WIDTH - 20]) {
          const at = Array.from({ length: clip.frames }, (_, f) =>
            steadiedPlace(plan, f, clip.seen!(x, y, f)),
          );
          const [mx, my] = [mean(at.map((p) => p.x)), mean(at.map((p) => p.y))];
          errors.push(...at.map((p) => Math.hypot(p.x - mx, p.y - my)));
        }
      }
      return Math.sqrt(mean(errors.map((e) => e * e)));
    });
    const told = readout ? `${((1000 / 30) * readout.share).toFixed(1)} ms found of 25` : 'not found';
    show(
      `rows read out in 25 ms, seed ${seed} (${told}): left at their ends, straight / as they are (${left[2].toFixed(3)} / ${left[0].toFixed(3)} px; by leaning alone ${left[1].toFixed(3)})`,
      (left[2] / left[0]).toFixed(3),
      '<= 0.2',
    );
  }
}

const mean = (values: readonly number[]) => values.reduce((s, v) => s + v, 0) / values.length;

/** Still by the program's own four suggestions, as a new user would: placed, tracked to the end, solved. */
async function bySuggestions(
  found: AnalysedScene,
  planes: readonly Plane[],
  clip: SceneClip,
): Promise<number> {
  const motion = (await solvedBySuggestions(found, planes, clip))!;
  return leftOf(
    motion.parts.map((_, f) => motionMatrix(motion, f)),
    clip,
  );
}

async function solvedBySuggestions(found: AnalysedScene, planes: readonly Plane[], clip: SceneClip) {
  const settings = defaultSettings(HEIGHT);
  const places = rehearsed(found, {
    ...{ frame: 0, from: 0, to: clip.frames - 1, mover: 0, count: 4, within: null, taken: [] },
    patch: Math.max(...settings.patch),
  });
  const spots = places.map(({ x, y }, i) => {
    const pin = { frame: 0, x, y, confidence: 1, state: 'pinned' as const };
    const track = withSamples(EMPTY_TRACK, [pin]);
    return { id: String(i), name: String(i), mover: '', joins: [], settings, track };
  });
  const tracks = new Map<string, Track>(spots.map((s) => [s.id, s.track]));
  for await (const step of trackSpots(new InMemory(planes), { spots, from: 0, to: clip.frames - 1 }))
    for (const { id, sample } of step.samples) tracks.set(id, withSamples(tracks.get(id)!, [sample]));
  return solveMotion({ frames: clip.frames, ref: 0, spots: asSpots([...tracks.values()]) });
}

/** What a general-purpose library leaves, chained from frame to frame; null where it is not installed. */
async function peer(clip: SceneClip, folder: string): Promise<number | null> {
  if (!existsSync(PEER)) return null;
  const out = join(folder, 'peer.json');
  try {
    await run(PYTHON, [PEER, 'whole', clip.file, out]);
  } catch {
    return null;
  }
  const chained = JSON.parse(await readFile(out, 'utf8')) as Matrix3[];
  const starts = [0, ...clip.cuts];
  // As ours, each part against its own first frame.
  const motion = chained.map((m, f) => {
    const back = invert(chained[starts.filter((s) => s <= f).pop()!]);
    return multiply(m, back);
  });
  return leftOf(motion, clip);
}

async function speed(show: Show, folder: string): Promise<void> {
  const clip = await speedClip(1920, 1080, 120);
  const planes = await planesOf(clip.file);
  const own: number[] = [];
  for (let round = 0; round < 3; round++) {
    const before = process.cpuUsage();
    analysed(
      planes.map((p) => halvedPlane(p, 1)),
      2,
    );
    const { user, system } = process.cpuUsage(before);
    own.push((user + system) / 1000 / planes.length);
  }
  const ms = median(own);
  const other = existsSync(PEER)
    ? await run(PYTHON, [PEER, 'whole', clip.file]).then(
        ({ stdout }) =>
          (JSON.parse(stdout.trim().split('\n').pop()!) as { ms_per_frame: number }).ms_per_frame,
        () => null,
      )
    : null;
  if (other === null)
    show('1080p: analysis of a frame (native OpenCV is not here)', `${ms.toFixed(1)} ms`, '-');
  else
    show(
      `1080p: analysis of a frame / native OpenCV (${ms.toFixed(1)} / ${other.toFixed(1)} ms)`,
      (ms / other).toFixed(2),
      '<= 0.7',
    );
  const large = await speedClip(1920, 1080, 300);
  const ratios: number[] = [];
  readyToIngest();
  await new Promise((ready) => setTimeout(ready, 2000));
  for (let round = 0; round < 3; round++) {
    let begin = performance.now();
    await run(await ffmpegPath(), ['-v', 'error', '-i', large.file, '-f', 'null', '-']);
    const bare = performance.now() - begin;
    begin = performance.now();
    await ingestInThread({ path: large.file, name: 'clip', folder }).result;
    ratios.push((performance.now() - begin) / bare);
  }
  show('reading with analysis / a bare decode, 1080p, 10 s', median(ratios).toFixed(2), '<= 2');
}
