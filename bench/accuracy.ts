import { readFileSync } from 'node:fs';
import {
  apply,
  defaultSettings,
  EMPTY_TRACK,
  multiply,
  pictureMatrix,
  samplesOf,
  steady,
  trackSpots,
  withSamples,
  type Matrix3,
  type Steady,
  type Track,
} from '@lurn/core';
import { FileFrames, render, type IndexedClip } from '@lurn/engine';
import { NEW_EDGES, NEW_FRAMING, NEW_GOAL } from '@lurn/model';
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
    group: '',
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

export function planFor(clip: IndexedClip, tracks: readonly Track[]): Steady {
  const { width, height, frames } = clip.info;
  return steady({
    size: { width, height },
    frames,
    pixelAspect: 1,
    tracks,
    ref: 0,
    from: 0,
    to: frames - 1,
    fps: clip.info.fps,
    names: tracks.map((_, i) => String(i)),
    groups: tracks.map(() => ''),
    roles: tracks.map(() => 'both' as const),
    goal: NEW_GOAL,
    framing: NEW_FRAMING,
  })!;
}

/** Still from two spots: what is left of the building's shake, by the truth and by looking at the rendered file. */
export async function stillLeft(
  clip: IndexedClip,
  truth: Truth,
  out: string,
): Promise<{ byTruth: number; inFile: number; before: number; zoom: number }> {
  const two = ['gable', 'door'].map((name) => truth.features.find((f) => f.name === name)!.positions[0]);
  const plan = planFor(clip, await track(STATION, clip, two));
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
      [strays, (f: number) => multiply(pictureMatrix(plan, f), truth.motion.station[f])],
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
    picture: (f) => pictureMatrix(plan, f),
    crf: 14,
    delivery: plan.delivery,
    edges: NEW_EDGES,
    donors: () => [],
  });
  // The same region of the building in the rendered file: where the truth puts it on frame 0, after zoom.
  const first = multiply(pictureMatrix(plan, 0), truth.motion.station[0]);
  const blocks = places.map(([x, y]) => apply(first, x, y));
  return {
    byTruth: rms(strays),
    inFile: await strayOf(out, blocks),
    before: rms(shaken),
    zoom: plan.fit.zoom,
  };
}
