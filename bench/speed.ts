import { execFile } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Point } from '@lurn/core/geometry';
import { Pyramid, type Plane } from '@lurn/core/picture';
import {
  defaultSettings,
  EMPTY_TRACK,
  readGrip,
  SEARCH_LEVELS,
  suggestSpots,
  trackSpots,
  withSamples,
  type SpotToTrack,
} from '@lurn/core/track';
import { ffmpegPath, FileFrames, indexClip, ingestInThread, readyToIngest } from '@lurn/engine';
import { rms } from './accuracy.js';
import { InMemory } from './made-up.js';
import { median } from './median.js';
import { followedByPeer } from './peer.js';
import { planesOf } from './planes.js';
import { anHour } from './speed-hour.js';
import { asPhonesFilm, repeated, speedClip, type SpeedClip } from './speed-clips.js';
import { onThePage } from './speed-page.js';
import type { Show } from './tracking.js';

/**
 * Speed at the sizes people work in, as ratios within this run: `npm run bench -- speed [spots|reading|render|page|hour|long]`.
 * Processor time where threads could hide it, wall time else; medians of a few rounds, the two sides in turn.
 */

const run = promisify(execFile);
const ROUNDS = 3;

export async function speed(show: Show, part?: string): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-bench-'));
  try {
    if (!part || part === 'spots') await spots(show, folder);
    if (!part || part === 'reading') await reading(show, folder);
    if (!part || part === 'render') await rendering(show, folder);
    if (!part || part === 'page') await onThePage(show, folder);
    if (!part || part === 'hour') await anHour(show, folder);
    if (part === 'long') await longReading(show, folder);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

const seconds = async (work: () => Promise<unknown>) => {
  const begin = performance.now();
  await work();
  return (performance.now() - begin) / 1000;
};
const tool = async (...args: string[]) => run(await ffmpegPath(), ['-y', '-v', 'error', ...args]);

function spotAt({ x, y }: Point, id: string, height: number): SpotToTrack {
  const track = withSamples(EMPTY_TRACK, [{ frame: 0, x, y, confidence: 1, state: 'pinned' }]);
  const settings = { ...defaultSettings(height), patch: [15, 15] as const };
  return { id, name: id, mover: 'wall', joins: [], settings, track };
}

/** Microseconds of processor time a spot and frame, and the errors. */
async function follow(planes: readonly Plane[], clip: SpeedClip, starts: readonly Point[]) {
  const errors: number[] = [];
  const before = process.cpuUsage();
  const all = starts.map((p, i) => spotAt(p, String(i), clip.height));
  for await (const step of trackSpots(new InMemory(planes), { spots: all, from: 0, to: planes.length - 1 })) {
    for (const { id, sample } of step.samples) {
      const truth = clip.truth(starts[Number(id)], sample.frame);
      errors.push(Math.hypot(sample.x - truth.x, sample.y - truth.y));
    }
  }
  const { user, system } = process.cpuUsage(before);
  return { us: (user + system) / starts.length / (planes.length - 1), errors };
}

async function peer(clip: SpeedClip, starts: readonly Point[], folder: string) {
  const followed = await followedByPeer(clip.file, starts, folder);
  if (!followed) return null;
  const errors = followed.places.map(({ point, frame, at }) => {
    const truth = clip.truth(starts[point], frame);
    return Math.hypot(at.x - truth.x, at.y - truth.y);
  });
  return { us: followed.us, errors };
}

async function spots(show: Show, folder: string): Promise<void> {
  for (const [width, height] of [
    [960, 540],
    [1920, 1080],
  ]) {
    const clip = await speedClip(width, height, 120);
    const planes = await planesOf(clip.file);
    const first = new Pyramid(planes[0], SEARCH_LEVELS);
    const { reach } = defaultSettings(height);
    const many = suggestSpots(first, { count: 90, patch: [11, 11], reach, within: null, taken: [] }, 2);
    const starts = many.filter((p) => readGrip(first, p, [15, 15], null, 2).error < 0.3).slice(0, 64);
    const few = starts.slice(0, 8);
    const ours: number[][] = [[], []];
    const theirs: number[][] = [[], []];
    const errors: [number, number] = [NaN, NaN];
    await follow(planes, clip, starts); // compiles what is compiled on the way
    for (let round = 0; round < ROUNDS; round++) {
      for (const [k, set] of [few, starts].entries()) {
        const own = await follow(planes, clip, set);
        ours[k].push(own.us * set.length);
        if (k === 1) errors[0] = rms(own.errors);
        const other = await peer(clip, set, folder);
        if (!other) continue;
        theirs[k].push(other.us * set.length);
        if (k === 1) errors[1] = rms(other.errors);
      }
    }
    const name = `${height}p, ${starts.length} spots`;
    const frame = ours.map(median);
    const each = (frame[1] - frame[0]) / (starts.length - few.length);
    if (theirs[0].length === 0) {
      show(`${name}: a further spot and frame (native OpenCV is not here)`, `${each.toFixed(0)} us`, '-');
      continue;
    }
    const other = theirs.map(median);
    const beside = (other[1] - other[0]) / (starts.length - few.length);
    show(
      `${name}: a further spot and frame / native OpenCV (${each.toFixed(0)} / ${beside.toFixed(0)} us)`,
      (each / beside).toFixed(2),
      '<= 1.5',
    );
    show(`${name}: all of a frame / native OpenCV`, (frame[1] / other[1]).toFixed(2), '-');
    show(`${name}: error, native OpenCV's`, `${errors[0].toFixed(3)}, ${errors[1].toFixed(3)} px`, 'lower');
    if (height === 1080) await oneSpot(show, clip, starts[0]);
  }
}

/** One spot with decoding, beside decoding alone in the same place: what the tracker holds a stream up by. */
async function oneSpot(show: Show, clip: SpeedClip, start: Point): Promise<void> {
  const { info } = await indexClip(clip.file);
  const ratios: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    const alone = new FileFrames(clip.file, info);
    const bare = await seconds(async () => {
      for (let f = 0; f < info.frames; f++) await alone.luma(f);
    });
    alone.close();
    const frames = new FileFrames(clip.file, info);
    const request = { spots: [spotAt(start, 'one', clip.height)], from: 0, to: info.frames - 1 };
    const whole = await seconds(async () => {
      for await (const step of trackSpots(frames, request)) void step;
    });
    frames.close();
    ratios.push(whole / bare);
  }
  show('1080p, one spot with decoding / decoding alone, by ffmpeg', median(ratios).toFixed(2), '<= 1.3');
}

async function readRatio(file: string, folder: string, rounds = ROUNDS): Promise<number> {
  const ratios: number[] = [];
  readyToIngest();
  await new Promise((ready) => setTimeout(ready, 2000));
  for (let round = 0; round < rounds; round++) {
    const bare = await seconds(() => tool('-i', file, '-f', 'null', '-'));
    let all: Promise<unknown> = Promise.resolve();
    const ours = await seconds(
      () =>
        new Promise<void>((ready, fail) => {
          const ingest = ingestInThread({ path: file, name: 'clip', folder }, undefined, undefined, () =>
            ready(),
          );
          all = ingest.result;
          all.catch(fail);
        }),
    );
    await all;
    ratios.push(ours / bare);
  }
  return median(ratios);
}

async function reading(show: Show, folder: string): Promise<void> {
  const large = await speedClip(1920, 1080, 300);
  show('reading / a bare decode, 1080p, 10 s', (await readRatio(large.file, folder)).toFixed(2), '<= 1.5');
  const small = await speedClip(960, 540, 150);
  show('reading / a bare decode, 540p, 5 s', (await readRatio(small.file, folder)).toFixed(2), '<= 2.5');
  await phoneReading(show, folder, 2);
}

async function longReading(show: Show, folder: string): Promise<void> {
  const file = await repeated(await speedClip(1280, 720, 300), 60);
  show('reading / a bare decode, 720p, 10 min', (await readRatio(file, folder, 1)).toFixed(2), '<= 1.3');
  await phoneReading(show, folder, 10);
}

/** What the page cannot play: how soon it can be opened, and its copy beside ffmpeg making the same alone. */
async function phoneReading(show: Show, folder: string, minutes: number): Promise<void> {
  const file = await repeated({ file: await asPhonesFilm() }, 6 * minutes);
  const name = `HEVC of ten bits, 1080p, ${minutes} min`;
  readyToIngest();
  await new Promise((ready) => setTimeout(ready, 2000));
  const begun = performance.now();
  let [opened, copied] = [NaN, NaN];
  await ingestInThread(
    { path: file, name: 'clip', folder },
    undefined,
    () => (opened = (performance.now() - begun) / 1000),
    () => (copied = (performance.now() - begun) / 1000),
  ).result;
  const code = ['-pix_fmt', 'yuv420p', '-c:v', 'libx264', '-preset', 'veryfast', '-crf', '10'];
  const groups = ['-g', '12', '-sc_threshold', '0', '-bf', '0'];
  const bare = await seconds(() => tool('-i', file, ...code, ...groups, join(folder, 'bare.mp4')));
  show(`${name}: known, so that it can be opened`, `${opened.toFixed(1)} s`, '<= 5 s');
  show(`${name}: all is there / ffmpeg decoding and encoding the copy`, (copied / bare).toFixed(2), '<= 1.2');
}

async function rendering(show: Show, folder: string): Promise<void> {
  for (const [width, height, frames] of [
    [960, 540, 150],
    [1920, 1080, 120],
    [3840, 2160, 40],
  ]) {
    const { file } = await speedClip(width, height, frames);
    const ratios: number[] = [];
    for (let round = 0; round < ROUNDS; round++) {
      const code = ['-c:v', 'libx264', '-preset', 'medium', '-crf', '18'];
      const bare = await seconds(() => tool('-i', file, ...code, join(folder, 'plain.mp4')));
      const out = join(folder, 'out.mp4');
      const { stdout } = await run('npx', ['tsx', 'bench/render-child.ts', file, out, String(frames)]);
      ratios.push((JSON.parse(stdout) as { seconds: number }).seconds / bare);
    }
    show(`render / a bare transcode, ${height}p`, median(ratios).toFixed(2), '<= 1.25');
  }
}
