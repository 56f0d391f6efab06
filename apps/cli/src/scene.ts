import { resolve } from 'node:path';
import { LurnError } from '@lurn/core';
import { rehearsed } from '@lurn/core/plan';
import { candidatesOf, reasonsFor, type SceneMover } from '@lurn/core/scene';
import { motionMatrix, type AnalysedScene } from '@lurn/core/solve';
import { defaultSettings } from '@lurn/core/track';
import { readScene, writeMasks } from '@lurn/engine';
import type { MoversArguments, SuggestArguments } from './arguments/index.js';
import { checkOutputs, writeOut } from './files.js';
import { progressLine, type Surroundings } from './surroundings.js';

export async function openScene(path: string, io: Surroundings): ReturnType<typeof readScene> {
  const progress = progressLine(io, 'Looking at the whole picture');
  return readScene(resolve(path), io.signal, (frame, expected) => {
    if (expected > 0) progress(Math.min(frame, expected), expected);
  });
}

/** The place of a mover in the scene's list, by its name or id. @throws LurnError `no-mover` */
export function moverNamed({ movers }: AnalysedScene, name: string): number {
  const found = movers.findIndex((m) => m.name === name || m.id === name);
  if (found >= 0) return found;
  const names = movers.map((m) => `"${m.name}"`).join(', ');
  throw new LurnError('no-mover', `There is no mover "${name}" in this clip. It has ${names}.`);
}

/** `lurn movers`: what moves in a clip, and how. */
export async function moversCommand(args: MoversArguments, io: Surroundings): Promise<object> {
  await checkOutputs({ clip: args.clip }, { '--out': args.out });
  const opened = await openScene(args.clip, io);
  const { scene } = opened;
  if (args.masks) await masksInto(args.masks, args, opened, io);
  const candidates = candidatesOf(scene);
  const movers = scene.movers.map((mover, m) => {
    const { id, name, share, spread, frames, place } = mover;
    const motion = scene.motions[m];
    const told = motion?.support.map((s, f) => (s === 'none' ? null : motionMatrix(motion, f))) ?? [];
    // Of a depth of the place, how far it slides in the picture, shake aside.
    const depth = place && { of_place: true, slide_px: place.slide };
    return {
      id,
      name,
      share,
      spread,
      frames,
      ...depth,
      ...candidate(scene, mover, candidates),
      motion: told,
    };
  });
  const result = { movers, cuts: [...scene.tracks.cuts] };
  if (args.out) await writeOut(args.out, `${JSON.stringify(result)}\n`);
  else if (!args.json) io.out(`${JSON.stringify(result)}\n`);
  return result;
}

/** Writes masks of the movers into a folder, which is made where it is not there. @throws LurnError `bad-range` */
async function masksInto(
  folder: string,
  { clip: file, from, to }: MoversArguments,
  { clip, scene }: Awaited<ReturnType<typeof openScene>>,
  io: Surroundings,
): Promise<void> {
  const last = clip.info.frames - 1;
  const range = { from: from ?? 0, to: to ?? last };
  if (range.from > range.to || range.to > last)
    throw new LurnError(
      'bad-range',
      `Frames ${range.from} to ${range.to} are none of the clip's 0 to ${last}.`,
    );
  const onProgress = progressLine(io, 'Masks');
  await writeMasks(
    { file: resolve(file), clip, scene, ...range, signal: io.signal, onProgress },
    resolve(folder),
  );
}

/** Which place a mover has among those that a person would hold, and why; nothing of one that has none. */
export function candidate({ movers }: AnalysedScene, mover: SceneMover, candidates: readonly SceneMover[]) {
  const place = candidates.indexOf(mover);
  return place < 0 ? null : { candidate: place + 1, why: reasonsFor(mover, movers) };
}

/** `lurn suggest`: marks that have been followed through the clip. */
export async function suggestCommand(args: SuggestArguments, io: Surroundings): Promise<object> {
  await checkOutputs({ clip: args.clip }, { '--out': args.out });
  const { clip, scene } = await openScene(args.clip, io);
  const last = clip.info.frames - 1;
  if (args.frame > last)
    throw new LurnError('bad-range', `--frame ${args.frame} is past the clip's last frame, ${last}.`);
  const [patch] = defaultSettings(clip.info.height).patch;
  const places = rehearsed(scene, {
    ...{ frame: args.frame, from: 0, to: last, mover: 0, count: args.count },
    ...{ within: null, taken: [], patch },
  });
  const rounded = (v: number) => Math.round(v * 100) / 100;
  const spots = places.map(({ x, y }, i) => ({
    ...{ name: `spot ${i + 1}`, frame: args.frame, x: rounded(x), y: rounded(y) },
  }));
  const marks = `${JSON.stringify({ spots }, null, 2)}\n`;
  if (args.out) await writeOut(args.out, marks);
  else if (!args.json) io.out(marks);
  return { spots: spots.map((s, i) => ({ ...s, life: places[i].life, error_px: places[i].error })) };
}
