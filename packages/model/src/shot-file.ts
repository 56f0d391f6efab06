import { LurnError } from '@lurn/core';
import { fromJson, toJson, type MeasuredJson } from '@lurn/core/formats';
import { measuredEnd, type Measured } from '@lurn/core/track';
import type { ClipInfo } from './clip.js';
import type { ShotState } from './document.js';
import { isHash } from './checks.js';
import { LIMITS } from './limits.js';
import { parseDocument } from './parse.js';

/**
 * A shot as a file that other programs may read and write: SHOT.json tells the document and what was measured; the files
 * that its layers show lie beside it in `assets/`, each named by its hash. All of it goes in one zip.
 */

export const SHOT_JSON = 'SHOT.json';
export const ASSETS_FOLDER = 'assets/';

/** The present shape of SHOT.json. The document in it has a version of its own. */
const VERSION = 1;

/** Bytes that SHOT.json, and a file of a layer, have at the most. */
const [MOST_TEXT, MOST_ASSET] = [200e6, LIMITS.assetBytes];

/**
 * Whether an entry of a zip belongs to a shot: others are left where they are.
 *
 * @throws LurnError `bad-shot-file` where it says that it is larger than such files are
 */
export function isOfShot(name: string, bytes: number): boolean {
  const isAsset = name.startsWith(ASSETS_FOLDER) && isHash(name.slice(ASSETS_FOLDER.length));
  if (name !== SHOT_JSON && !isAsset) return false;
  const most = isAsset ? MOST_ASSET : MOST_TEXT;
  if (bytes > most)
    throw bad(`${name} would have ${Math.round(bytes / 1e6)} MB, and ${most / 1e6} MB are the most`);
  return true;
}

/** The text of SHOT.json. */
export function shotFile(state: ShotState, name: string, info: ClipInfo): string {
  const { width, height, frames, fps } = info;
  const measured = Object.fromEntries(Object.entries(state.measured).map(([id, m]) => [id, toJson(m)]));
  const file = { lurn: 'shot', version: VERSION, clip: { name, width, height, frames, fps } };
  return `${JSON.stringify({ ...file, document: state.document, measured })}\n`;
}

/**
 * Reads SHOT.json for a clip.
 *
 * @param clip  that it is to be used with: of the size and length that it was made for
 * @throws LurnError `bad-shot-file` that says what is wrong, `bad-document`, `bad-track`
 */
export function parseShotFile(text: string, clip: Pick<ClipInfo, 'width' | 'height' | 'frames'>): ShotState {
  const file = parsed(text);
  if (file.lurn !== 'shot') throw bad('it does not say that it is a shot ("lurn": "shot")');
  if (file.version !== VERSION)
    throw bad(`it is of version ${String(file.version)}, and version ${VERSION} is what is read here`);
  const made = (file.clip ?? {}) as Partial<ClipInfo>;
  for (const [key, word] of [
    ['width', 'pixels wide'],
    ['height', 'pixels high'],
    ['frames', 'frames long'],
  ] as const) {
    if (made[key] !== clip[key])
      throw bad(`it was made for a clip ${made[key] ?? '?'} ${word}, and this one is ${clip[key]}`);
  }
  const document = parseDocument(file.document, clip);
  const ids = new Set(document.trackers.map((t) => t.id));
  const measured: Record<string, Measured> = {};
  for (const [id, columns] of Object.entries((file.measured ?? {}) as Record<string, MeasuredJson>)) {
    if (!ids.has(id)) continue;
    const read = columnsOf(id, columns);
    if (measuredEnd(read) > clip.frames) throw bad(`what was measured of "${id}" goes past the clip's end`);
    measured[id] = read;
  }
  return { document, measured };
}

function columnsOf(id: string, columns: MeasuredJson): Measured {
  try {
    return fromJson(columns);
  } catch (error) {
    if (error instanceof LurnError) throw error;
    throw bad(`what was measured of "${id}" is not in columns`);
  }
}

function parsed(text: string): Record<string, unknown> {
  try {
    const value: unknown = JSON.parse(text);
    if (typeof value === 'object' && value !== null && !Array.isArray(value))
      return value as Record<string, unknown>;
  } catch {
    // Told below, like JSON of another shape.
  }
  throw bad('it is not JSON');
}

function bad(why: string): LurnError {
  return new LurnError('bad-shot-file', `The shot's file cannot be used: ${why}.`);
}
