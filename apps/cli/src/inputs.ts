import { resolve } from 'node:path';
import { parseTracks, type NamedTrack } from '@lurn/core/formats';
import { indexClip, type IndexedClip } from '@lurn/engine';
import { parseMarks, type Marks } from '@lurn/model';
import { readText } from './files.js';

export function openClip(path: string, signal: AbortSignal): Promise<IndexedClip> {
  return indexClip(resolve(path), { signal });
}

export async function openMarks(path: string, { info }: IndexedClip): Promise<Marks> {
  return parseMarks(await readText(path), info, info.frames);
}

export async function openTracks(path: string, { info }: IndexedClip): Promise<NamedTrack[]> {
  return parseTracks(await readText(path), info.frames);
}
