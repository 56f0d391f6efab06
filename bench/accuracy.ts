import { readFileSync } from 'node:fs';
import { sceneOf } from '@lurn/core/compose';
import { apply, multiply, type Matrix3 } from '@lurn/core/geometry';
import { pictureInSource, planFor, type Plan, type PlanSpot } from '@lurn/core/plan';
import {
  defaultSettings,
  EMPTY_TRACK,
  samplesOf,
  trackSpots,
  withSamples,
  type Track,
} from '@lurn/core/track';
import { FileFrames, formatById, render, type IndexedClip } from '@lurn/engine';
import { NEW_EDGES, NEW_FRAMING, NEW_GOAL, plainLook } from '@lurn/model';
import { strayOf } from './registration.js';

export interface Truth {
  readonly motion: Record<string, Matrix3[]>;
  /** The same without the shake, where a move was meant. */
  readonly meant?: Record<string, Matrix3[]>;
  readonly features: { name: string; on: string; positions: [number, number][] }[];
}

export const STATION = 'demo/shots/station.mp4';

export function readTruth(file: string): Truth {
  return JSON.parse(readFileSync(file.replace(/mp4$/, 'truth.json'), 'utf8')) as Truth;
}

export const rms = (values: readonly number[]) =>
  Math.sqrt(values.reduce((s, v) => s + v * v, 0) / values.length);

export async function track(
  file: string,
  clip: IndexedClip,
  places: readonly [number, number][],
): Promise<Track[]> {
  const tracks = places.map(([x, y]) =>
    withSamples(EMPTY_TRACK, [{ frame: 0, x, y, confidence: 1, state: 'pinned' }]),
  );
  const spots = tracks.map((t, i) => ({
    id: String(i),
    name: String(i),
    mover: '',
    joins: [],
    settings: defaultSettings(clip.info.height),
    track: t,
  }));
  const luma = new FileFrames(file, clip.info);
  for await (const step of trackSpots(luma, { spots, from: 0, to: clip.info.frames - 1 })) {
    for (const { id, sample } of step.samples) tracks[Number(id)] = withSamples(tracks[Number(id)], [sample]);
  }
  luma.close();
  return tracks;
}

/** Root mean square distance between samples and truth, per feature on the building. */
export async function trackingErrors(clip: IndexedClip, truth: Truth): Promise<Record<string, number>> {
  const features = truth.features.filter((f) => f.on === 'station');
  const tracks = await track(
    STATION,
    clip,
    features.map((f) => f.positions[0]),
  );
  const entries = features.map((f, i) => {
    const errors = [...samplesOf(tracks[i])].map((s) =>
      Math.hypot(s.x - f.positions[s.frame][0], s.y - f.positions[s.frame][1]),
    );
    return [f.name, errors.length === clip.info.frames ? rms(errors) : NaN] as const;
  });
  return Object.fromEntries(entries);
}

/** Tracks of one thing as spots to solve from; their ids are their places in the list. */
export function asSpots(tracks: readonly Track[]): PlanSpot[] {
  return tracks.map((t, i) => ({ id: String(i), name: String(i), mover: '', track: t, role: 'both' }));
}

function stillFrom(clip: IndexedClip, tracks: readonly Track[]): Plan {
  const { width, height, frames, fps } = clip.info;
  const all = {
    ref: 0,
    from: 0,
    to: frames - 1,
    held: '',
    goal: NEW_GOAL,
    framing: { ...NEW_FRAMING, delivery: null },
  };
  return planFor({ ...all, size: { width, height }, frames, fps, pixelAspect: 1, spots: asSpots(tracks) })!;
}

/** Still from two spots: what is left of the building's shake, by the truth and by looking at the rendered file. */
export async function stillLeft(
  clip: IndexedClip,
  truth: Truth,
  out: string,
): Promise<{ byTruth: number; inFile: number; before: number; zoom: number }> {
  const two = ['gable', 'door'].map((name) => truth.features.find((f) => f.name === name)!.positions[0]);
  const plan = stillFrom(clip, await track(STATION, clip, two));
  // Places all over the building, in scene coordinates, none of them tracked.
  const places = [
    [420, 320],
    [660, 200],
    [920, 330],
    [450, 500],
    [690, 450],
    [860, 500],
  ] as const;
  const strays: number[] = [];
  const shaken: number[] = [];
  for (const [x, y] of places) {
    for (const [list, through] of [
      [strays, (f: number) => multiply(pictureInSource(plan, f), truth.motion.station[f])],
      [shaken, (f: number) => truth.motion.station[f]],
    ] as const) {
      const path = truth.motion.station.map((_, f) => apply(through(f), x, y));
      const mean = {
        x: path.reduce((s, p) => s + p.x, 0) / path.length,
        y: path.reduce((s, p) => s + p.y, 0) / path.length,
      };
      list.push(...path.map((p) => Math.hypot(p.x - mean.x, p.y - mean.y)));
    }
  }
  await render({
    source: STATION,
    info: clip.info,
    times: clip.times,
    file: out,
    from: 0,
    to: clip.info.frames - 1,
    scene: (f) => sceneOf(plan, plainLook(NEW_EDGES), f, 0, clip.info.frames - 1),
    format: formatById('h264-mp4'),
    crf: 14,
    delivery: plan.delivery,
  });
  // The same region of the building in the rendered file: where the truth puts it on frame 0, after zoom.
  const first = multiply(pictureInSource(plan, 0), truth.motion.station[0]);
  const blocks = places.map(([x, y]) => apply(first, x, y));
  return {
    byTruth: rms(strays),
    inFile: await strayOf(out, blocks),
    before: rms(shaken),
    zoom: plan.fit.zoom,
  };
}
