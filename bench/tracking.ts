import { apply, type Point } from '@lurn/core/geometry';
import { Pyramid, type Plane } from '@lurn/core/picture';
import {
  defaultSettings,
  EMPTY_TRACK,
  readGrip,
  SEARCH_LEVELS,
  suggestSpots,
  samplesOf,
  trackBetween,
  trackSpots,
  withoutSamples,
  withSamples,
  type FrameSource,
  type SpotToTrack,
  type Track,
} from '@lurn/core/track';
import { FileFrames, indexClip } from '@lurn/engine';
import { readTruth, rms, STATION } from './accuracy.js';
import { FRAMES, goodPlaces, HEIGHT, InMemory, KINDS, makeUp, WIDTH } from './made-up.js';
import { openLibrary, opticalFlow } from './optical-flow.js';

/**
 * The tracker on made-up footage of several textures and on the gondola, against exact truth; and its cost beside
 * that of a general-purpose library.
 */

export type Show = (name: string, value: string, wanted: string) => void;

const GONDOLA = 'demo/shots/gondola.mp4';
/** Surfaces that the confidence was not fitted on. */
const TEXTURES = ['other speckle', 'other signs', 'other masonry'];

function spotAt({ x, y }: Point, id: string, height: number): SpotToTrack {
  const track = withSamples(EMPTY_TRACK, [{ frame: 0, x, y, confidence: 1, state: 'pinned' }]);
  return { id, name: id, mover: id, joins: [], settings: defaultSettings(height), track };
}

async function follow(
  source: FrameSource,
  spots: readonly SpotToTrack[],
  to: number,
): Promise<Map<string, Track>> {
  const tracks = new Map(spots.map((s) => [s.id, s.track]));
  for await (const step of trackSpots(source, { spots, from: 0, to })) {
    for (const { id, sample } of step.samples) tracks.set(id, withSamples(tracks.get(id)!, [sample]));
    for (const { id, since, frame } of step.stopped)
      tracks.set(id, withoutSamples(tracks.get(id)!, since, frame));
  }
  return tracks;
}

export async function tracking(show: Show, part?: string): Promise<void> {
  if (part === 'gondola') return gondola(show);
  if (part === 'speed') return besideTheLibrary(show);
  if (part === 'pins') return betweenPins(show);
  if (part && !(part in KINDS)) throw new Error(`There is no ${part} footage.`);
  let [sureInAll, rightInAll] = [0, 0];
  for (const kind of part ? [part] : Object.keys(KINDS)) {
    const errors: number[] = [];
    const [middle, end]: [number[], number[]] = [[], []];
    let [sure, right, lost, count] = [0, 0, 0, 0];
    for (const texture of TEXTURES) {
      const shot = await makeUp(texture, kind);
      const clean = await makeUp(texture, 'clean');
      const places = goodPlaces(clean.planes[0], 8).filter(
        (p) =>
          (!KINDS[kind].bar || p.x > 90) &&
          (!KINDS[kind].grow || Math.hypot(p.x - WIDTH / 2, p.y - HEIGHT / 2) < 80),
      );
      const tracks = await follow(
        new InMemory(shot.planes),
        places.map((p, i) => spotAt(p, String(i), 720)),
        FRAMES - 1,
      );
      places.forEach((place, i) => {
        const samples = [...samplesOf(tracks.get(String(i))!)].filter((s) => s.state === 'tracked');
        count++;
        if (samples[samples.length - 1]?.frame !== FRAMES - 1) lost++;
        for (const s of samples) {
          const truth = shot.truth(place, s.frame);
          const error = Math.hypot(s.x - truth.x, s.y - truth.y);
          errors.push(error);
          if (s.frame > 60 && s.frame <= 90) middle.push(error);
          if (s.frame > 120) end.push(error);
          if (s.confidence < 0.9) continue;
          sure++;
          if (error <= 0.3) right++;
        }
      });
    }
    const wanted = kind === 'clean' || kind === 'moderate' ? '<= 0.05' : kind === 'heavy' ? '<= 0.25' : '-';
    sureInAll += sure;
    rightInAll += right;
    const within = sure > 0 ? ((100 * right) / sure).toFixed(1) : '-';
    show(
      `made up, ${kind}: error (middle ${rms(middle).toFixed(3)}, end ${rms(end).toFixed(3)})`,
      `${rms(errors).toFixed(3)} px`,
      wanted,
    );
    show(
      `made up, ${kind}: lost; sure samples within 0.3 px`,
      `${lost} of ${count}; ${within} %`,
      '< 5 %; >= 95 %',
    );
  }
  show(
    'confidence >= 0.9 within 0.3 px, all kinds',
    `${((100 * rightInAll) / sureInAll).toFixed(2)} %`,
    '>= 95 %',
  );
  if (part) return;
  await betweenPins(show);
  await gondola(show);
  await besideTheLibrary(show);
}

/** Two pins 60 frames apart, a post in front for fifteen or so frames between. */
async function betweenPins(show: Show): Promise<void> {
  for (const texture of TEXTURES) {
    const shot = await makeUp(texture, 'hidden');
    const [place] = goodPlaces((await makeUp(texture, 'clean')).planes[0], 8).filter(
      (p) => p.x > 120 && p.x < 240,
    );
    const at = (frame: number) => ({
      frame,
      ...shot.truth(place, frame),
      confidence: 1,
      state: 'pinned' as const,
    });
    const hiddenAt = shot.planes.findIndex((_, f) => shot.hidden(place, f, -8));
    const [a, b] = [hiddenAt - 26, hiddenAt + 34];
    const spot = { ...spotAt(place, 'pin', 720), track: withSamples(EMPTY_TRACK, [at(a), at(b)]) };
    const { samples, unseen } = await trackBetween(new InMemory(shot.planes), spot, a, b);
    const seen = samples.filter((s) => !shot.hidden(place, s.frame, 18));
    const errors = seen.map((s) => Math.hypot(s.x - at(s.frame).x, s.y - at(s.frame).y));
    show(
      `two pins over 60 frames, ${texture}, ${unseen} unseen: worst visible`,
      `${Math.max(...errors).toFixed(3)} px`,
      '<= 0.3',
    );
  }
}

/** Found again after the pylon, without a hand. */
async function gondola(show: Show): Promise<void> {
  const clip = await indexClip(GONDOLA);
  const truth = readTruth(GONDOLA);
  const frames = new FileFrames(GONDOLA, clip.info);
  const features = truth.features.filter((f) => f.on === 'gondola');
  const spots = features.map((f) => {
    const [x, y] = f.positions[0];
    return { ...spotAt({ x, y }, f.name, clip.info.height), group: 'gondola' };
  });
  const tracks = await follow(frames, spots, clip.info.frames - 1);
  frames.close();
  for (const { name, positions } of features) {
    const samples = [...samplesOf(tracks.get(name)!)];
    const coasted = samples.filter((s) => s.state === 'coasted').map((s) => s.frame);
    const error = (list: typeof samples) =>
      rms(
        list
          .filter((s) => s.state === 'tracked')
          .map((s) => Math.hypot(s.x - positions[s.frame][0], s.y - positions[s.frame][1])),
      );
    const last = coasted[coasted.length - 1];
    // In scene coordinates the pylon stands from 470 to 622; the patch is clear of it, blur included, beyond that.
    const clear = (f: number) => {
      const [x, y] = positions[f];
      const half = defaultSettings(clip.info.height).patch[0] + 2;
      const edges = [470, 622].map((px) => apply(truth.motion.pylon[f], px, y).x);
      return x + half < edges[0] || x - half > edges[1];
    };
    let reappeared = last;
    while (reappeared > 0 && clear(reappeared)) reappeared--;
    while (!clear(reappeared)) reappeared++;
    const late = last + 1 - reappeared;
    const after = samples.filter((s) => s.frame > last);
    show(
      `gondola, ${name}: coasted ${coasted[0]}-${last}, found ${late} frames after it is clear; error before, after`,
      `${error(samples.filter((s) => s.frame < coasted[0])).toFixed(2)}, ${error(after).toFixed(2)} px`,
      '<= 2 frames',
    );
  }
}

/** Time a spot and frame, decoding excluded, and error, side by side. */
async function besideTheLibrary(show: Show): Promise<void> {
  const { cv } = await openLibrary();
  const clip = await indexClip(STATION);
  const truth = readTruth(STATION);
  const frames = new FileFrames(STATION, clip.info);
  const planes: Plane[] = [];
  for (let f = 0; f < 100; f++) planes.push(await frames.luma(f));
  frames.close();
  const corners = truth.features.filter((f) => f.on === 'station');
  const first = new Pyramid(planes[0], SEARCH_LEVELS);
  const { patch, reach } = defaultSettings(720);
  const many = suggestSpots(first, { count: 24, patch: [11, 11], reach, within: null, taken: [] }, 2);
  const held = many.filter((p) => readGrip(first, p, patch, null, 2).error < 0.3);
  const sets: [string, Point[], ((i: number, f: number) => Point) | null][] = [
    ['1 spot', [{ x: corners[0].positions[0][0], y: corners[0].positions[0][1] }], at(corners)],
    [
      `${corners.length} spots`,
      corners.map((c) => ({ x: c.positions[0][0], y: c.positions[0][1] })),
      at(corners),
    ],
    [`${held.length} spots`, held.map(({ x, y }) => ({ x, y })), null],
  ];
  for (const [name, starts, truthAt] of sets) {
    const ratios: number[] = [];
    let [ours, theirs] = [NaN, NaN];
    for (let round = 0; round < 5; round++) {
      const flow = opticalFlow(cv, planes, starts);
      const spots = starts.map((p, i) => ({ ...spotAt(p, String(i), 720), group: '' }));
      const begin = performance.now();
      const tracks = await follow(new InMemory(planes), spots, planes.length - 1);
      const ms = performance.now() - begin;
      ratios.push(ms / flow.ms);
      if (!truthAt) continue;
      const from = (places: (i: number, f: number) => Point | null) =>
        rms(
          starts.flatMap((_, i) =>
            planes.flatMap((_p, f) => {
              const p = places(i, f);
              const q = truthAt(i, f);
              return p ? [Math.hypot(p.x - q.x, p.y - q.y)] : [];
            }),
          ),
        );
      theirs = from((i, f) => flow.places[f][i]);
      const found = starts.map(
        (_, i) => new Map([...samplesOf(tracks.get(String(i))!)].map((s) => [s.frame, s])),
      );
      ours = from((i, f) => found[i].get(f) ?? null);
    }
    ratios.sort((p, q) => p - q);
    show(
      `time a spot and frame / OpenCV, ${name}; errors ${ours.toFixed(3)} / ${theirs.toFixed(3)} px`,
      ratios[2].toFixed(2),
      '<= 1.5',
    );
  }
}

const at = (corners: readonly { positions: [number, number][] }[]) => (i: number, f: number) => ({
  x: corners[i].positions[f][0],
  y: corners[i].positions[f][1],
});
