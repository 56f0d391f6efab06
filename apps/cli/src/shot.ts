import { createHash } from 'node:crypto';
import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { LurnError } from '@lurn/core';
import type { AnalysedScene } from '@lurn/core/solve';
import { formatFor, LayerRasters, render, type AssetPath, type IndexedClip } from '@lurn/engine';
import {
  ASSETS_FOLDER,
  comparedBy,
  deliveredBy,
  parseShotFile,
  riddenMovers,
  SHOT_JSON,
  solvedSpots,
  solvedSurfaces,
  isHash,
  isOfShot,
  type ShotState,
} from '@lurn/model';
import { strFromU8, unzipSync } from 'fflate';
import type { ShotArguments } from './arguments/index.js';
import { checkOutputs } from './files.js';
import { openClip } from './inputs.js';
import { openScene } from './scene.js';
import { progressLine, type Surroundings } from './surroundings.js';

/** `lurn steady CLIP --shot`: what an editor made of a clip, rendered. */
export async function shotCommand(args: ShotArguments, io: Surroundings): Promise<object> {
  await checkOutputs({ clip: args.clip, shot: args.shot }, { '--out': args.out });
  const clip = await openClip(args.clip, io.signal);
  const file = await openShot(args.shot);
  try {
    const read = parseShotFile(file.text, clip.info);
    const state = withPicture(read, args);
    return await renderShot(state, file.assets, clip, args, io);
  } finally {
    await file.close();
  }
}

async function renderShot(
  state: ShotState,
  assets: AssetPath,
  { info, times }: IndexedClip,
  args: ShotArguments,
  io: Surroundings,
): Promise<object> {
  const { document } = state;
  const [delivery] = document.deliveries;
  const scene: AnalysedScene | null = needsScene(state) ? (await openScene(args.clip, io)).scene : null;
  const delivered = deliveredBy(state, info, scene);
  if (!delivered) throw new LurnError('no-samples', 'There is no sample to solve the motion from.');
  const rasters = await LayerRasters.open(delivered.rasters, assets);
  for (const source of delivered.rasters) {
    if (!('hash' in source) || rasters.has(source.key)) continue;
    const name = document.assets.find((a) => a.hash === source.hash)?.name ?? source.hash;
    throw new LurnError(
      'missing-file',
      `The file "${name}" of a layer is not with ${args.shot}: it should be ${ASSETS_FOLDER}${source.hash}.`,
    );
  }
  const { from, to } = document.range;
  const edges = delivery.picture === 'steadied' ? document.edges.mode : 'colour';
  await render({
    ...{ source: resolve(args.clip), info, times, file: resolve(args.out), from, to, rasters },
    delivery: delivered.size,
    scene: (frame) => delivered.scenes[frame - from],
    format: formatFor(args.format ?? delivery.format, edges, !delivery.base),
    crf: args.crf ?? delivery.settings.crf,
    compare: comparedBy(delivery),
    work: `${resolve(args.out)} parts`,
    order: JSON.stringify([state, args.format, args.crf]),
    signal: io.signal,
    onProgress: progressLine(io, 'Rendering'),
  });
  const names = document.layers.filter((l) => l.shown).map((l) => l.name);
  return { out: args.out, picture: delivery.picture, zoom: delivered.zoom, layers: names };
}

/** The picture that was asked for in place of the one that the shot delivers. */
function withPicture(state: ShotState, { picture, alone }: ShotArguments): ShotState {
  const [first, ...rest] = state.document.deliveries;
  const delivery = { ...first, ...(picture && { picture }), ...(alone && { base: false }) };
  return { ...state, document: { ...state.document, deliveries: [delivery, ...rest] } };
}

/** What is held, or ridden on, is told by nothing that is marked. */
function needsScene(state: ShotState): boolean {
  const { deliveries, trackers } = state.document;
  const told = solvedSpots(state).length + solvedSurfaces(state).length > 0;
  const ridden = riddenMovers(state.document).some((id) => !trackers.some((t) => t.mover === id));
  return ridden || (!told && deliveries[0].picture === 'steadied');
}

interface OpenShot {
  readonly text: string;
  readonly assets: AssetPath;
  readonly close: () => Promise<void>;
}

/** A shot's file: the zip with all of it, or SHOT.json with the folder of assets beside it. @throws LurnError */
async function openShot(path: string): Promise<OpenShot> {
  const bytes = await readFile(path).catch((error: NodeJS.ErrnoException) => {
    const why = error.code === 'ENOENT' ? 'it is not there' : error.message;
    throw new LurnError('missing-file', `${path} cannot be read: ${why}.`);
  });
  const isZip = bytes[0] === 0x50 && bytes[1] === 0x4b;
  if (!isZip) {
    const folder = join(dirname(resolve(path)), ASSETS_FOLDER);
    const assets = async (hash: string) => {
      const file = join(folder, hash);
      if (!(await stat(file).catch(() => null))?.isFile()) return null;
      demandContent(hash, await readFile(file));
      return file;
    };
    return { text: bytes.toString('utf8'), assets, close: async () => undefined };
  }
  return unzipped(path, bytes);
}

/** @throws LurnError `bad-shot-file` where a file of a layer is another than its hash says */
function demandContent(hash: string, bytes: Uint8Array): void {
  if (createHash('sha256').update(bytes).digest('hex') === hash) return;
  throw new LurnError('bad-shot-file', `${ASSETS_FOLDER}${hash} is another file than its name says: its SHA-256 differs.`); // prettier-ignore
}

async function unzipped(path: string, bytes: Buffer): Promise<OpenShot> {
  let files: Record<string, Uint8Array>;
  try {
    // Only what belongs to a shot is unpacked, and no more of it than a shot has.
    files = unzipSync(bytes, { filter: ({ name, originalSize }) => isOfShot(name, originalSize) });
  } catch (error) {
    if (error instanceof LurnError) throw error;
    throw new LurnError('bad-shot-file', `${path} is a broken zip. Save the shot as a file again.`);
  }
  if (!files[SHOT_JSON]) throw new LurnError('bad-shot-file', `${path} has no ${SHOT_JSON} in it.`);
  const folder = await mkdtemp(join(tmpdir(), 'lurn-shot-'));
  const assets = async (hash: string) => {
    // By its hash alone: names in the zip lead nowhere else.
    const file = isHash(hash) ? files[ASSETS_FOLDER + hash] : undefined;
    if (!file) return null;
    demandContent(hash, file);
    const place = join(folder, hash);
    await writeFile(place, file);
    return place;
  };
  const close = () => rm(folder, { recursive: true, force: true });
  return { text: strFromU8(files[SHOT_JSON]), assets, close };
}
