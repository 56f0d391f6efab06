import { readFile } from 'node:fs/promises';
import { LurnError, parseSpots, parseTracks, type NamedTrack, type SpotEntry } from '@lurn/core';
import { indexClip, type IndexedClip } from '@lurn/engine';

export function openClip(path: string, signal: AbortSignal): Promise<IndexedClip> {
  return indexClip(path, { signal });
}

export async function openSpots(path: string, { info }: IndexedClip): Promise<SpotEntry[]> {
  return parseSpots(await readText(path), info, info.frames);
}

export async function openTracks(path: string, { info }: IndexedClip): Promise<NamedTrack[]> {
  return parseTracks(await readText(path), info.frames);
}

function readText(path: string): Promise<string> {
  return readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
    throw new LurnError(
      'missing-file',
      `${path} cannot be read: ${error.code === 'ENOENT' ? 'it is not there' : error.message}.`,
    );
  });
}
